/** One song's transcription on the page: shown at once, saved behind, undone without limit. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";
import { ask, Refusal, type EditResult, type Stroke, type Transcription } from "@/api/client";
import { foreseen, patched, type Args } from "@/score/edit";
import { Clock } from "@/score/time";

interface Pending {
  path: "edits" | "undo" | "redo";
  operation?: string;
  args?: Args;
}

const RETRY_MS = 1500;

export const useSong = defineStore("song", () => {
  const id = ref(0);
  const shown = shallowRef<Transcription | null>(null);
  const pending = ref(0);
  const isAway = ref(false);
  const complaint = ref<string | null>(null);
  let confirmed: Transcription | null = null;
  let queue: Pending[] = [];
  let sending = false;

  const score = computed(() => shown.value?.score ?? null);
  const clock = computed(() => (score.value ? new Clock(score.value) : null));
  const byBar = computed(() => {
    const bars = new Map<number, Stroke[]>();
    for (const s of score.value?.strokes ?? []) {
      const own = bars.get(s.bar);
      if (own) own.push(s);
      else bars.set(s.bar, [s]);
    }
    return bars;
  });
  const isSaved = computed(() => pending.value === 0);

  async function open(song: number): Promise<void> {
    if (id.value !== song) close();
    id.value = song;
    const found = await ask<Transcription>("GET", `songs/${song}/transcription`);
    if (id.value === song) show(found);
  }

  function close(): void {
    id.value = 0;
    shown.value = confirmed = null;
    queue = [];
    pending.value = 0;
    isAway.value = false;
  }

  function show(found: Transcription): void {
    confirmed = found;
    let ahead = found;
    for (const p of queue) ahead = foresee(ahead, p);
    shown.value = ahead;
  }

  function foresee(on: Transcription, p: Pending): Transcription {
    const patch = p.operation ? foreseen(on.score, p.operation, p.args ?? {}) : null;
    return patch ? { ...on, score: patched(on.score, patch), can_undo: true, can_redo: false } : on;
  }

  function edit(operation: string, args: Args = {}): void {
    push({ path: "edits", operation, args });
  }
  function undo(): void {
    if (shown.value?.can_undo) push({ path: "undo" });
  }
  function redo(): void {
    if (shown.value?.can_redo) push({ path: "redo" });
  }

  function push(p: Pending): void {
    if (!shown.value) return;
    queue.push(p);
    pending.value = queue.length;
    shown.value = foresee(shown.value, p);
    void send();
  }

  async function send(): Promise<void> {
    if (sending) return;
    sending = true;
    const song = id.value;
    while (queue.length > 0 && confirmed && id.value === song) {
      const p = queue[0]!;
      try {
        const result = await ask<EditResult>("POST", `songs/${song}/transcription/${p.path}`, {
          base: confirmed.version,
          operation: p.operation,
          args: p.args,
        });
        if (id.value !== song) break;
        isAway.value = false;
        settle(result);
      } catch (problem) {
        if (id.value !== song) break;
        if (problem instanceof Refusal && problem.isPassing) {
          isAway.value = true;
          await new Promise((done) => setTimeout(done, RETRY_MS));
        } else {
          await refused(problem as Error, song);
        }
      }
    }
    sending = false;
    if (queue.length > 0) void send();
  }

  function settle(result: EditResult): void {
    queue.shift();
    pending.value = queue.length;
    const { patches, ...rest } = result;
    const now = patches.reduce((s, p) => patched(s, p), confirmed!.score);
    show({ ...confirmed!, ...rest, score: now });
  }

  async function refused(problem: Error, song: number): Promise<void> {
    queue.shift();
    pending.value = queue.length;
    complaint.value = problem.message;
    try {
      const found = await ask<Transcription>("GET", `songs/${song}/transcription`);
      if (id.value === song) show(found);
    } catch {
      if (confirmed) show(confirmed);
    }
  }

  return {
    id, shown, score, clock, byBar, pending, isSaved, isAway, complaint,
    open, close, edit, undo, redo,
  };
});
