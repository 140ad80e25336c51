/** What the person at the desk owns and how they count: new songs start with it. */
import { defineStore } from "pinia";
import { ref } from "vue";
import { brought, server, type Schemas } from "@/api/client";
import type { CountingSchool } from "@/kit";
import { counting } from "@/score/count";

export type KitOfMine = Schemas["KitOfMine"];

export const useKitOfMine = defineStore("kitOfMine", () => {
  const mine = ref<KitOfMine | null>(null);

  async function find(): Promise<void> {
    const found = await brought(server.GET("/api/kit-of-mine"));
    mine.value = found;
    counting.value = found.counting as CountingSchool;
  }
  async function keep(wanted: KitOfMine): Promise<void> {
    counting.value = wanted.counting as CountingSchool;
    mine.value = await brought(server.PUT("/api/kit-of-mine", { body: wanted }));
  }
  return { mine, find, keep };
});
