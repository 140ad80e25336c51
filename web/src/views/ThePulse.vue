<script setup lang="ts">
/** Pulse: how fast, how steady, where is 1, which meter; and putting it right. */
import { useElementSize, useEventListener } from "@vueuse/core";
import Select from "primevue/select";
import { computed, ref, watch } from "vue";
import WaveForm from "@/desk/WaveForm.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const METERS = ["2/4", "3/4", "4/4", "5/4", "6/4", "7/4", "6/8", "7/8", "9/8", "12/8"];
const meter = computed(() => desk.score?.meters[0] ?? "4/4");
const tempo = computed(() => desk.shown!.tempo);
const range = computed(() => {
  const t = tempo.value;
  if (t.steady || t.high - t.low < 1) return "to a click";
  return `${t.low.toFixed(0)} to ${t.high.toFixed(0)}, no click`;
});
const rivals = computed(() => {
  const bpm = tempo.value.bpm;
  return tempo.value.alternatives
    .map((a) => ({ bpm: a, factor: a / bpm }))
    .filter((r) => Math.abs(r.factor - 2) < 0.08 || Math.abs(r.factor - 0.5) < 0.03);
});

/** Tempo of every bar, for the line. */
const line = computed(() => {
  const clock = desk.clock!;
  return Array.from({ length: clock.bars }, (_, i) => {
    const a = clock.barStart(i + 1);
    const b = clock.barEnd(i + 1);
    return { bar: i + 1, at: (a + b) / 2, bpm: (60 * clock.meters[i]!.beats) / (b - a) };
  });
});
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);
const HEIGHT = 150;
const span = computed(() => {
  const all = line.value.map((p) => p.bpm);
  const middle = tempo.value.bpm;
  const far = Math.max(middle * 0.035, ...all.map((b) => Math.abs(b - middle))) * 1.15;
  return { low: middle - far, high: middle + far };
});
const x = (seconds: number) => 44 + (seconds / desk.shown!.duration) * (width.value - 54);
const y = (bpm: number) =>
  14 + (1 - (bpm - span.value.low) / (span.value.high - span.value.low)) * (HEIGHT - 28);
const path = computed(() => line.value.map((p, i) => `${i ? "L" : "M"}${x(p.at).toFixed(1)} ${y(p.bpm).toFixed(1)}`).join(""));
const ticks = computed(() => {
  const { low, high } = span.value;
  const step = [0.5, 1, 2, 5, 10, 20].find((s) => (high - low) / s < 6) ?? 40;
  const all = [];
  for (let b = Math.ceil(low / step) * step; b <= high; b += step) all.push(b);
  return all;
});

const seconds = ref(16);
const start = ref(Math.max(0, desk.clock!.barStart(1) - 0.5));
const stop = computed(() => start.value + seconds.value);
watch(
  () => playback.now,
  (t) => {
    if (t < start.value || t > stop.value - 0.5) start.value = Math.max(0, t - 0.8);
  },
);
function zoom(factor: number, around: number): void {
  const before = seconds.value;
  seconds.value = Math.min(120, Math.max(4, before * factor));
  start.value = Math.max(0, around - ((around - start.value) / before) * seconds.value);
}

useEventListener("keydown", (e: KeyboardEvent) => {
  if (e.target instanceof HTMLElement && e.target.closest("input, select, [role=combobox], [role=listbox], [role=dialog]")) return;
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.key === "h") desk.edit("halve_tempo");
  else if (e.key === "d") desk.edit("double_tempo");
  else if (e.key === "ArrowLeft") desk.edit("shift_one", { beats: -1 });
  else if (e.key === "ArrowRight") desk.edit("shift_one", { beats: 1 });
});
</script>

