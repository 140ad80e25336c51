/** The rules and facts that the core gives the page (`make generate`); they stand nowhere else here. */
import type { PartName, Stroke } from "@/api/client";
import rules from "./rules.json";

export type KitPart = Omit<(typeof rules.parts)[number], "name" | "limb"> & { name: PartName; limb: Limb };
export type Limb = "RH" | "LH" | "RF" | "LF";
export const LIMBS: Limb[] = ["RH", "LH", "RF", "LF"];
export const LAYERS: string[] = rules.layers;
/** The steps of hearing: key, and label. */
export const STEPS = rules.steps as [string, string][];
export const PARTS = rules.parts as KitPart[];
export const ORNAMENTS = rules.ornaments as NonNullable<Stroke["ornament"]>[];
/** What sounds with an ornament: seconds and beats from its stroke, share of its loudness. */
export const GRACES = rules.graces as Record<string, { seconds: number; beats: number; share: number }[]>;
export const SAMPLES = rules.samples as Record<string, { velocity: number; file: string }[]>;
export const CLICK = rules.click;
/** Word of the count row -> the file in which our counting voice says it. */
export const VOICE = rules.voice as Record<string, string>;
/** How a sound is stopped (seconds): it fades; a hand has stopped it; a hat is another one's end. */
export const STOP = rules.stop;
export const CUE = rules.cue as { part: PartName; loudness: number };
/** Below this confidence a stroke is doubtful, and drawn so. */
export const DOUBTFUL = rules.doubtful_below;
/** Confidence from which on what is perhaps a stroke is shown. */
export const PERHAPS = rules.perhaps_from;
/** Rows and columns of the picture of a sound. */
export const PICTURE = rules.picture;
/** What is said behind a beat's number, by the place in the beat. */
export const SYLLABLES = new Map(Object.entries(rules.syllables).map(([name, place]) => [place, name]));
/** Where the parts of a right-handed kit stand, seen from above: to the right, and away (reaches). */
export const PLAN = rules.plan as unknown as Record<string, [number, number]>;
/** Part -> the piece of the kit that is struck. */
export const PIECE = rules.pieces as Record<string, string>;
/** Heads of the spine, by the kit table's shapes. */
export const SHAPES = rules.shapes as Record<string, { path: string; is_hollow: boolean; letter_y: number; extra: string }>;
/** Pieces that a kit may lack. */
export const MAY_LACK = rules.may_lack as string[];
/** Counting schools: what is said at each part of a beat, by the meter's kind and the parts of the beat. */
export const COUNTING = rules.counting as unknown as Record<string, CountingRows>;
/** What the twelve notes are called, by where their reader learned it. */
export const NOTE_NAMES = rules.note_names as Record<NoteNames, string[]>;
export type NoteNames = keyof typeof rules.note_names;
export type CountingRows = Record<"simple" | "compound", Record<string, string[]>>;
/** What is done beside a learned stage to see whether it runs by itself. */
export const CHECKS = rules.ladder.checks as Record<string, string>;
/** Orders in which a part is learned, and what they are called. */
export const ORDERS = rules.orders as Record<string, string>;
/** What a loop does to a ladder, by how it was judged (orchesis/teaching/ladder.py). */
export const JUDGED = rules.ladder.judged as Record<string, { is_clean: boolean; rungs: number }>;
const LOUDNESS = rules.loudness;

const byName = new Map<string, KitPart>(PARTS.map((p) => [p.name, p]));

export function part(name: string): KitPart {
  const found = byName.get(name);
  if (!found) throw new Error(`no kit part ${name}`);
  return found;
}

/** The loudness that a class stands for when nothing was measured. */
export const loudnessOf = (dynamic: Stroke["dynamic"]): number => LOUDNESS[dynamic];
/** The class that a loudness set by a person belongs to. */
export function classOf(loudness: number): Stroke["dynamic"] {
  if (loudness < LOUDNESS.ghost_below) return "ghost";
  return loudness > LOUDNESS.accent_above ? "accent" : "normal";
}

/** The layer a drummer would count a stroke to; what an ornament adds is the ornaments'. */
export function layerOf(stroke: { part: string; dynamic: string }): string {
  const own = part(stroke.part).layer;
  return stroke.dynamic === "ghost" && own === "backbeat" ? "ghosts" : own;
}
