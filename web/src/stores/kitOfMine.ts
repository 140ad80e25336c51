/** What the person at the desk owns and how they count: new songs start with it. */
import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";
import { brought, server, type Schemas } from "@/api/client";
import type { NoteNames } from "@/kit";
import { countIn } from "@/score/count";
import { useSong } from "./song";

export type KitOfMine = Schemas["KitOfMine"];

export const useKitOfMine = defineStore("kitOfMine", () => {
  const mine = ref<KitOfMine | null>(null);

  async function find(): Promise<void> {
    mine.value = await brought(server.GET("/api/kit-of-mine"));
  }
  async function keep(wanted: KitOfMine): Promise<void> {
    mine.value = await brought(server.PUT("/api/kit-of-mine", { body: wanted }));
  }
  const song = useSong();
  /** What is read of the song at hand: its own word, else the person's. */
  const read = computed(() => ({
    counting: song.score?.player.counting || mine.value?.counting || "letters",
    reads: song.score?.player.reads || mine.value?.reads || "staff",
    names: (song.score?.player.note_names || mine.value?.note_names || "letters") as NoteNames,
  }));
  watch(() => read.value.counting, (school) => void countIn(school), { immediate: true });
  return { mine, read, find, keep };
});
