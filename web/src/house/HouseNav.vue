<script setup lang="ts">
/** The rooms of the house that belong to no song, in the top bar. */
import { onMounted, ref } from "vue";
import { brought, server } from "@/api/client";

const ROOMS = [
  { name: "shelf", label: "Shelf" },
  { name: "lists", label: "Lists and lessons" },
  { name: "people", label: "People and account" },
] as const;
const mentions = ref(0);
onMounted(async () => {
  mentions.value = await brought(server.GET("/api/mentions")).then((m) => m.mentions.length, () => 0);
});
</script>

<template>
  <div class="rooms">
    <RouterLink v-for="r in ROOMS" :key="r.name" :to="{ name: r.name }" class="room" active-class="" exact-active-class="on">{{ r.label }}<span v-if="r.name === 'people' && mentions" class="count" :title="`${mentions} open ${mentions === 1 ? 'comment asks' : 'comments ask'} for you`">{{ mentions }}</span></RouterLink>
  </div>
</template>

<style scoped>
.rooms { display: flex; gap: 2px; margin-left: 0.6rem; background: var(--well); border-radius: 9px; padding: 3px; }
.room { padding: 0.3rem 0.7rem; border-radius: 7px; text-decoration: none; color: var(--ink-soft); }
.room.on { background: var(--sheet); color: var(--ink); font-weight: 700; box-shadow: 0 1px 2px rgb(0 0 0 / 0.14); }
.count { margin-left: 0.35rem; background: var(--lh); color: var(--paper); border-radius: 999px; padding: 0 0.45em; font-size: 0.85rem; font-weight: 700; }
@media (max-width: 900px) { .room { padding: 0.3rem 0.4rem; font-size: 0.92rem; } .rooms { margin-left: 0; } }
</style>
