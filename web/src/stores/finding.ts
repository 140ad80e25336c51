/** One thing that the server reads from the score, fetched anew when the score has changed. */
import { ref, shallowRef, watch, type Ref, type ShallowRef } from "vue";
import { brought, retryWhileAway } from "@/api/client";
import { useSong } from "./song";

export interface Finding<T> {
  value: ShallowRef<T | null>;
  complaint: Ref<string>;
}

/** `call` fetches it for a song; where what it was `asked` with changes, it is fetched again. */
export function useFinding<T extends { version: number }>(
  call: (song: number) => Promise<{ data?: T }>,
  asked: () => unknown = () => "",
): Finding<T> {
  const desk = useSong();
  const value = shallowRef<T | null>(null) as ShallowRef<T | null>;
  const complaint = ref("");
  let wanted = "";

  async function fetchIt(): Promise<void> {
    const song = desk.id;
    const key = `${song} ${desk.state} ${String(asked())}`;
    wanted = key;
    try {
      const found = await retryWhileAway(() => brought(call(song)), (why) => (complaint.value = why), () => wanted === key);
      if (wanted !== key) return;
      value.value = found;
      complaint.value = "";
    } catch (problem) {
      if (wanted === key) complaint.value = (problem as Error).message;
    }
  }
  watch(
    [asked, () => desk.id, () => desk.state, () => desk.isSaved],
    ([, song, , saved]) => song && desk.shown && saved && void fetchIt(),
    { immediate: true },
  );
  return { value, complaint };
}
