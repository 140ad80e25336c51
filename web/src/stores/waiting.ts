/** Edits that the server has not confirmed yet, kept so that a closed tab loses nothing.
 *
 * They stay in the browser's storage until the server has confirmed each of them; what a closed
 * tab left is taken over by the next one that opens its song.
 */
import type { Edit } from "@/api/client";

export interface Pending {
  path: "edits" | "undo" | "redo";
  edit?: Edit;
  /** The version it was made on. */
  base: number;
  /** Its name; the server does it once, however often it is sent. */
  key: string;
  /** Also where somebody else changed the same bar since. */
  over?: boolean;
}

const BEAT_MS = 2000;
const STALE_MS = 8000;
const PREFIX = "orchesis.waiting.";

/** This tab's name; it survives a reload. */
let name = "";
const lockOf = (tab: string) => `orchesis.tab.${tab}`;

/** A tab that was duplicated has the other one's name: it takes a new one. */
async function tab(): Promise<string> {
  if (name) return name;
  let wanted = sessionStorage.getItem("orchesis.tab") ?? fresh();
  if (navigator.locks && !(await hold(wanted))) {
    wanted = fresh();
    await hold(wanted);
  }
  sessionStorage.setItem("orchesis.tab", wanted);
  return (name = wanted);
}

export const fresh = () => Math.random().toString(36).slice(2) + Date.now().toString(36);

/** Hold this tab's name for as long as it lives; false where another tab holds it. */
function hold(wanted: string): Promise<boolean> {
  return new Promise((done) => {
    void navigator.locks.request(lockOf(wanted), { ifAvailable: true }, (lock) => {
      done(lock !== null);
      return lock ? new Promise<void>(() => {}) : undefined;
    });
  });
}

/** Tabs that live. Where the browser can't tell, a tab that waits says so every two seconds. */
async function living(): Promise<(tab: string, at: number) => boolean> {
  if (!navigator.locks) return (_, at) => Date.now() - at < STALE_MS;
  const held = new Set((await navigator.locks.query()).held?.map((l) => l.name));
  return (other) => held.has(lockOf(other));
}

/** As it was kept before edits had types. */
type Older = Pending & { operation?: string; args?: object };
function upgraded({ operation, args, ...kept }: Older): Pending {
  return operation ? { ...kept, key: kept.key ?? fresh(), edit: { operation, ...args } as Edit } : kept;
}

interface Kept {
  at: number;
  queue: Pending[];
}
function read(key: string): Kept {
  try {
    const kept = JSON.parse(localStorage.getItem(key) ?? "") as Kept;
    return { ...kept, queue: kept.queue.map(upgraded) };
  } catch {
    return { at: 0, queue: [] };
  }
}

let beat: ReturnType<typeof setInterval> | undefined;

/** Whether the browser has kept them. song: its number, with the arrangement's behind it. */
export function keep(song: string, queue: Pending[]): boolean {
  clearInterval(beat);
  const key = `${PREFIX}${song}.${name}`;
  const write = () => localStorage.setItem(key, JSON.stringify({ at: Date.now(), queue }));
  try {
    if (queue.length === 0) localStorage.removeItem(key);
    else write();
  } catch {
    return false; // the storage is full, or this browser has none
  }
  if (queue.length && !navigator.locks) beat = setInterval(write, BEAT_MS);
  return true;
}

/** What this tab, or a tab that was closed, left unsent; from now on it is this tab's. */
export async function adopt(song: string): Promise<Pending[]> {
  const own = `${PREFIX}${song}.${await tab()}`;
  const isAlive = await living();
  const keys = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? "");
  const left = keys.filter((key) => key.startsWith(`${PREFIX}${song}.`) && key !== own);
  const dead = left.filter((key) => !isAlive(key.split(".").pop()!, read(key).at));
  const queue = [...dead.flatMap((key) => read(key).queue), ...read(own).queue];
  // Written here before it goes there: nothing is ever only in memory.
  if (dead.length && keep(song, queue)) for (const key of dead) localStorage.removeItem(key);
  return queue;
}

/** For tests: the next act happens in another tab. */
export function forgetTab(): void {
  name = "";
}
