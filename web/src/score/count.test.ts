import { afterEach, expect, it, vi } from "vitest";
import { countIn, countedAloud, counting, gridOf, syllables } from "./count";
import { Clock } from "./time";

const words = (beats: number, grids: number[], compound = false) =>
  syllables(beats, grids, compound).map((s) => s.text).join(" ");

it("counts as drummers speak", () => {
  expect(words(2, [4, 2])).toBe("1 e & a 2 &");
  expect(words(1, [3])).toBe("1 trip let");
  expect(words(1, [6])).toBe("1 trip let & trip let");
  expect(words(2, [3, 3], true)).toBe("1 & a 2 & a");
});

it("takes the coarsest grid that holds every place", () => {
  expect(gridOf(["0/1", "1/2"], 2)).toBe(2);
  expect(gridOf(["0/1", "3/4"], 2)).toBe(4);
  expect(gridOf(["1/3"], 4)).toBe(3);
  expect(gridOf(["1/3", "1/2"], 4)).toBe(6);
  expect(gridOf(["5/6"], 4)).toBe(6);
  expect(gridOf([], 4)).toBe(4);
});

it("counts aloud what is played, beat by beat", () => {
  const clock = new Clock({ meters: ["2/4"] as never, pulse: [0, 1, 2], swing: ["none", 0.5] });
  const strokes = ["0/1", "1/2", "1/1", "5/4"].map((place) => ({ place, doubt: "" as const }));
  const said = countedAloud(clock, () => strokes);
  expect(said.map((s) => s.word).join(" ")).toBe("1 & 2 e & a");
  expect(said.map((s) => s.time)).toEqual([0, 0.5, 1, 1.25, 1.5, 1.75]);
});

afterEach(() => {
  counting.value = "letters";
  vi.unstubAllGlobals();
});

it("counts in a school of somebody's own as the server tells it, and asks once", async () => {
  const rows = { 1: [""], 2: ["", "&"], 4: ["", "ti", "&", "tum"] };
  const asked = vi.fn(async () => new Response(JSON.stringify({ simple: rows, compound: rows }), { headers: { "Content-Type": "application/json" } }));
  vi.stubGlobal("fetch", asked);
  await countIn("own ti & tum - -");
  expect(words(1, [4])).toBe("1 ti & tum");
  expect(words(1, [8])).toBe("1       "); // where the school says nothing
  await countIn("letters");
  expect(words(1, [4])).toBe("1 e & a");
  await countIn("own ti & tum - -");
  expect(asked).toHaveBeenCalledTimes(1);
  expect(words(1, [4])).toBe("1 ti & tum");
});

it("goes on as it was where nobody can be asked", async () => {
  vi.stubGlobal("fetch", vi.fn(async () => { throw new TypeError("no network"); }));
  await countIn("own a b c d e");
  expect(counting.value).toBe("letters");
});

it("has words that our voice does not know said by another", async () => {
  const rows = { 1: [""], 2: ["", "tum"] };
  vi.stubGlobal("fetch", vi.fn(async () => new Response(JSON.stringify({ simple: rows, compound: rows }), { headers: { "Content-Type": "application/json" } })));
  await countIn("own x tum x x x");
  const clock = new Clock({ meters: ["1/4"] as never, pulse: [0, 1], swing: ["none", 0.5] });
  const said = countedAloud(clock, () => [{ place: "1/2", doubt: "" }] as never);
  expect(said.map((s) => s.word)).toEqual(["1", "say tum"]);
});
