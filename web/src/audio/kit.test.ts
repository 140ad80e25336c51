import { expect, it } from "vitest";
import { PARTS, SAMPLES } from "@/kit";
import { layerFor } from "./kit";
import { firstAt } from "./transport";

it("every part has a one-shot, and louder strokes sound louder", () => {
  for (const p of PARTS) {
    expect(SAMPLES[p.sample]?.length, p.name).toBeGreaterThan(0);
    expect(layerFor(p.name, 0.9).gain).toBeGreaterThan(0);
  }
  const ghost = layerFor("snare", 0.3);
  const accent = layerFor("snare", 1);
  expect(ghost.file).not.toBe(accent.file);
});

it("finds the first stroke at a moment", () => {
  const strokes = [0, 1, 1, 2].map((time) => ({ time }));
  expect(firstAt(strokes, 0.5)).toBe(1);
  expect(firstAt(strokes, 1)).toBe(1);
  expect(firstAt(strokes, 3)).toBe(4);
});
