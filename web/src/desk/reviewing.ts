/** Walking the review queue: each doubt loops by itself and is answered with one key. */
import { computed, ref, shallowRef, watch } from "vue";
import { brought, of, server, type Doubt, type Edit, type PartName, type Review, type StrokeEdit } from "@/api/client";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { freshId } from "./clipboard";

/** The reason that stands beside a stroke which is left out in review. */
const WHY: Record<string, string> = {
  echo: "an echo of the delay effect",
  hands: "a layered recording: no two hands play that",
};

export function useReviewing(go: (bar: number) => void) {
  const desk = useSong();
  const playback = usePlayback();
  const isOn = ref(false);
  const found = shallowRef<Review | null>(null);
  const answered = ref(0);
  const skipped = ref<string[]>([]);
  const at = ref(0); // which bar of a recurring doubt is heard

  const open = computed(() => (found.value?.doubts ?? []).filter((d) => !skipped.value.includes(d.key)));
  const doubt = computed<Doubt | null>(() => open.value[0] ?? null);
  const left = computed(() => found.value?.doubts.length ?? 0);
  const minutes = computed(() => found.value?.minutes ?? 0);

  async function fetchQueue(): Promise<void> {
    const song = desk.id;
    const queue = await brought(server.GET("/api/songs/{id}/transcription/review", { params: of(song) })).catch(() => null);
    if (queue && desk.id === song) found.value = queue;
  }
  watch(() => desk.state, () => isOn.value && desk.isSaved && void fetchQueue());

  async function start(): Promise<void> {
    isOn.value = true;
    answered.value = 0;
    await fetchQueue();
  }
  function stop(): void {
    isOn.value = false;
    playback.loop = null;
    playback.pause();
  }
  /** The doubt's bar, looping; its strokes are shown chosen. */
  function hear(bar: number): void {
    const clock = desk.clock!;
    go(bar);
    if (doubt.value?.kind === "sound") {
      playback.loop = null;
      if (isOn.value) playback.excerpts(doubt.value.examples);
      return;
    }
    playback.loop = [clock.barStart(bar), clock.barEnd(bar)];
    if (isOn.value) playback.play(clock.barStart(bar));
  }
  watch(
    () => doubt.value?.key,
    (key) => {
      at.value = 0;
      if (key && isOn.value) hear(doubt.value!.bars[0]!);
      else if (isOn.value) playback.pause();
    },
  );
  function nextBar(by: number): void {
    const bars = doubt.value?.bars ?? [];
    if (!bars.length) return;
    at.value = (at.value + by + bars.length) % bars.length;
    hear(bars[at.value]!);
  }

  /** Edits of all bars of the doubt; what is answered leaves the queue at once. */
  function settle(edits: StrokeEdit[] | Edit): void {
    const own = doubt.value;
    if (!own) return;
    if (!Array.isArray(edits)) desk.edit(edits);
    else if (edits.length) desk.editMany(edits);
    else desk.edit({ operation: "settle", key: own.key });
    answered.value++;
    found.value = { ...found.value!, doubts: found.value!.doubts.filter((d) => d.key !== own.key) };
  }
  const all = (edit: (id: string) => StrokeEdit) => (doubt.value?.strokes ?? []).map(edit);

  /** It is as it is written. */
  function right(): void {
    if (doubt.value?.kind === "sound") return settle([]);
    if (doubt.value?.kind === "perhaps") return settle({ operation: "write_perhaps", ids: doubt.value.perhaps });
    if (doubt.value?.kind === "echo" || doubt.value?.kind === "hands") settle([]);
    else settle(all((id) => ({ operation: "set_doubt", id, doubt: "" })));
  }
  /** It is not: strokes in doubt go, a missing one is written. */
  function wrong(): void {
    const own = doubt.value;
    if (own?.kind === "perhaps") return settle({ operation: "drop_perhaps", ids: own.perhaps });
    if (own?.sound) return settle({ operation: "dismiss_sound", sound: own.sound });
    if (own?.kind !== "missing") return settle(all((id) => ({ operation: "remove_stroke", id })));
    settle(
      own.bars.map((bar) => ({
        operation: "add_stroke", id: freshId(), bar, place: own.place, part: own.part,
        limb: own.limb,
      })),
    );
  }
  function change(part: string): void {
    const sound = doubt.value?.sound;
    if (sound) return part === doubt.value!.part ? right() : settle({ operation: "name_sound", sound, part: part as PartName });
    if (doubt.value?.strokes.length) settle(all((id) => ({ operation: "set_part", id, part: part as PartName })));
  }
  function leaveOut(): void {
    const reason = WHY[doubt.value?.kind ?? ""] ?? "not part of the song's own groove";
    if (doubt.value?.strokes.length) settle(all((id) => ({ operation: "set_doubt", id, doubt: "left_out", reason })));
  }
  function keepDoubtful(): void {
    if (doubt.value?.strokes.length) settle(all((id) => ({ operation: "set_doubt", id, doubt: "assumed", reason: "assumed in review" })));
  }
  /** They are two sounds: both are asked about anew. */
  function split(): void {
    const own = doubt.value;
    if (own?.sound && own.can_split) settle({ operation: "split_sound", sound: own.sound });
  }
  function skip(): void {
    if (doubt.value) skipped.value = [...skipped.value, doubt.value.key];
  }
  function back(): void {
    skipped.value = skipped.value.slice(0, -1);
  }

  return {
    isOn, doubt, left, minutes, answered, at, skipped, open,
    fetchQueue, start, stop, nextBar, right, wrong, change, leaveOut, keepDoubtful, split, skip, back,
  };
}

export type Reviewing = ReturnType<typeof useReviewing>;
