/** How sure hearing is of each part: figures for the list in Take in. */
import type { Stroke } from "@/api/client";
import { DOUBTFUL, part } from "@/kit";

export interface PartConfidence {
  part: string;
  label: string;
  count: number;
  /** Mean confidence, 0..1: about this share of the strokes is right. */
  sure: number;
  unsure: number;
  /** First bar with a doubtful stroke; 0 if there is none. */
  bar: number;
}

export function confidenceByPart(strokes: Pick<Stroke, "part" | "bar" | "confidence">[]): PartConfidence[] {
  const parts = new Map<string, PartConfidence>();
  for (const s of strokes) {
    let row = parts.get(s.part);
    if (!row) parts.set(s.part, (row = { part: s.part, label: part(s.part).label, count: 0, sure: 0, unsure: 0, bar: 0 }));
    row.count++;
    row.sure += s.confidence;
    if (s.confidence < DOUBTFUL) {
      row.unsure++;
      if (!row.bar || s.bar < row.bar) row.bar = s.bar;
    }
  }
  return [...parts.values()]
    .map((r) => ({ ...r, sure: r.sure / r.count }))
    .sort((a, b) => b.count - a.count);
}
