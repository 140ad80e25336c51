import { defineStore } from "pinia";
import { ref } from "vue";
import { brought, server, type Schemas } from "@/api/client";

export const useSession = defineStore("session", () => {
  const name = ref<string | null | undefined>(undefined);
  /** Whether anybody may make an account, or only who was invited. */
  const isOpen = ref(false);

  function put(told: Schemas["SessionState"]): void {
    name.value = told.name;
    isOpen.value = told.sign_up_is_open;
  }

  async function find(): Promise<string | null> {
    if (name.value === undefined) put(await brought(server.GET("/api/session")));
    return name.value ?? null;
  }

  async function enter(who: string, password: string): Promise<void> {
    put(await brought(server.POST("/api/session", { body: { name: who, password } })));
  }

  /** A new account, by an invitation or where anybody may have one. */
  async function make(who: string, password: string, invitation: string): Promise<void> {
    put(await brought(server.POST("/api/accounts", { body: { name: who, password, invitation } })));
  }

  async function leave(): Promise<void> {
    await server.DELETE("/api/session");
    name.value = null;
  }

  return { name, isOpen, find, enter, make, leave };
});
