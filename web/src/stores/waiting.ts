/** Edits that the server has not confirmed yet, kept so that a closed tab loses nothing. */
import type { Args } from "@/score/edit";

export interface Pending {
  path: "edits" | "undo" | "redo";
  operation?: string;
  args?: Args;
  /** The version it was made on. */
  base: number;
  /** Also where somebody else changed the same bar since. */
  over?: boolean;
}

const STALE_MS = 8000;

/** This tab's name; it survives a reload. */
function tab(): string {
  let name = sessionStorage.getItem("orchesis.tab");
  if (!name) {
    name = Math.random().toString(36).slice(2);
    sessionStorage.setItem("orchesis.tab", name);
  }
  return name;
}

const keyOf = (song: number, of = tab()) => `orchesis.waiting.${song}.${of}`;

export function keep(song: number, queue: Pending[]): void {
  if (queue.length === 0) localStorage.removeItem(keyOf(song));
  else localStorage.setItem(keyOf(song), JSON.stringify({ at: Date.now(), queue }));
}

/** What this tab, or a tab that was closed, left unsent. */
export function left(song: number): Pending[] {
  const found: Pending[] = [];
  const prefix = `orchesis.waiting.${song}.`;
  const keys = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? "");
  for (const key of keys.filter((k) => k.startsWith(prefix))) {
    const { at, queue } = JSON.parse(localStorage.getItem(key) ?? '{"at":0,"queue":[]}') as {
      at: number;
      queue: Pending[];
    };
    if (key !== keyOf(song) && Date.now() - at < STALE_MS) continue; // its tab is alive
    found.push(...queue);
    if (key !== keyOf(song)) localStorage.removeItem(key);
  }
  return found;
}
