<script setup lang="ts">
/** The song as it is played: section by section, each from the bar before it, and the joins between them. */
import { computed } from "vue";
import { useSong } from "@/stores/song";

defineProps<{ first: number; last: number }>();
const emit = defineEmits<{ chosen: [first: number, last: number] }>();
const MOST = 32;
const desk = useSong();
const ways = computed(() => desk.score!.sections.map((s, n, all) => {
  const end = s.first_bar + s.bars - 1;
  return {
    name: s.name, id: s.id,
    whole: [Math.max(1, s.first_bar - 1), Math.min(end, s.first_bar - 1 + MOST - 1)] as const,
    join: n + 1 < all.length ? ([Math.max(s.first_bar, end - 1), Math.min(end + 2, desk.clock!.bars)] as const) : null,
  };
}));
</script>

<template>
  <details class="song">
    <summary>The song, section by section</summary>
    <ol aria-label="The song, section by section">
      <li v-for="(s, n) in ways" :key="s.id">
        <button class="plain" :class="{ on: first === s.whole[0] && last === s.whole[1] }" :title="`Bars ${s.whole[0]} to ${s.whole[1]}, from the bar before it`" @click="emit('chosen', ...s.whole)">{{ s.name }}</button>
        <button v-if="s.join" class="plain join" :class="{ on: first === s.join[0] && last === s.join[1] }" :aria-label="`The join into ${ways[n + 1]!.name}`" :title="`The join: bars ${s.join[0]} to ${s.join[1]}`" @click="emit('chosen', ...s.join)"><i class="pi pi-arrow-down" aria-hidden="true" /> join</button>
      </li>
    </ol>
  </details>
</template>

<style scoped>
.song summary { cursor: pointer; font-weight: 600; }
ol { margin: 0.4rem 0 0; padding: 0; list-style: none; display: grid; gap: 0.25rem; max-height: 16rem; overflow: auto; }
li { display: grid; grid-template-columns: 1fr auto; gap: 0.3rem; }
li button { text-align: left; }
.join { padding-inline: 0.5rem; }
</style>
