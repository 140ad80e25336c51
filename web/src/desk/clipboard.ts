/** Copied strokes, and moving strokes along the bars: pure arithmetic over edits. */
import type { Stroke, StrokeEdit } from "@/api/client";
import { placeText, placeValue, type Clock } from "@/score/time";

/** Strokes with their beats from where the copy begins. */
export interface Clip {
  isBar: boolean;
  strokes: { at: number; own: Stroke }[];
}

const FINEST = 48; // the least common part of all grids

let made = 0;
/** An id that no other stroke of the song has. */
export function freshId(): string {
  made += 1;
  return `w${Date.now().toString(36)}${made.toString(36)}${Math.floor(Math.random() * 1e4).toString(36)}`;
}

/** Bar and place of a beat counted through the song; null outside of it. */
export function spotOf(clock: Clock, beat: number): { bar: number; place: string } | null {
  const whole = Math.round(beat * FINEST);
  if (whole < 0 || whole >= clock.starts[clock.bars]! * FINEST) return null;
  let bar = 1;
  while (bar < clock.bars && clock.starts[bar]! * FINEST <= whole) bar++;
  return { bar, place: placeText(whole - clock.starts[bar - 1]! * FINEST, FINEST) };
}

export const beatOf = (clock: Clock, s: Pick<Stroke, "bar" | "place">): number =>
  clock.starts[s.bar - 1]! + placeValue(s.place);

export function copied(clock: Clock, strokes: Stroke[], bar: number | null): Clip {
  const beats = strokes.map((s) => beatOf(clock, s));
  const from = bar === null ? Math.min(...beats) : clock.starts[bar - 1]!;
  return { isBar: bar !== null, strokes: strokes.map((own, i) => ({ at: beats[i]! - from, own })) };
}

/** The edits that paste a clip from a beat on. A bar takes the place of the bar there. */
export function pasted(clock: Clock, clip: Clip, from: number, there: (bar: number) => Stroke[]): StrokeEdit[] {
  const edits: StrokeEdit[] = [];
  const gone = new Set<string>();
  if (clip.isBar) {
    for (const s of there(spotOf(clock, from)?.bar ?? 1)) {
      gone.add(s.id);
      edits.push({ operation: "remove_stroke", id: s.id });
    }
  }
  for (const { at, own } of clip.strokes) {
    const spot = spotOf(clock, from + at);
    if (!spot || (clip.isBar && spot.bar !== spotOf(clock, from)!.bar)) continue;
    const taken = there(spot.bar).some((s) => s.part === own.part && s.place === spot.place && !gone.has(s.id));
    if (taken) continue;
    const { part, limb, dynamic, loudness, ornament, choked } = own;
    edits.push({ operation: "add_stroke", id: freshId(), ...spot, part, limb, dynamic, loudness, ornament, choked });
  }
  return edits;
}

/** The edits that move strokes by some beats; none if one of them would leave the song. */
export function displaced(clock: Clock, strokes: Stroke[], by: number): StrokeEdit[] {
  // The foremost first, so that none meets one that has yet to move.
  const order = [...strokes].sort((a, b) => Math.sign(by) * (beatOf(clock, b) - beatOf(clock, a)));
  const spots = order.map((s) => spotOf(clock, beatOf(clock, s) + by));
  if (spots.some((s) => s === null)) return [];
  return order.map((s, i) => ({ operation: "move_stroke", id: s.id, ...spots[i]! }));
}
