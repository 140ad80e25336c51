/** Where a moment of the song lies in another take of it. */
import type { Take } from "@/api/client";

/**
 * The second of the take, and how fast it runs there (seconds of the take in one of the song).
 * places: pairs (song, take), rising; outside of them both run on at the nearest pace.
 */
export function laidOver(places: number[][], song: number): [second: number, pace: number] {
  const last = places.length - 2;
  if (last < 0) return [song - (places[0]?.[0] ?? 0) + (places[0]?.[1] ?? 0), 1];
  let k = places.findIndex((_, i) => i <= last && song < places[i + 1]![0]!);
  if (k < 0) k = last;
  const [a, b] = [places[k]!, places[k + 1]!];
  const pace = (b[1]! - a[1]!) / (b[0]! - a[0]!);
  return [a[1]! + (song - a[0]!) * pace, pace];
}

const KIND = { first: "the recording", stem: "a stem of it", other: "another take" } as const;
export const kindOf = (take: Take): string => (take.is_video ? "video" : KIND[take.kind ?? "first"]);
/** Takes that can sound or be seen in the recording's place. */
export const usable = (takes: Take[]): Take[] => takes.filter((t) => t.job?.state === "done" && t.kind !== "first");