<template>
  <div class="pulse">
    <section class="card tell">
      <div class="tempo figure">
        <strong>{{ tempo.steady ? tempo.bpm.toFixed(1) : `about ${tempo.bpm.toFixed(0)}` }}</strong>
        <span>beats a minute<br /><span class="soft">{{ range }}</span></span>
      </div>
      <div class="act">
        <h2>Too fast or too slow?</h2>
        <button class="plain" @click="desk.edit('halve_tempo')">Halve <span class="key">h</span></button>
        <button class="plain" @click="desk.edit('double_tempo')">Double <span class="key">d</span></button>
        <p class="soft figure">Could also be {{ rivals.map((r) => Math.round(r.bpm)).join(" or ") }}</p>
      </div>
      <div class="act">
        <h2>Is the 1 elsewhere?</h2>
        <button class="plain" @click="desk.edit('shift_one', { beats: -1 })"><i class="pi pi-arrow-left" /> A beat earlier</button>
        <button class="plain" @click="desk.edit('shift_one', { beats: 1 })">A beat later <i class="pi pi-arrow-right" /></button>
        <p class="soft">All strokes are read anew; what you wrote keeps its moment.</p>
      </div>
      <div class="act">
        <h2 id="meter">Meter</h2>
        <Select :model-value="meter" :options="METERS" aria-labelledby="meter" @update:model-value="(m: string) => desk.edit('set_meter', { meter: m })" />
        <p class="soft figure">{{ desk.clock!.bars }} bars</p>
      </div>
    </section>
    <section class="card">
      <h2>Tempo, bar by bar</h2>
      <div ref="frame">
        <svg :width="width" :height="HEIGHT" class="line" role="img" :aria-label="`Tempo line, ${tempo.low.toFixed(0)} to ${tempo.high.toFixed(0)}`">
          <g v-for="t in ticks" :key="t">
            <line class="grid" :x1="44" :x2="width - 10" :y1="y(t)" :y2="y(t)" />
            <text class="tick" x="38" :y="y(t) + 5">{{ Number.isInteger(t) ? t : t.toFixed(1) }}</text>
          </g>
          <line class="middle" :x1="44" :x2="width - 10" :y1="y(tempo.bpm)" :y2="y(tempo.bpm)" />
          <path :d="path" class="path" />
          <circle v-for="p in line" :key="p.bar" class="bar" :cx="x(p.at)" :cy="y(p.bpm)" r="3.4" @pointerdown="playback.seek(desk.clock!.barStart(p.bar))">
            <title>bar {{ p.bar }}: {{ p.bpm.toFixed(1) }}</title>
          </circle>
          <line class="now" :x1="x(playback.now)" :x2="x(playback.now)" y1="0" :y2="HEIGHT" />
        </svg>
      </div>
    </section>
    <section class="card">
      <div class="head">
        <h2>Beats on the sound</h2>
        <span class="soft">Thick lines are the 1 of each bar. Click to listen from there.</span>
        <span class="grow" />
        <button class="plain" aria-label="See more" @click="zoom(1.5, playback.now)"><i class="pi pi-search-minus" /></button>
        <button class="plain" aria-label="See closer" @click="zoom(0.66, playback.now)"><i class="pi pi-search-plus" /></button>
      </div>
      <WaveForm :from="start" :to="stop" :now="playback.now" :height="150" numbers @seek="playback.seek" @zoom="zoom" />
      <WaveForm class="whole" :from="0" :to="desk.shown!.duration" :now="playback.now" :height="56" numbers @seek="playback.seek" />
    </section>
  </div>
</template>

<style scoped>
.pulse { padding: 1rem; display: grid; gap: 0.8rem; max-width: 1400px; margin: 0 auto; }
.card { padding: 0.8rem 1rem; }
.tell { display: grid; grid-template-columns: auto 1fr 1.3fr 0.7fr; gap: 2rem; align-items: start; }
.tempo { display: flex; align-items: center; gap: 0.8rem; line-height: 1.25; }
.tempo strong { font-size: 2.7rem; white-space: nowrap; }
.act h2 { font-size: 1rem; margin-bottom: 0.35rem; }
.act .plain { margin-right: 0.4rem; }
.act p { font-size: 0.9rem; margin-top: 0.35rem; }
.line { display: block; }
.grid { stroke: var(--line); }
.middle { stroke: var(--line-strong); stroke-dasharray: 6 5; }
.tick { text-anchor: end; font-size: 13px; fill: var(--ink-soft); }
.path { fill: none; stroke: var(--rh); stroke-width: 2.2; }
.bar { fill: var(--sheet); stroke: var(--rh); stroke-width: 2; cursor: pointer; }
.now { stroke: var(--now); stroke-width: 2; pointer-events: none; }
.head { display: flex; gap: 0.8rem; align-items: center; margin-bottom: 0.4rem; }
.grow { flex: 1; }
.whole { margin-top: 0.5rem; border-top: 1px solid var(--line); }
@media (max-width: 1000px) { .tell { grid-template-columns: 1fr 1fr; } }
</style>
