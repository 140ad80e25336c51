<script setup lang="ts">
/** Two windows changed the same bar, section or words: both readings, and the choice. */
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
/** Words that stand in the two readings: a bar's note and cue, a section's name and note. */
function words(score: typeof sides.value[number]["score"]): string[] {
  const { bars, sections } = clash.value!;
  return [
    ...bars.slice(0, 1).flatMap((bar) => {
      const cue = score.cues?.[bar];
      return [score.notes[bar], cue && [cue.words, ...cue.places].filter(Boolean).join(" ")];
    }),
    ...score.sections
      .filter((s) => sections.includes(s.id))
      .flatMap((s) => [`${s.name}, bars ${s.first_bar} to ${s.first_bar + s.bars - 1}`, s.note, ...Object.values(s.sound)]),
    ...(bars.length || sections.length ? [] : Object.entries(score.sound).map(([key, text]) => `${key}: ${text}`)),
  ].filter((text): text is string => !!text);
}
</script>

<template>
  <Dialog :visible="!!clash" modal :closable="false" :header="clash?.says" :style="{ width: '60rem' }">
    <div v-if="clash" class="both">
      <section v-for="s in sides" :key="s.name">
        <h3>{{ s.name }}</h3>
        <SpineBar v-if="clash.bars.length" :bar="clash.bars[0]!" :strokes="s.score.strokes.filter((x) => x.bar === clash!.bars[0])" :clock="new Clock(s.score)" :width="420" :height="210" :grid="4" />
        <p v-for="text in words(s.score)" :key="text" class="words">{{ text }}</p>
        <button class="plain" @click="desk.decide(s.useMine)">{{ s.word }}</button>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.both { display: grid; grid-template-columns: 1fr 1fr; gap: 1rem; }
.words { margin: 0; }
section { display: grid; gap: 0.5rem; justify-items: start; }
</style>
