/** The outline of the open take: one peak (0..255) every 10 ms. */
import { defineStore } from "pinia";
import { shallowRef, watch } from "vue";
import { askBytes } from "@/api/client";
import { useSong } from "./song";

export const OUTLINE_RATE = 100;

export const useOutline = defineStore("outline", () => {
  const desk = useSong();
  const peaks = shallowRef<Uint8Array | null>(null);
  watch(
    () => desk.shown?.take,
    async (take) => {
      peaks.value = null;
      if (!take) return;
      try {
        const bytes = new Uint8Array(await askBytes(`takes/${take}/outline`));
        if (desk.shown?.take === take) peaks.value = bytes;
      } catch {
        peaks.value = new Uint8Array(0);
      }
    },
    { immediate: true },
  );
  return { peaks };
});
