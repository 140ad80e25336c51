import { describe, expect, it } from "vitest";
import type { PartName } from "@/api/client";
import { confidenceByPart } from "./confidence";

const stroke = (part: PartName, bar: number, confidence: number) => ({ part, bar, confidence });

describe("how sure the ears are", () => {
  it("counts each part, the commonest first", () => {
    const rows = confidenceByPart([stroke("kick", 1, 1), stroke("hat_closed", 1, 0.9), stroke("hat_closed", 1, 0.7)]);
    expect(rows.map((r) => [r.part, r.count])).toEqual([["hat_closed", 2], ["kick", 1]]);
    expect(rows[0]!.sure).toBeCloseTo(0.8);
    expect(rows[0]!.unsure).toBe(0);
    expect(rows[0]!.bar).toBe(0);
  });

  it("tells the first bar with a doubtful stroke", () => {
    const [row] = confidenceByPart([stroke("snare", 9, 0.5), stroke("snare", 4, 0.3), stroke("snare", 1, 0.9)]);
    expect(row).toMatchObject({ unsure: 2, bar: 4 });
  });

  it("uses the name a drummer reads", () => {
    expect(confidenceByPart([stroke("cross_stick", 1, 1)])[0]!.label).toMatch(/cross/i);
    expect(confidenceByPart([])).toEqual([]);
  });
});
