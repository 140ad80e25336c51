import { expect, it } from "vitest";
import { countedAloud, gridOf, syllables } from "./count";
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
