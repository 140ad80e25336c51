<script setup lang="ts">
/** Two windows changed the same bar: both readings, and the choice. */
import Dialog from "primevue/dialog";
import { computed } from "vue";
import SpineBar from "@/spine/SpineBar.vue";
import { Clock } from "@/score/time";
import { useSong } from "@/stores/song";

const desk = useSong();
const clash = computed(() => desk.clash);
const sides = computed(() => {
  const c = clash.value;
  if (!c) return [];
  return [
    { name: "In the other window", score: c.theirs, useMine: false, word: "Keep that" },
    { name: "Yours", score: c.mine, useMine: true, word: "Write mine over it" },
  ];
});
</script>

<template>
  <Dialog :visible="!!clash" modal :closable="false" :header="clash ? `Bar ${clash.bars[0]} was changed in another window` : ''" :style="{ width: '60rem' }">
    <div v-if="clash" class="both">
      <section v-for="s in sides" :key="s.name">
        <h3>{{ s.name }}</h3>
        <SpineBar :bar="clash.bars[0]!" :strokes="s.score.strokes.filter((x) => x.bar === clash!.bars[0])" :clock="new Clock(s.score)" :width="420" :height="210" :grid="4" />
        <button class="plain" @click="desk.decide(s.useMine)">{{ s.word }}</button>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.both { display: grid; grid-template-columns: 1fr 1fr; gap: 1rem; }
section { display: grid; gap: 0.5rem; justify-items: start; }
</style>
