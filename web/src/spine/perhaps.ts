/** What is perhaps a stroke, as a bar shows it: faint, where it sounds, unless the part is written there. */
import type { Score, Stroke } from "@/api/client";
import { PERHAPS, part, type Limb } from "@/kit";
import type { Clock } from "@/score/time";

const SAME = 0.05; // seconds within which a written stroke of the part stands for it

export interface Faint {
  id: string;
  part: string;
  limb: Limb;
  /** Beats from the start of the bar. */
  at: number;
  says: string;
}

export function faintIn(
  perhaps: Score["perhaps"], strokes: Stroke[], bar: number, clock: Clock,
): Faint[] {
  const [from, to] = [clock.barStart(bar), clock.barEnd(bar)];
  const beats = clock.meters[bar - 1]!.beats;
  return perhaps
    .filter((p) => p.confidence >= PERHAPS && p.measured.time >= from && p.measured.time < to)
    .filter((p) => !strokes.some((s) =>
      s.part === p.part && Math.abs((s.measured?.time ?? clock.played(s)) - p.measured.time) < SAME))
    .map((p) => ({
      id: p.id,
      part: p.part,
      limb: part(p.part).limb as Limb,
      at: clock.within(bar, p.measured.time) * beats,
      says: `Perhaps ${part(p.part).label.toLowerCase()}, ${Math.round(p.confidence * 100)} % sure`,
    }));
}
