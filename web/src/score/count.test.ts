import { expect, it } from "vitest";
import { gridOf, syllables } from "./count";

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
