/** The count row: what is spoken at the places of a beat. */
import { shallowRef } from "vue";
import { COUNTING, SYLLABLES, type CountingSchool } from "@/kit";

/** The school that the count rows of this page are spoken in. */
export const counting = shallowRef<CountingSchool>("letters");

const TRIPLET: Record<string, string> = { "1/3": "trip", "2/3": "let" };
const SEXTUPLET = ["", "trip", "let", "&", "trip", "let"];

export interface Syllable {
  at: number;
  text: string;
  isBeat: boolean;
}

/** Syllables of a bar. `grids`: parts a beat is divided into (2, 4, 3 or 6), one a beat. */
export function syllables(beats: number, grids: number[], isCompound = false): Syllable[] {
  const row: Syllable[] = [];
  for (let beat = 0; beat < beats; beat++) {
    row.push({ at: beat, text: `${beat + 1}`, isBeat: true });
    const grid = grids[beat] ?? 4;
    for (let k = 1; k < grid; k++) {
      row.push({ at: beat + k / grid, text: word(k, grid, isCompound), isBeat: false });
    }
  }
  return row;
}

function word(k: number, grid: number, isCompound: boolean): string {
  if (counting.value !== "letters") return COUNTING[counting.value][lowest(k, grid)] ?? "";
  if (isCompound) return grid === 3 ? (["", "&", "a"][k] ?? "") : "";
  if (grid === 6) return SEXTUPLET[k] ?? "";
  if (grid === 3) return TRIPLET[`${k}/3`] ?? "";
  if (grid === 8) return k % 2 ? "" : word(k / 2, 4, false);
  const g = k * 4 === grid * 2 ? "1/2" : `${(k * 4) / grid}/4`;
  return SYLLABLES.get(g) ?? "";
}

/** k parts of `grid`, as the lowest fraction. */
function lowest(k: number, grid: number): string {
  for (let by = 2; by <= k; by++) while (k % by === 0 && grid % by === 0) [k, grid] = [k / by, grid / by];
  return `${k}/${grid}`;
}

/** The coarsest grid that holds every place (fractions of a beat) of a beat. */
export function gridOf(places: string[], fallback: number): number {
  const dens = places.map((p) => Number(p.split("/")[1] ?? 1)).filter((d) => d > 1);
  if (dens.some((d) => d === 6 || (d === 3 && dens.some((e) => e % 2 === 0)))) return 6;
  if (dens.some((d) => d === 3)) return 3;
  if (dens.some((d) => d === 8)) return 8;
  if (dens.some((d) => d === 4)) return 4;
  return fallback;
}
