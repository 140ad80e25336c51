<script setup lang="ts">
/** Where one stands with a stage: its ladder, the way up so far, and at the top whether it runs by itself. */
import { computed } from "vue";
import type { Schemas } from "@/api/client";
import { CHECKS } from "@/kit";

const props = defineProps<{ stage: Schemas["Stages"]["stages"][number]; rung: Schemas["Rung"]; checks: string[] }>();
const emit = defineEmits<{ ran: [beside: string] }>();
const WIDE = 220;
const HIGH = 54;
/** Every loop as a dot: time from left to right (within a day, one after the other), tempo from below. */
const climb = computed(() => {
  const own = props.stage.climb.map(([ago = 0, tempo = 0]) => [ago, tempo] as const);
  if (own.length < 2) return [];
  const oldest = Math.max(...own.map(([ago]) => ago));
  const along = (ago: number, n: number) => (oldest >= 1 ? 1 - ago / oldest : n / (own.length - 1));
  const tempi = [...own.map(([, tempo]) => tempo), ...props.stage.rungs];
  const [low, high] = [Math.min(...tempi), Math.max(...tempi)];
  return own.map(([ago, tempo], n) => ({ x: 4 + (WIDE - 8) * along(ago, n), y: HIGH - 4 - ((HIGH - 8) * (tempo - low)) / Math.max(1, high - low) }));
});
const since = computed(() => Math.round(Math.max(...props.stage.climb.map(([ago = 0]) => ago), 0)));
const left = computed(() => {
  const days = props.stage.days_left;
  if (days === null || props.rung.is_learned) return "";
  return days < 1 ? "The top is within a day at your pace." : `About ${Math.round(days)} more day${Math.round(days) === 1 ? "" : "s"} to the top at your pace.`;
});
</script>

<template>
  <div class="ladder">
    <span class="tempo figure">{{ Math.round(rung.tempo) }}<small> bpm</small></span>
    <ol class="rungs" aria-label="Tempo ladder"><li v-for="t in stage.rungs" :key="t" :class="{ done: t < rung.tempo || rung.is_learned, now: Math.abs(t - rung.tempo) < 0.5 }"><span class="figure">{{ Math.round(t) }}</span></li></ol>
    <span class="soft">{{ rung.is_learned ? "Learned: at the song's tempo and a little above." : `${rung.clean} of ${stage.run} clean loops` }}</span>
    <figure v-if="climb.length" class="climb">
      <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="`The way up in ${since} days: ${stage.climb.map(([, t = 0]) => Math.round(t)).join(', ')} beats a minute`">
        <line x1="0" :x2="WIDE" :y1="HIGH - 2" :y2="HIGH - 2" />
        <polyline :points="climb.map((p) => `${p.x},${p.y}`).join(' ')" />
        <circle v-for="(p, n) in climb" :key="n" :cx="p.x" :cy="p.y" r="2.4" />
      </svg>
      <figcaption class="soft">{{ since > 0 ? `${since} day${since > 1 ? "s" : ""}` : "today" }}. {{ left }}</figcaption>
    </figure>
    <div v-if="rung.is_learned" class="checks" role="group" aria-label="Does it run by itself?">
      <strong>{{ checks.length === Object.keys(CHECKS).length ? "It runs by itself." : "Does it run by itself? It did while I:" }}</strong>
      <button v-for="(says, key) in CHECKS" :key="key" :class="['plain', { on: checks.includes(String(key)) }]" :aria-pressed="checks.includes(String(key))" @click="emit('ran', String(key))"><i v-if="checks.includes(String(key))" class="pi pi-check" aria-hidden="true" /> {{ says }}</button>
    </div>
  </div>
</template>

<style scoped>
.ladder { display: flex; gap: 0.6rem 1.2rem; align-items: center; flex-wrap: wrap; }
.tempo { font-size: 2.6rem; font-weight: 700; line-height: 1; }
.tempo small { font-size: 1rem; font-weight: 400; }
.rungs { display: flex; gap: 3px; align-items: end; flex-wrap: wrap; margin: 0; padding: 0; list-style: none; }
.rungs li { padding: 0.15rem 0.45rem; border: 1px solid var(--line-strong); border-radius: 5px; }
.rungs li.done { background: var(--well); color: var(--ink-faint); }
.rungs li.now { background: var(--ink); color: var(--paper); font-weight: 700; }
.climb { margin: 0; }
.climb svg { width: 13.75rem; height: 3.4rem; display: block; }
.climb line { stroke: var(--line-strong); }
.climb polyline { fill: none; stroke: var(--ink-soft); stroke-width: 1.2; }
.climb circle { fill: var(--ink); }
.checks { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; flex-basis: 100%; }
</style>
