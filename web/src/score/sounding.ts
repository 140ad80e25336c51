/** The written part as what sounds when: the core's rule (orchesis/sounding/part.py); both are held to
 *  `tests/golden/rules.json`. */
import type { Score, Stroke } from "@/api/client";
import { CUE, GRACES, layerOf } from "@/kit";
import type { Clock } from "./time";

export interface SoundEvent {
  time: number;
  /** When its place in the bar is, which decides the loop that it belongs to. */
  writtenAt: number;
  part: string;
  loudness: number;
  choked?: boolean;
}
export type Feel = "grid" | "song" | "measured";

/** When a written stroke sounds. shift: seconds by which the song's feel moves it. */
export function momentOf(clock: Clock, s: Stroke, feel: Feel, shift = 0): number {
  if (feel === "measured" && s.measured) return s.measured.time;
  return clock.played(s) + (feel === "grid" ? 0 : shift);
}

/** Everything that sounds: strokes, the graces of their ornaments, cues. muted: limbs, layers, "cue". */
export function eventsOf(
  score: Pick<Score, "cues">,
  strokes: readonly Stroke[],
  clock: Clock,
  feel: Feel,
  shifts: Readonly<Record<string, number>>,
  muted: ReadonlySet<string>,
): SoundEvent[] {
  const made: SoundEvent[] = [];
  for (const s of strokes) {
    if (s.doubt === "left_out" || muted.has(s.limb) || muted.has(layerOf(s))) continue;
    const time = momentOf(clock, s, feel, shifts[s.id]);
    const writtenAt = clock.played(s);
    made.push({ time, writtenAt, part: s.part, loudness: s.loudness, choked: s.choked ?? false });
    if (s.ornament && !muted.has("ornaments")) made.push(...graces(clock, s, time));
  }
  if (!muted.has("cue")) {
    for (const [bar, cue] of Object.entries(score.cues ?? {})) {
      for (const place of cue.places) {
        const time = clock.played({ bar: Number(bar), place });
        made.push({ time, writtenAt: time, part: CUE.part, loudness: CUE.loudness });
      }
    }
  }
  return made;
}

/** What an ornament adds to a stroke that sounds at a moment. */
function graces(clock: Clock, s: Stroke, time: number): SoundEvent[] {
  const beat = clock.beat(time);
  // A dotted beat is longer by half: a 32nd is a smaller part of it.
  const longer = clock.meters[s.bar - 1]!.isCompound ? 2 / 3 : 1;
  return GRACES[s.ornament!]!.map((g) => ({
    time: time + g.seconds + clock.seconds(beat + g.beats * longer) - clock.seconds(beat),
    writtenAt: clock.played(s),
    part: s.part,
    loudness: s.loudness * g.share,
  }));
}
