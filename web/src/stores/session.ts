import { defineStore } from "pinia";
import { ref } from "vue";
import { ask } from "@/api/client";

export const useSession = defineStore("session", () => {
  const name = ref<string | null | undefined>(undefined);

  async function find(): Promise<string | null> {
    if (name.value === undefined) {
      name.value = (await ask<{ name: string | null }>("GET", "session")).name;
    }
    return name.value;
  }

  async function enter(who: string, password: string): Promise<void> {
    name.value = (await ask<{ name: string }>("POST", "session", { name: who, password })).name;
  }

  async function leave(): Promise<void> {
    await ask("DELETE", "session");
    name.value = null;
  }

  return { name, find, enter, leave };
});
