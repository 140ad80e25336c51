/** The count row: what is spoken at the places of a beat. */
import { shallowRef } from "vue";
import { brought, server, type Stroke } from "@/api/client";
import { placeValue, type Clock } from "@/score/time";
import { COUNTING, VOICE, type CountingRows } from "@/kit";
import { SAID } from "@/audio/kit";

/** The school that the count rows of this page are spoken in; changed by `countIn`. */
export const counting = shallowRef("letters");
/** What is said in schools of somebody's own, as the server told. */
const told = new Map<string, CountingRows>();

/** From now on the count rows are spoken in a school. */
export async function countIn(school: string): Promise<void> {
  if (!(school in COUNTING) && !told.has(school)) {
    try {
      told.set(school, await brought(server.GET("/api/counting/{school}", { params: { path: { school } } })));
    } catch {
      return; // as it was: nobody can be asked
    }
  }
  counting.value = school;
}

export interface Syllable {
  at: number;
  text: string;
  isBeat: boolean;
}

/** Syllables of a bar. `grids`: parts a beat is divided into (2, 4, 3 or 6), one a beat. */
export function syllables(beats: number, grids: number[], isCompound = false): Syllable[] {
  const row: Syllable[] = [];
  const words = (COUNTING[counting.value] ?? told.get(counting.value) ?? COUNTING.letters!)[isCompound ? "compound" : "simple"];
  for (let beat = 0; beat < beats; beat++) {
    row.push({ at: beat, text: `${beat + 1}`, isBeat: true });
    const grid = grids[beat] ?? 4;
    for (let k = 1; k < grid; k++) {
      row.push({ at: beat + k / grid, text: words[grid]?.[k] ?? "", isBeat: false });
    }
  }
  return row;
}

/** The count of every bar aloud: each beat by the finest division that is played there. */
export function countedAloud(clock: Clock, strokesOf: (bar: number) => readonly Pick<Stroke, "place" | "doubt">[]): { time: number; isStrong: boolean; word: string }[] {
  return clock.meters.flatMap((meter, n) => {
    const places = strokesOf(n + 1).filter((s) => s.doubt !== "left_out").map((s) => s.place);
    const grids = Array.from({ length: meter.beats }, (_, beat) => gridOf(places.filter((p) => Math.floor(placeValue(p)) === beat).map(inBeat), 1));
    return syllables(meter.beats, grids, meter.isCompound)
      .filter((s) => s.text)
      .map((s) => ({ time: clock.played({ bar: n + 1, place: String(s.at) }), isStrong: s.isBeat, word: s.text in VOICE ? s.text : `${SAID}${s.text}` }));
  });
}
/** A place inside its beat: "7/4" -> "3/4". */
function inBeat(place: string): string {
  const [above = 0, below = 1] = place.split("/").map(Number);
  return `${above % below}/${below}`;
}

/** The coarsest grid that holds every place (fractions of a beat) of a beat. */
export function gridOf(places: string[], fallback: number): number {
  const dens = places.map((p) => Number(p.split("/")[1] ?? 1)).filter((d) => d > 1);
  if (dens.some((d) => d === 6 || (d === 3 && dens.some((e) => e % 2 === 0)))) return 6;
  if (dens.some((d) => d === 3)) return 3;
  if (dens.some((d) => d === 8)) return 8;
  if (dens.some((d) => d === 4)) return 4;
  if (dens.some((d) => d === 2)) return Math.max(2, fallback);
  return fallback;
}
