import { expect, it } from "vitest";
import { Clock } from "@/score/time";
import { loopBeats, LoopTime } from "./loopTime";

const clock = new Clock({ meters: ["4/4", "4/4", "4/4"] as never, pulse: Array.from({ length: 13 }, (_, k) => k * 0.5), swing: ["none", 0.5] });

it("goes on where the loop jumps back", () => {
  const time = new LoopTime(clock, 4, 4); // seconds 2 to 4
  expect(time.beats).toBe(4);
  expect(time.follow(2.0)).toBeCloseTo(0);
  expect(time.follow(3.9)).toBeCloseTo(3.8);
  expect(time.follow(2.1)).toBeCloseTo(4.2);
  expect(time.beat(3.99)).toBeCloseTo(3.98); // struck just before the jump, told behind it
  expect(time.beat(2.2)).toBeCloseTo(4.4);
  expect(time.follow(3.8)).toBeCloseTo(7.6);
  expect(time.beat(2.02)).toBeCloseTo(8.04);
});

it("goes round the beats of a step, or all its bars", () => {
  expect(loopBeats(clock, 2, 3, null)).toEqual({ start: 4, beats: 8 });
  expect(loopBeats(clock, 2, 3, { first_beat: 3, beats: 2 })).toEqual({ start: 7, beats: 2 });
});
