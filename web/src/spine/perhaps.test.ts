import { describe, expect, it } from "vitest";
import type { Score, Stroke } from "@/api/client";
import { Clock } from "@/score/time";
import { faintIn } from "./perhaps";

const score = {
  meters: ["4/4", "4/4"],
  pulse: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5],
  swing: ["none", 0.5],
} as unknown as Score;
const clock = new Clock(score);
const maybe = (part: string, time: number, confidence = 0.31) =>
  ({ id: "p1", part, measured: { time, level: -9, openness: null }, loudness: 0.5, confidence }) as Score["perhaps"][number];
const stroke = (part: string, time: number) => ({ part, place: "0", measured: { time } }) as unknown as Stroke;

describe("what is perhaps a stroke", () => {
  it("stands in its bar where it sounds, in the lane of its part", () => {
    const found = faintIn([maybe("crash", 3.75), maybe("kick", 1.0)], [], 2, clock);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ part: "crash", at: 1.5, says: "Perhaps crash, 31 % sure" });
  });

  it("is not shown where it was called none, or is only kept for its sound", () => {
    expect(faintIn([maybe("snare", 3.52, 0), maybe("snare", 3.9, 0.1)], [], 2, clock)).toEqual([]);
  });

  it("is not shown where its part is written", () => {
    expect(faintIn([maybe("snare", 3.52)], [stroke("snare", 3.5)], 2, clock)).toEqual([]);
    expect(faintIn([maybe("snare", 3.52)], [stroke("kick", 3.5)], 2, clock)).toHaveLength(1);
  });
});
