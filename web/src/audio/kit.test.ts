import { expect, it } from "vitest";
import { PARTS, SAMPLES } from "@/kit";
import { layerFor } from "./kit";
import { sampleAt } from "./pieces";
import { within } from "./transport";

it("every part has a one-shot, and louder strokes sound louder", () => {
  for (const p of PARTS) {
    expect(SAMPLES[p.sample]?.length, p.name).toBeGreaterThan(0);
    expect(layerFor(p.name, 0.9).gain).toBeGreaterThan(0);
  }
  const ghost = layerFor("snare", 0.3);
  const accent = layerFor("snare", 1);
  expect(ghost.file).not.toBe(accent.file);
});

it("finds what lies in a stretch of samples: its start belongs to it, its end does not", () => {
  const strokes = [0, 1, 1, 2].map((time) => ({ time }));
  const found = (from: number, to: number) => within(strokes, sampleAt(from), sampleAt(to)).length;
  expect([found(0, 1), found(0.5, 1.5), found(1, 2), found(2, 9), found(2.1, 9)]).toEqual([1, 2, 2, 1, 0]);
});

it("keeps a stroke with the bar it is written in, whenever it is played", () => {
  const early = { time: 0.98, writtenAt: 1 };
  expect(within([early], sampleAt(0), sampleAt(1))).toEqual([]);
  expect(within([early], sampleAt(1), sampleAt(2))).toEqual([early]);
});
