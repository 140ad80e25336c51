import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { keep, left, type Pending } from "./waiting";

const edit = (id: string): Pending => ({ path: "edits", operation: "remove_stroke", args: { id }, base: 3 });

beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
  sessionStorage.clear();
});
afterEach(() => void vi.useRealTimers());

/** What follows happens in another tab. */
function inAnotherTab(): void {
  sessionStorage.clear();
}

it("gives a reloaded tab back what it had not sent", () => {
  keep(7, [edit("a"), edit("b")]);
  expect(left(7)).toEqual([edit("a"), edit("b")]);
  expect(left(7)).toHaveLength(2); // until it is sent
});

it("keeps nothing once all is sent", () => {
  keep(7, [edit("a")]);
  keep(7, []);
  expect(left(7)).toEqual([]);
  expect(localStorage.length).toBe(0);
});

it("keeps songs apart", () => {
  keep(7, [edit("a")]);
  expect(left(8)).toEqual([]);
  expect(left(71)).toEqual([]);
});

it("takes over what a closed tab left, once", () => {
  keep(7, [edit("a")]);
  inAnotherTab();
  vi.advanceTimersByTime(9000);
  expect(left(7)).toEqual([edit("a")]);
  expect(left(7)).toEqual([]);
});

it("leaves a living tab its own", () => {
  keep(7, [edit("a")]);
  inAnotherTab();
  vi.advanceTimersByTime(2000);
  expect(left(7)).toEqual([]);
  vi.advanceTimersByTime(9000);
  expect(left(7)).toHaveLength(1);
});

it("adds what others left to what is its own", () => {
  keep(7, [edit("a")]);
  inAnotherTab();
  vi.advanceTimersByTime(9000);
  keep(7, [edit("b")]);
  expect(left(7).map((p) => p.args!.id).sort()).toEqual(["a", "b"]);
});
