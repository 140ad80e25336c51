/** One thing that the server reads from the score, fetched anew when the score has changed. */
import { ref, shallowRef, watch, type Ref, type ShallowRef } from "vue";
import { ask, retryWhileAway } from "@/api/client";
import { useSong } from "./song";

export interface Finding<T> {
  value: ShallowRef<T | null>;
  complaint: Ref<string>;
}

/** `path` is what stands behind the song's number; where it changes, it is asked again. */
export function useFinding<T extends { version: number }>(path: () => string): Finding<T> {
  const desk = useSong();
  const value = shallowRef<T | null>(null) as ShallowRef<T | null>;
  const complaint = ref("");
  let asked = "";

  async function fetchIt(): Promise<void> {
    const [song, wanted] = [desk.id, path()];
    const key = `${song} ${wanted} ${desk.shown?.version}`;
    asked = key;
    try {
      const found = await retryWhileAway(() => ask<T>("GET", `songs/${song}/${wanted}`), undefined, () => asked === key);
      if (asked !== key) return;
      value.value = found;
      complaint.value = "";
    } catch (problem) {
      if (asked === key) complaint.value = (problem as Error).message;
    }
  }
  watch(
    [path, () => desk.id, () => desk.shown?.version, () => desk.isSaved],
    ([, song, , saved]) => song && desk.shown && saved && void fetchIt(),
    { immediate: true },
  );
  return { value, complaint };
}
