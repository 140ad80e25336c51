import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { adopt, forgetTab, keep, type Pending } from "./waiting";

const edit = (id: string): Pending => ({ path: "edits", edit: { operation: "remove_stroke", id }, base: 3, key: id });

beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
  sessionStorage.clear();
  forgetTab();
});
afterEach(() => {
  vi.useRealTimers();
  Reflect.deleteProperty(navigator, "locks");
});

/** What follows happens in another tab. */
function inAnotherTab(): void {
  keep("0", []); // the other one no longer says that it lives
  sessionStorage.clear();
  forgetTab();
}

it("gives a reloaded tab back what it had not sent", async () => {
  await adopt("7");
  keep("7", [edit("a"), edit("b")]);
  forgetTab();
  expect(await adopt("7")).toEqual([edit("a"), edit("b")]);
  expect(await adopt("7")).toHaveLength(2); // until it is confirmed
});

it("keeps nothing once all is sent", async () => {
  await adopt("7");
  keep("7", [edit("a")]);
  keep("7", []);
  expect(await adopt("7")).toEqual([]);
  expect(localStorage.length).toBe(0);
});

it("keeps songs apart", async () => {
  await adopt("7");
  keep("7", [edit("a")]);
  expect(await adopt("8")).toEqual([]);
  expect(await adopt("71")).toEqual([]);
});

it("takes over what a closed tab left, and keeps it until it is sent", async () => {
  await adopt("7");
  keep("7", [edit("a")]);
  inAnotherTab();
  vi.advanceTimersByTime(9000);
  expect(await adopt("7")).toEqual([edit("a")]);
  expect(localStorage.length).toBe(1);
  inAnotherTab(); // this one is closed, too, before anything was sent
  vi.advanceTimersByTime(9000);
  expect(await adopt("7")).toEqual([edit("a")]);
});

it("leaves a living tab its own, however long it waits", async () => {
  await adopt("7");
  keep("7", [edit("a")]);
  sessionStorage.clear();
  forgetTab(); // the other one goes on saying that it lives
  vi.advanceTimersByTime(60_000);
  expect(await adopt("7")).toEqual([]);
});

it("adds what others left to what is its own, theirs first", async () => {
  await adopt("7");
  keep("7", [edit("a")]);
  inAnotherTab();
  vi.advanceTimersByTime(9000);
  sessionStorage.setItem("orchesis.tab", "me");
  localStorage.setItem("orchesis.waiting.7.me", JSON.stringify({ at: 0, queue: [edit("b")] }));
  expect((await adopt("7")).map((p) => p.key)).toEqual(["a", "b"]);
});

it("reads what was kept before edits had types", async () => {
  const older = { path: "edits", operation: "set_limb", args: { id: "a", limb: "LF" }, base: 2 };
  localStorage.setItem("orchesis.waiting.7.zz", JSON.stringify({ at: 0, queue: [older] }));
  const [kept] = await adopt("7");
  expect(kept).toMatchObject({ path: "edits", base: 2, edit: { operation: "set_limb", id: "a", limb: "LF" } });
  expect(kept!.key).toBeTruthy();
});

it("survives a storage that somebody else wrote nonsense into", async () => {
  localStorage.setItem("orchesis.waiting.7.zz", "{nonsense");
  expect(await adopt("7")).toEqual([]);
});

describe("where the browser tells which tabs live", () => {
  const held = new Set<string>();
  beforeEach(() => {
    held.clear();
    const locks = {
      request: async (name: string, _: object, then: (lock: object | null) => unknown) => {
        const isFree = !held.has(name);
        held.add(name);
        return then(isFree ? { name } : null);
      },
      query: async () => ({ held: [...held].map((name) => ({ name })) }),
    };
    Object.defineProperty(navigator, "locks", { value: locks, configurable: true });
  });

  it("takes over from a closed tab at once, and from a living one never", async () => {
    await adopt("7");
    keep("7", [edit("a")]);
    const [lock] = held;
    sessionStorage.clear();
    forgetTab();
    vi.advanceTimersByTime(3_600_000);
    expect(await adopt("7")).toEqual([]);
    held.delete(lock!);
    expect(await adopt("7")).toEqual([edit("a")]);
  });

  it("gives a duplicated tab a name of its own", async () => {
    await adopt("7");
    keep("7", [edit("a")]);
    forgetTab(); // sessionStorage was copied with the tab
    expect(await adopt("7")).toEqual([]);
    keep("7", [edit("b")]);
    expect(localStorage.length).toBe(2);
  });
});
