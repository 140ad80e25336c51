/** The tempo ladder where there is no house to ask, by the core's own table. */
import { JUDGED } from "@/kit";

export interface Rung {
  tempo: number;
  clean: number;
  is_learned: boolean;
}

/** Where one stands after a loop judged so. */
export function climbed(rung: Rung, rungs: number[], run: number, judgement: string): Rung {
  const { is_clean, rungs: by } = JUDGED[judgement]!;
  let at = rungs.reduce((best, t, k) => (Math.abs(t - rung.tempo) < Math.abs(rungs[best]! - rung.tempo) ? k : best), 0);
  let clean = is_clean ? rung.clean + 1 : 0;
  let learned = rung.is_learned;
  at = Math.max(0, at + by);
  if (clean >= run) {
    learned ||= at === rungs.length - 1;
    at = Math.min(at + 1, rungs.length - 1);
    clean = 0;
  }
  return { tempo: rungs[at]!, clean, is_learned: learned };
}

/** A share of the song's tempo, as it is played: fine enough that 74 bpm on the page are 74 bpm in the ear. */
export const exact = (share: number): number => Math.round(share * 1e4) / 1e4;
