<script setup lang="ts">
/** Every stroke of every voice against the pulse: a column for each place of the bar, early to
 * the left of its middle, late to the right; the bar in it is the median. */
import { computed } from "vue";
import type { Schemas } from "@/api/client";
import { placeValue } from "@/score/time";
import { placeName } from "./grooves";

const props = defineProps<{
  points: Schemas["Point"][];
  placement: Schemas["Placement"][];
  beats: number;
  isCompound: boolean;
  width: number;
}>();
const emit = defineEmits<{ play: [bar: number, place: string] }>();

const LEFT = 92;
const ROW = 40;
const REACH = 30; // ms to either side of a column's middle
const MOST = 900; // dots of a voice
const VOICES = ["time hand", "backbeat", "ghosts", "toms", "kick", "left foot"];
const CLASS: Record<string, string> = { "time hand": "rh", backbeat: "lh", ghosts: "lh", toms: "rh", kick: "rf", "left foot": "lf" };

const places = computed(() => {
  const count = new Map<string, number>();
  for (const p of props.points) if (placeValue(p.place) < props.beats) count.set(p.place, (count.get(p.place) ?? 0) + 1);
  return [...count].filter(([, n]) => n >= 3).map(([p]) => p).sort((a, b) => placeValue(a) - placeValue(b));
});
const step = computed(() => (props.width - LEFT - 8) / Math.max(1, places.value.length));
const column = computed(() => new Map(places.value.map((p, n) => [p, LEFT + (n + 0.5) * step.value])));
const reach = computed(() => Math.min(34, step.value / 2 - 1));
const off = (ms: number) => (Math.max(-REACH, Math.min(REACH, ms)) / REACH) * reach.value;
const rows = computed(() =>
  VOICES.map((voice) => {
    const own = props.points.filter((p) => p.voice === voice && column.value.has(p.place));
    const thin = Math.max(1, Math.ceil(own.length / MOST));
    return { voice, all: own.length, dots: own.filter((_, n) => n % thin === 0) };
  })
    .filter((r) => r.all >= 3)
    .map((r, n) => {
      const top = 6 + n * ROW;
      const known = props.placement.find((p) => p.voice === r.voice);
      return {
        ...r, top, known,
        dots: r.dots.map((p, k) => ({ ...p, x: column.value.get(p.place)! + off(p.ms), y: top + 5 + ((k * 7) % 23) })),
        medians: (known?.places ?? []).filter((p) => column.value.has(p.place)).map((p) => ({ ...p, x: column.value.get(p.place)! + off(p.ms) })),
      };
    }),
);
const height = computed(() => 6 + rows.value.length * ROW + 20);
</script>

<template>
  <svg :width="width" :height="height" role="img" :aria-label="`Placement of ${points.length} strokes`">
    <g v-for="p in places" :key="p">
      <line :class="['middle', { beat: placeValue(p) % 1 === 0 }]" :x1="column.get(p)" :x2="column.get(p)" y1="2" :y2="height - 18" />
      <text v-if="step > 17 || placeValue(p) % 1 === 0" class="name" :class="{ beat: placeValue(p) % 1 === 0 }" :x="column.get(p)" :y="height - 4">{{ placeName(p, isCompound) }}</text>
    </g>
    <g v-for="r in rows" :key="r.voice" :class="CLASS[r.voice]">
      <line class="row" x1="0" :x2="width" :y1="r.top + ROW - 3" :y2="r.top + ROW - 3" />
      <text class="voice" x="0" :y="r.top + 15">{{ r.voice }}</text>
      <text v-if="r.known" class="ms" x="0" :y="r.top + 30">{{ r.known.ms > 0 ? "+" : r.known.ms < 0 ? "−" : "" }}{{ Math.abs(r.known.ms).toFixed(1) }} ms</text>
      <circle v-for="d in r.dots" :key="d.id" class="dot" :cx="d.x" :cy="d.y" r="2.6" @click="emit('play', d.bar, d.place)"><title>bar {{ d.bar }}: {{ d.ms }} ms, {{ d.db }} dB</title></circle>
      <line v-for="m in r.medians" :key="m.place" class="median" :x1="m.x" :x2="m.x" :y1="r.top + 1" :y2="r.top + 32"><title>{{ m.ms }} ms, {{ m.count }} strokes</title></line>
    </g>
  </svg>
</template>

<style scoped>
svg { display: block; }
.middle { stroke: var(--line); }
.middle.beat { stroke: var(--line-strong); stroke-width: 1.5; }
.name { text-anchor: middle; font-size: 12px; fill: var(--ink-faint); }
.name.beat { font-weight: 700; fill: var(--ink); }
.row { stroke: var(--line); }
.voice { font-size: 14px; font-weight: 700; fill: var(--ink); }
.ms { font-size: 13px; fill: var(--ink-soft); font-variant-numeric: tabular-nums; }
.dot { opacity: 0.38; cursor: pointer; }
.dot:hover { opacity: 1; }
.median { stroke-width: 3.5; stroke-linecap: round; pointer-events: none; }
.rh { --own: var(--rh); } .lh { --own: var(--lh); } .rf { --own: var(--rf); } .lf { --own: var(--lf); }
.dot { fill: var(--own); }
.median { stroke: var(--own); }
</style>
