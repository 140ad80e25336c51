/** A groove's unit on the spine: its core, and options laid over it. */
import type { Option, Stroke } from "@/api/client";
import { layerOf, loudnessOf, SYLLABLES } from "@/kit";
import { placeText } from "@/score/time";

/** The layers of a groove in the order in which a drummer listens to them. */
export const LAYER_KEYS = ["time", "backbeat", "kick", "ghosts", "openings", "ornaments", "left_foot"];

/** The strokes of one bar (from 1) of a unit; an option that takes a hand off something hides it. */
export function laidOver(core: Stroke[], options: Option[], bar: number): Stroke[] {
  const added = options
    .filter((o) => o.bar === 0 || o.bar === bar)
    .map((o) => ({
      id: `o-${o.part}-${o.place}-${bar}`, bar, place: o.place, part: o.part as Stroke["part"], limb: o.limb as Stroke["limb"],
      dynamic: o.dynamic as Stroke["dynamic"], loudness: loudnessOf(o.dynamic as Stroke["dynamic"]), ornament: null,
      measured: null, confidence: 1, placed_by: "rule" as const, limb_by: "program" as const, choked: false, doubt: "" as const, reason: "",
    }));
  const taken = new Set(added.map((s) => `${s.limb} ${s.place}`));
  return [...core.filter((s) => s.bar === bar && !taken.has(`${s.limb} ${s.place}`)), ...added];
}

/** The layers that a core has. */
export function rungs(core: Stroke[] | undefined): Set<string> {
  const layers = (core ?? []).map(layerOf);
  return new Set(core?.some((s) => s.ornament) ? [...layers, "ornaments"] : layers);
}

/** The shortest name of a place: 2, 2&, 2e, 2t, 2:5/6 (the core's rule). */
export function placeName(place: string, isCompound: boolean): string {
  const [above = 0, below = 1] = place.split("/").map(Number);
  const beat = Math.floor(above / below);
  const inside = placeText(above - beat * below, below);
  const name = SYLLABLES.get(inside);
  if (name !== undefined && !(isCompound && name === "&")) return `${beat + 1}${name}`;
  return `${beat + 1}:${inside}`;
}
