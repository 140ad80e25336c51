/** Where everything of one bar stands on the spine. Pure arithmetic, no drawing. */
import type { Stroke } from "@/api/client";
import { LIMBS, type Limb } from "@/kit";
import { gridOf, syllables, type Syllable } from "@/score/count";
import { placeValue, type Clock } from "@/score/time";

export interface Lanes {
  base: Record<Limb, number>;
  reach: number;
  count: number;
  height: number;
}

const row = (height: number) => Math.max(22, height * 0.085);

/** Lanes of a spine so many pixels high: hands above the count row, feet below. shown: the limbs that have a lane; the
 *  others' would lie where the last one before them does. */
export function lanes(height: number, shown: readonly Limb[] = LIMBS): Lanes {
  const count = row(height);
  const lane = (height - count) / Math.max(1, shown.length);
  const base = {} as Record<Limb, number>;
  let [hands, feet] = [0, 0];
  for (const limb of LIMBS) {
    const isHand = limb === "RH" || limb === "LH";
    const isShown = shown.includes(limb);
    if (isHand) base[limb] = (hands += isShown ? 1 : 0) * lane;
    else base[limb] = hands * lane + count + Math.max(0, (feet += isShown ? 1 : 0) - 1) * lane;
  }
  return { base, reach: lane - 18, count: hands * lane + count / 2, height };
}

/** How high a spine is that shows some limbs, with lanes as high as those of a whole one. */
export function heightOf(whole: number, shown: readonly Limb[]): number {
  return row(whole) + ((whole - row(whole)) / LIMBS.length) * Math.max(1, shown.length);
}

export interface Head {
  stroke: Stroke;
  x: number;
  lean: number;
  base: number;
  y: number;
  scale: number;
}

const LEAN_SCALE = 2;
const LEAN_MOST = 14;
const HEAD = 26; // pixels that a head takes
const LEAST_HEAD = 0.42;

/** Heads of a bar drawn `width` pixels wide. A late stroke leans right, an early one left. */
export function heads(
  strokes: Stroke[], bar: number, clock: Clock, width: number, at: Lanes, pad: number,
): Head[] {
  const meter = clock.meters[bar - 1]!;
  const seconds = clock.barEnd(bar) - clock.barStart(bar);
  const pixels = (width - 2 * pad) / meter.beats;
  const taken = new Map<string, number>();
  // Where bars stand close together heads grow smaller, so that 16ths don't touch.
  const room = Math.min(1, Math.max(LEAST_HEAD, pixels / 4 / HEAD));
  return strokes.map((stroke) => {
    const limb = stroke.limb as Limb;
    const isHand = limb === "RH" || limb === "LH";
    const key = `${limb}${stroke.place}`;
    const crowd = taken.get(key) ?? 0;
    taken.set(key, crowd + 1);
    const x = pad + placeValue(stroke.place) * pixels + crowd * 16 * room;
    const off = stroke.measured ? stroke.measured.time - clock.played(stroke) : 0;
    const lean = (off / seconds) * (width - 2 * pad) * LEAN_SCALE;
    const length = 10 + stroke.loudness * (at.reach - 10);
    const base = at.base[limb];
    return {
      stroke,
      x,
      lean: Math.max(-LEAN_MOST, Math.min(LEAN_MOST, lean)),
      base,
      y: isHand ? base - length : base + length,
      scale: (stroke.dynamic === "ghost" ? 0.72 : 1) * room,
    };
  });
}

/** The count row of a bar; syllables on which something is played are spoken. */
export function countRow(
  strokes: Stroke[], bar: number, clock: Clock, fallback: number,
): (Syllable & { isSpoken: boolean })[] {
  const meter = clock.meters[bar - 1]!;
  const grids = Array.from({ length: meter.beats }, (_, beat) => {
    const inside = strokes
      .filter((s) => Math.floor(placeValue(s.place)) === beat)
      .map((s) => {
        const [above = 0, below = 1] = s.place.split("/").map(Number);
        return `${above - beat * below}/${below}`;
      });
    return gridOf(inside, meter.isCompound ? 3 : fallback);
  });
  const sounding = strokes.map((s) => placeValue(s.place));
  return syllables(meter.beats, grids, meter.isCompound).map((s) => ({
    ...s,
    isSpoken: sounding.some((p) => Math.abs(p - s.at) < 1e-6),
  }));
}

/** What makes two bars equal: same parts at the same places, as loud by class. */
export function signature(strokes: Stroke[]): string[] {
  return strokes.map((s) => `${s.place} ${s.part} ${s.dynamic === "ghost" ? "g" : ""}`).sort();
}

/** For each bar the earlier bar most like it (at least 0.6 alike), and what differs. */
export function likeness(byBar: Map<number, Stroke[]>, bars: number): Map<number, Set<string>> {
  const seen: { bar: number; all: Set<string> }[] = [];
  const different = new Map<number, Set<string>>();
  for (let bar = 1; bar <= bars; bar++) {
    const own = new Set(signature(byBar.get(bar) ?? []));
    let best = 0.6;
    let like: Set<string> | null = null;
    for (const other of seen) {
      let shared = 0;
      for (const s of own) if (other.all.has(s)) shared++;
      const alike = own.size + other.all.size === 0 ? 1 : shared / (own.size + other.all.size - shared);
      if (alike > best) {
        best = alike;
        like = other.all;
        if (alike === 1) break;
      }
    }
    different.set(bar, like ? new Set([...own].filter((s) => !like.has(s))) : own);
    seen.push({ bar, all: own });
  }
  return different;
}

export const LANE_ORDER: Limb[] = LIMBS;

/** Section -> rows of one phrase each: fours, a single bar left over sticks out. */
export function phraseRows(first: number, bars: number, phrase = 4): number[][] {
  const rows: number[][] = [];
  let bar = first;
  let left = bars;
  while (left > 0) {
    const take = left <= phrase + 1 ? left : phrase;
    rows.push(Array.from({ length: take }, (_, i) => bar + i));
    bar += take;
    left -= take;
  }
  return rows;
}
