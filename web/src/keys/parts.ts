/** The key of each part of the kit: its letter on the spine, a capital for the second of a pair. */
import type { PartName } from "@/api/client";
import { PARTS } from "@/kit";

export const PART_KEYS: Record<string, string> = Object.fromEntries(
  PARTS.filter((p) => /^[a-z]$/i.test(p.letter)).map((p) => [p.name, p.letter]),
);
Object.assign(PART_KEYS, {
  rimshot: "S", hat_open: "o", hat_half: "H", crash: "x", crash_2: "X", hat_splash: "F", block: "K",
  tom_high: "q", tom_mid: "w", tom_low: "e", tom_floor: "t", cowbell: "W", tambourine: "T",
});
export const PART_OF = Object.fromEntries(
  Object.entries(PART_KEYS).map(([name, key]) => [key, name]),
) as Record<string, PartName>;
