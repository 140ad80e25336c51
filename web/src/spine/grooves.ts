/** A groove's unit on the spine: its core, and options laid over it. */
import type { Option, Stroke } from "@/api/client";
import { layerOf } from "@/kit";
import { placeValue } from "@/score/time";

/** The layers of a groove in the order in which a drummer listens to them. */
export const LAYER_KEYS = ["time", "backbeat", "kick", "ghosts", "openings", "ornaments", "left_foot"];

const LOUDNESS: Record<string, number> = { ghost: 0.3, normal: 0.7, accent: 0.95 };

/** The strokes of one bar (from 1) of a unit; an option that takes a hand off something hides it. */
export function laidOver(core: Stroke[], options: Option[], bar: number): Stroke[] {
  const added = options
    .filter((o) => o.bar === 0 || o.bar === bar)
    .map((o) => ({
      id: `o-${o.part}-${o.place}-${bar}`, bar, place: o.place, part: o.part as Stroke["part"], limb: o.limb as Stroke["limb"],
      dynamic: o.dynamic as Stroke["dynamic"], loudness: LOUDNESS[o.dynamic] ?? 0.7, ornament: null,
      measured: null, confidence: 1, placed_by: "rule" as const, limb_by: "program" as const, choked: false, doubt: "" as const, reason: "",
    }));
  const taken = new Set(added.map((s) => `${s.limb} ${s.place}`));
  return [...core.filter((s) => s.bar === bar && !taken.has(`${s.limb} ${s.place}`)), ...added];
}

/** The layers that a core has. */
export function rungs(core: Stroke[] | undefined): Set<string> {
  return new Set((core ?? []).map(layerOf));
}

const NAMES = new Map([[0, ""], [0.25, "e"], [0.5, "&"], [0.75, "a"]]);

/** The shortest name of a place: 2, 2&, 2e, 2t, 2:5/6 (the core's rule). */
export function placeName(place: string, isCompound: boolean): string {
  const value = placeValue(place);
  const beat = Math.floor(value + 1e-9);
  const inside = value - beat;
  const third = [1, 2].find((k) => Math.abs(inside - k / 3) < 1e-6);
  if (third) return `${beat + 1}${third === 1 ? "t" : "l"}`;
  const name = NAMES.get(inside);
  if (name !== undefined && !(isCompound && name === "&")) return `${beat + 1}${name}`;
  const [above = 0, below = 1] = place.split("/").map(Number);
  return `${beat + 1}:${above - beat * below}/${below}`;
}
