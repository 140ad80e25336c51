/** One song's transcription on the page: shown at once, saved behind, undone without limit. */
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";
import { brought, of, Refusal, server, shownArrangement, type Edit, type EditResult, type Offer, type Stroke, type StrokeEdit, type Transcription } from "@/api/client";
import { foreseen, patched } from "@/score/edit";
import { Clock } from "@/score/time";
import { adopt, fresh, keep, type Pending } from "./waiting";

/** An edit of what somebody else changed meanwhile: both readings, and the choice. */
export interface Clash {
  edit: Pending;
  says: string;
  bars: number[];
  sections: string[];
  mine: Transcription["score"];
  theirs: Transcription["score"];
}

const RETRY_MS = 1500;
const ONLY_PLAYS = "This song is shared with you to play along; comment on it, or ask to be let edit it.";

const ARRANGEMENT = "orchesis.arrangement.";
const keptArrangement = (song: number): number => Number(globalThis.sessionStorage?.getItem(`${ARRANGEMENT}${song}`) ?? 0);

const fetched = (song: number): Promise<Transcription> =>
  brought(server.GET("/api/songs/{id}/transcription", { params: of(song) }));

export const useSong = defineStore("song", () => {
  const id = ref(0);
  /** The arrangement that is shown; 0: the part as it was recorded. */
  const arrangement = ref(0);
  const shown = shallowRef<Transcription | null>(null);
  const pending = ref(0);
  const isAway = ref(false);
  /** Whether the browser keeps what is not sent yet. */
  const isKept = ref(true);
  const complaint = ref<string | null>(null);
  /** Other bars that the last edit would fit. */
  const offer = shallowRef<Offer | null>(null);
  const clash = shallowRef<Clash | null>(null);
  /** Whether the person may change the song, or only plays it. */
  const mayEdit = ref(true);
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
  /** Changes with the arrangement and with its version: what follows from the score is read anew. */
  const state = computed(() => shown.value && `${arrangement.value}.${shown.value.version}`);
  const isSaved = computed(() => pending.value === 0);

  /** The song that is being opened: the views that ask for it meanwhile wait for the same answer. */
  let opening: { song: number; done: Promise<void> } | null = null;
  function open(song: number): Promise<void> {
    if (opening?.song !== song) {
      const done = fetchAndShow(song).finally(() => {
        if (opening?.done === done) opening = null;
      });
      opening = { song, done };
    }
    return opening!.done;
  }

  async function fetchAndShow(song: number): Promise<void> {
    if (id.value !== song) close();
    id.value = song;
    choose(keptArrangement(song));
    const found = await fetched(song).catch((problem: unknown) => {
      if (!arrangement.value || (problem as Refusal).status !== 404) throw problem;
      choose(0); // it was taken away meanwhile
      return fetched(song);
    });
    const unsent = queue.length ? [] : await adopt(room());
    if (id.value !== song) return;
    if (unsent.length && !queue.length) {
      queue = unsent;
      pending.value = queue.length;
    }
    show(found);
    if (queue.length) void send();
  }

  function choose(wanted: number): void {
    arrangement.value = wanted;
    Object.assign(shownArrangement, { song: id.value, id: wanted });
  }
  /** Under which name what is not sent yet is kept. */
  const room = () => (arrangement.value ? `${id.value}-${arrangement.value}` : `${id.value}`);

  /** Shows another arrangement of the song; what was written before is sent first. */
  async function showArrangement(wanted: number): Promise<void> {
    while (queue.length) await new Promise((done) => setTimeout(done, 30));
    const [song, before] = [id.value, arrangement.value];
    choose(wanted);
    const found = await fetched(song).catch((problem: unknown) => {
      choose(before);
      throw problem;
    });
    const unsent = await adopt(room());
    if (id.value !== song || arrangement.value !== wanted) return;
    sessionStorage.setItem(`${ARRANGEMENT}${song}`, `${wanted}`);
    offer.value = clash.value = null;
    queue = unsent;
    pending.value = queue.length;
    show(found);
    if (queue.length) void send();
  }

  function close(): void {
    opening = null;
    id.value = 0;
    shown.value = confirmed = null;
    queue = [];
    pending.value = 0;
    isAway.value = false;
    offer.value = null;
    clash.value = null;
  }

  function show(found: Transcription): void {
    confirmed = found;
    let ahead = found;
    for (const p of queue) ahead = foresee(ahead, p);
    shown.value = ahead;
  }

  function foresee(on: Transcription, p: Pending): Transcription {
    const patch = p.edit ? foreseen(on.score, p.edit) : null;
    return patch ? { ...on, score: patched(on.score, patch), undoes: "the last change", redoes: "" } : on;
  }

  function edit(edit: Edit): void {
    push(made(edit));
  }
  const made = (edit: Edit): Pending => ({ path: "edits", edit, base: confirmed?.version ?? 0, key: fresh() });
  /** An edit whose refusal belongs where it was typed: resolves to the sentence, or "". While
   *  the server is away it waits with the others. */
  async function tryEdit(wanted: Edit): Promise<string> {
    if (!mayEdit.value) return ONLY_PLAYS;
    while (queue.length && !isAway.value) await new Promise((done) => setTimeout(done, 20));
    const song = id.value;
    const edit = made(wanted);
    if (isAway.value) return push(edit), "";
    pending.value = queue.length + 1;
    try {
      const result = await sent(song, edit);
      if (id.value === song) settle(result, false);
      return "";
    } catch (problem) {
      changed();
      if (problem instanceof Refusal && problem.isPassing && id.value === song) return push(edit), "";
      return (problem as Error).message;
    }
  }
  /** Several strokes changed as one edit, undone as one. */
  function editMany(edits: StrokeEdit[]): void {
    if (edits.length === 1) edit(edits[0]!);
    else if (edits.length) edit({ operation: "many", edits });
  }
  function undo(): void {
    if (shown.value?.undoes) push({ path: "undo", base: 0, key: fresh() });
  }
  function redo(): void {
    if (shown.value?.redoes) push({ path: "redo", base: 0, key: fresh() });
  }

  function push(p: Pending): void {
    if (!shown.value) return;
    if (!mayEdit.value) return void (complaint.value = ONLY_PLAYS);
    queue.push(p);
    changed();
    offer.value = null;
    shown.value = foresee(shown.value, p);
    void send();
  }

  function changed(): void {
    pending.value = queue.length;
    isKept.value = keep(room(), queue);
  }

  /** Sends an edit or a step: made on the version it was made on, where that is older. */
  function sent(song: number, p: Pending): Promise<EditResult> {
    const version = confirmed!.version;
    const base = p.base && p.base < version && !p.over ? p.base : version;
    const params = of(song);
    if (p.path === "edits") {
      const body = { base, over: p.over ?? false, edit: p.edit!, key: p.key };
      return brought(server.POST("/api/songs/{id}/transcription/edits", { params, body }));
    }
    const step = p.path === "undo" ? "undo" : "redo";
    return brought(server.POST(`/api/songs/{id}/transcription/${step}`, { params, body: { base, key: p.key } }));
  }

  async function send(): Promise<void> {
    if (sending) return;
    sending = true;
    const song = id.value;
    while (queue.length > 0 && confirmed && id.value === song) {
      const p = queue[0]!;
      try {
        const result = await sent(song, p);
        if (id.value !== song) break;
        isAway.value = false;
        settle(result);
      } catch (problem) {
        if (id.value !== song) break;
        if (problem instanceof Refusal && problem.isPassing) {
          isAway.value = true;
          changed();
          await new Promise((done) => setTimeout(done, RETRY_MS));
        } else if (problem instanceof Refusal && problem.clash) {
          await clashed(p, problem, song);
        } else {
          await refused(problem as Error, song);
        }
      }
    }
    sending = false;
    if (queue.length > 0) void send();
  }

  function settle(result: EditResult, isQueued = true): void {
    if (isQueued) queue.shift();
    const { patches, alike, ...rest } = result;
    const now = patches.reduce((s, p) => patched(s, p), confirmed!.score);
    // What this page wrote while the answer was on its way was made on this version.
    for (const p of queue) p.base = Math.max(p.base, rest.version);
    changed();
    if (queue.length === 0) offer.value = alike ?? null;
    show({ ...confirmed!, ...rest, score: now });
  }

  async function clashed(p: Pending, problem: Refusal, song: number): Promise<void> {
    const mine = shown.value!.score;
    queue.shift();
    changed();
    const found = await fetched(song).catch(() => null);
    if (!found || id.value !== song) return;
    clash.value = { edit: p, says: problem.message, ...problem.clash!, mine, theirs: found.score };
    show(found);
  }
  /** After a clash: keep what the other window wrote, or write this edit over it. */
  function decide(useMine: boolean): void {
    const found = clash.value;
    clash.value = null;
    if (found && useMine) push({ ...found.edit, base: confirmed?.version ?? 0, over: true, key: fresh() });
  }

  async function refused(problem: Error, song: number): Promise<void> {
    queue.shift();
    changed();
    complaint.value = problem.message;
    try {
      const found = await fetched(song);
      if (id.value === song) show(found);
    } catch {
      if (confirmed) show(confirmed);
    }
  }

  return { mayEdit,
    id, shown, score, clock, byBar, pending, isSaved, isAway, isKept, complaint, offer, clash,
    arrangement, state, open, close, showArrangement, edit, editMany, tryEdit, undo, redo, decide,
  };
});
