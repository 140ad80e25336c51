import { defineStore } from "pinia";
import { ref } from "vue";
import { brought, server } from "@/api/client";

export const useSession = defineStore("session", () => {
  const name = ref<string | null | undefined>(undefined);

  async function find(): Promise<string | null> {
    if (name.value === undefined) {
      name.value = (await brought(server.GET("/api/session"))).name;
    }
    return name.value;
  }

  async function enter(who: string, password: string): Promise<void> {
    name.value = (await brought(server.POST("/api/session", { body: { name: who, password } }))).name;
  }

  async function leave(): Promise<void> {
    await server.DELETE("/api/session");
    name.value = null;
  }

  return { name, find, enter, leave };
});
