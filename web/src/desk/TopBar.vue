<script setup lang="ts">
import { useToggle } from "@vueuse/core";
import { useDarkness } from "@/inks";
import { useRouter } from "vue-router";
import { useSession } from "@/stores/session";

const session = useSession();
const router = useRouter();
const isDark = useDarkness();
const toggleDark = useToggle(isDark);

async function leave(): Promise<void> {
  await session.leave().catch(() => {});
  await router.push({ name: "log-in" });
}
</script>

<template>
  <nav class="top" aria-label="Orchesis">
    <RouterLink to="/" class="word"><img src="/mark.svg" alt="" width="26" height="26" />Orchesis</RouterLink>
    <slot />
    <span class="grow" />
    <slot name="end" />
    <button class="plain icon" :aria-label="isDark ? 'Light theme' : 'Dark theme'" @click="toggleDark()">
      <i :class="isDark ? 'pi pi-sun' : 'pi pi-moon'" />
    </button>
    <button class="plain icon" :aria-label="`Log out ${session.name}`" :title="`Log out ${session.name}`" @click="leave">
      <i class="pi pi-sign-out" />
    </button>
  </nav>
</template>

<style scoped>
.top {
  display: flex; align-items: center; gap: 0.7rem; min-height: 52px; padding: 0 1rem;
  background: var(--sheet); border-bottom: 1px solid var(--line);
}
.word { display: flex; gap: 0.5rem; align-items: center; font-weight: 700; font-size: 1.15rem; color: var(--ink); text-decoration: none; }
:root.dark .word img { filter: invert(0.85) hue-rotate(180deg); }
.grow { flex: 1; }
@media (max-width: 1000px) { .top { flex-wrap: wrap; padding: 0.35rem 0.8rem; gap: 0.35rem 0.5rem; } }
@media (max-width: 1150px) { .word { font-size: 0; gap: 0; } }
.icon { padding: 0.35rem 0.6rem; }
</style>
