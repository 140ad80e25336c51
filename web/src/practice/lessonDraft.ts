/** The lesson that is being put together: kept in this browser until it is given, also over a reload. */
import { useLocalStorage } from "@vueuse/core";
import { computed } from "vue";
import type { Schemas } from "@/api/client";

export type Passage = Schemas["LessonPassage"];
export interface Draft {
  /** The lesson that was given and is being changed; 0: a new one. */
  id: number;
  title: string;
  words: string;
  isWhole: boolean;
  withRecording: boolean;
  passages: Passage[];
}
export const MOST_BARS = 32;
export const MOST_PASSAGES = 24;
const empty = (): Draft => ({ id: 0, title: "", words: "", isWhole: false, withRecording: false, passages: [] });

export function useLessonDraft(song: number) {
  const draft = useLocalStorage<Draft>(`orchesis.lesson-draft.${song}`, empty(), { mergeDefaults: true });
  const set = (fields: Partial<Draft>) => void (draft.value = { ...draft.value, ...fields });
  /** Some bars at the end; a passage holds at most MOST_BARS. */
  function add(first: number, last: number, order: Passage["order"] = "computed"): void {
    if (draft.value.passages.length >= MOST_PASSAGES) return;
    const end = Math.min(Math.max(first, last), first + MOST_BARS - 1);
    set({ passages: [...draft.value.passages, { first, last: end, order, words: "" }] });
  }
  const change = (n: number, fields: Partial<Passage>) =>
    set({ passages: draft.value.passages.map((p, k) => (k === n ? { ...p, ...fields } : p)) });
  const remove = (n: number) => set({ passages: draft.value.passages.filter((_, k) => k !== n) });
  function move(n: number, by: number): void {
    const passages = [...draft.value.passages];
    const to = n + by;
    if (to < 0 || to >= passages.length) return;
    const [one] = passages.splice(n, 1);
    passages.splice(to, 0, one!);
    set({ passages });
  }
  const held = (link: Schemas["Link"]): Omit<Draft, "id"> => ({
    title: link.title, words: link.words, isWhole: link.whole, withRecording: link.with_recording, passages: link.passages.map((p) => ({ ...p })),
  });
  const open = (link: Schemas["Link"]) => set({ id: link.id, ...held(link) });
  const duplicate = (link: Schemas["Link"]) => set({ id: 0, ...held(link), title: `${link.title} (copy)`.slice(0, 120) });
  const clear = () => void (draft.value = empty());
  const isEmpty = computed(() => !draft.value.title && !draft.value.words && !draft.value.passages.length && !draft.value.id);
  /** As the server takes it. */
  const body = (title: string): Schemas["LinkRequest"] => ({
    title: draft.value.title.trim() || title || "Lesson", words: draft.value.words.trim(),
    passages: draft.value.isWhole ? [] : draft.value.passages, with_recording: draft.value.withRecording,
  });
  return { draft, set, add, change, remove, move, open, duplicate, clear, isEmpty, body };
}
