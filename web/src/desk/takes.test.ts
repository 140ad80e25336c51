import { expect, it } from "vitest";
import { laidOver } from "./takes";

it("a stem is only moved", () => {
  expect(laidOver([[0.5, 0]], 2)).toEqual([1.5, 1]);
  expect(laidOver([[0, 0.25]], 2)).toEqual([2.25, 1]);
});

it("another take runs bar by bar at its own pace", () => {
  const places = [[1, 2], [3, 3], [5, 6]];
  expect(laidOver(places, 2)).toEqual([2.5, 0.5]);
  expect(laidOver(places, 4)).toEqual([4.5, 1.5]);
  expect(laidOver(places, 0)).toEqual([1.5, 0.5]);
  expect(laidOver(places, 7)).toEqual([9, 1.5]);
});
