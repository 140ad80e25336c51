/** The kit table, generated from the core (`make generate`); facts stand only there. */
import type { PartName, Stroke } from "@/api/client";
import table from "./kit.json";

export type KitPart = Omit<(typeof table.parts)[number], "name"> & { name: PartName };
export type Limb = "RH" | "LH" | "RF" | "LF";
export const LIMBS: Limb[] = ["RH", "LH", "RF", "LF"];
export const LAYERS: string[] = table.layers;
export const PARTS = table.parts as KitPart[];
export const ORNAMENTS = table.ornaments as NonNullable<Stroke["ornament"]>[];
/** How an ornament sounds beside its stroke: [seconds from it, share of its loudness]. */
export const GRACES = table.graces as unknown as Record<string, [number, number][]>;
export const SAMPLES = table.samples as Record<string, { velocity: number; file: string }[]>;

const byName = new Map<string, KitPart>(PARTS.map((p) => [p.name, p]));

export function part(name: string): KitPart {
  const found = byName.get(name);
  if (!found) throw new Error(`no kit part ${name}`);
  return found;
}

const DEFAULT_LIMB: Record<string, Limb> = {
  time: "RH",
  backbeat: "LH",
  hand: "RH",
  right_foot: "RF",
  left_foot: "LF",
};

export function usualLimb(name: string): Limb {
  return DEFAULT_LIMB[part(name).role] ?? "RH";
}

/** The layer a drummer would count a stroke to (the core's rule). */
export function layerOf(stroke: { part: string; dynamic: string; ornament: string | null }): string {
  const snares = ["snare", "rimshot", "cross_stick"];
  if (stroke.dynamic === "ghost" && snares.includes(stroke.part)) return "ghosts";
  return stroke.ornament ? "ornaments" : part(stroke.part).layer;
}
