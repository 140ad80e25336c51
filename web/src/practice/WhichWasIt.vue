<script setup lang="ts">
/** Which was it?: a stretch of the recording sounds, the confirmed transcription is the key. */
import { useLocalStorage } from "@vueuse/core";
import { computed, onMounted, onUnmounted, ref, shallowRef } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import KeyCap from "@/keys/KeyCap.vue";
import { useKeys } from "@/keys/useKeys";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

type Question = Schemas["Question"];
const KINDS = [["", "Anything"], ["section", "Which section"], ["variation", "Which bar"], ["there", "Was it there"], ["one", "Where is the 1"]] as const;
const LEVELS = 5;
const desk = useSong();
const playback = usePlayback();
const kind = ref<(typeof KINDS)[number][0]>("");
const asked = shallowRef<Question | null>(null);
const chosen = ref<number | null>(null);
const complaint = ref("");
const kept = useLocalStorage("orchesis.which", { level: 1, right: 0, asked: 0 });
let last: boolean[] = [];
const isRight = computed(() => chosen.value !== null && chosen.value === asked.value?.answer);

async function next(): Promise<void> {
  chosen.value = null;
  complaint.value = "";
  const seed = Math.floor(Math.random() * 1e9);
  try {
    asked.value = await brought(server.GET("/api/songs/{id}/question", { params: { ...of(desk.id), query: { seed, level: kept.value.level, last: last.map((r) => (r ? "1" : "0")).join(""), ...(kind.value ? { kind: kind.value } : {}) } } }));
    if (asked.value.level !== kept.value.level) last = [];
    kept.value = { ...kept.value, level: asked.value.level };
    hear();
  } catch (problem) {
    asked.value = null;
    complaint.value = (problem as Error).message;
  }
}
function hear(): void {
  const q = asked.value;
  if (!q) return;
  playback.sounding = "recording";
  playback.speed = 1;
  playback.loop = null;
  playback.clicksAt = q.clicks;
  playback.playStretch(q.start, q.end);
}
function answer(n: number): void {
  const q = asked.value;
  if (!q || chosen.value !== null || n >= q.options.length) return;
  chosen.value = n;
  last = [...last, n === q.answer].slice(-3);
  kept.value = { ...kept.value, right: kept.value.right + Number(n === q.answer), asked: kept.value.asked + 1 };
}
useKeys("which", { answer: (_, n) => answer(n), hear, next: () => void next() });
onMounted(() => {
  playback.isHidden = true;
  void next();
});
onUnmounted(() => {
  playback.isHidden = false;
  playback.clicksAt = null;
  playback.pause();
});
</script>

<template>
  <section class="card which" aria-label="Which was it?">
    <p class="line">
      <strong>Which was it?</strong>
      <select v-model="kind" class="plain" aria-label="What is asked" @change="next"><option v-for="[key, label] in KINDS" :key="key" :value="key">{{ label }}</option></select>
      <span class="grow" />
      <span class="soft figure">level {{ kept.level }} of {{ LEVELS }} · {{ kept.right }} of {{ kept.asked }} right</span>
    </p>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <template v-else-if="asked">
      <h2>{{ asked.asks }}</h2>
      <ol class="options" aria-label="Answers">
        <li v-for="(o, n) in asked.options" :key="n">
          <button :class="['plain', 'option', { right: chosen !== null && n === asked.answer, missed: chosen === n && !isRight }]" :disabled="chosen !== null" @click="answer(n)">
            <KeyCap scope="which" action="answer" :which="n" />
            <SpineThumb v-if="o.bar" :bar="o.bar" :strokes="desk.byBar.get(o.bar) ?? []" :clock="desk.clock!" class="thumb" />
            <span v-else>{{ o.says }}</span>
            <i v-if="chosen !== null && n === asked.answer" class="pi pi-check" />
          </button>
        </li>
      </ol>
      <p role="status" class="told">{{ chosen === null ? "Listen, then choose." : `${isRight ? "Right." : "No."} ${asked.because}` }}</p>
      <div class="line">
        <button class="plain big" @click="hear"><i class="pi pi-replay" /> Hear it again <KeyCap scope="which" action="hear" /></button>
        <button class="plain big" @click="next">Next <KeyCap scope="which" action="next" /></button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.which { padding: 0.9rem 1.1rem; display: grid; gap: 0.8rem; align-content: start; }
.line { display: flex; gap: 0.6rem; align-items: center; flex-wrap: wrap; margin: 0; }
.grow { flex: 1; }
h2 { font-size: 1.6rem; margin: 0; }
.options { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(15rem, 1fr)); gap: 0.5rem; }
.option { width: 100%; display: flex; gap: 0.7rem; align-items: center; padding: 0.7rem 0.8rem; font-size: 1.1rem; text-align: left; }
.option:disabled { opacity: 1; }
.option.right { border-color: var(--ink); border-width: 2px; }
.option.missed { border-color: var(--warn); text-decoration: line-through; }
.thumb { width: 11rem; }
.big { padding: 0.5rem 0.9rem; }
.told { margin: 0; font-size: 1.15rem; min-height: 1.6em; }
.wrong { color: var(--warn); }
</style>
