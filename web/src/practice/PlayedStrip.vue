<script setup lang="ts">
/** What was played in against what is written: a line a limb, each dot as far from its mark as it was early or late. */
import { computed } from "vue";
import type { Schemas } from "@/api/client";
import { LIMBS } from "@/kit";
import { placeValue, type Clock } from "@/score/time";

const props = defineProps<{ bar: number; judged: Schemas["Judged"]; clock: Clock; width: number }>();
const PAD = 26;
const ROW = 20;
const MS = 0.42; // pixels a millisecond
const beats = computed(() => props.clock.meters[props.bar - 1]!.beats);
const x = (place: string) => PAD + (placeValue(place) / beats.value) * (props.width - 2 * PAD);
const rows = computed(() =>
  LIMBS.map((limb) => ({ limb, strokes: props.judged.strokes.filter((s) => s.bar === props.bar && s.limb === limb) })).filter((r) => r.strokes.length),
);
const dots = (offsets: number[]) => offsets.map((ms) => ({ ms, dx: Math.max(-70, Math.min(70, ms)) * MS }));
</script>

<template>
  <svg :viewBox="`0 0 ${width} ${rows.length * ROW + 6}`" class="strip" role="img" :aria-label="`Bar ${bar}, as it was played in`">
    <g v-for="(r, n) in rows" :key="r.limb" :class="r.limb.toLowerCase()" :transform="`translate(0 ${n * ROW + ROW / 2 + 2})`">
      <text x="2" y="4">{{ r.limb }}</text>
      <line :x1="PAD" :x2="width - PAD" class="lane" />
      <g v-for="(s, k) in r.strokes" :key="k" :transform="`translate(${x(s.place)} 0)`">
        <line y1="-8" y2="8" class="mark" />
        <circle v-for="(d, j) in dots(s.offsets_ms)" :key="j" :cx="d.dx" r="3.2" :class="{ off: Math.abs(d.ms) > 20 }" />
        <text v-if="s.missed" y="-3" x="5" class="missed">{{ s.missed }} missed</text>
      </g>
    </g>
  </svg>
</template>

<style scoped>
.strip { width: 100%; height: auto; display: block; }
text { font-size: 10px; fill: var(--ink-soft); }
.lane { stroke: var(--line); }
.mark { stroke: var(--ink-soft); stroke-width: 1.2; }
circle { fill: var(--ink-faint); fill-opacity: 0.75; }
.rh circle { fill: var(--rh); }
.lh circle { fill: var(--lh); }
.rf circle { fill: var(--rf); }
.lf circle { fill: var(--lf); }
circle.off { stroke: var(--warn); stroke-width: 1.6; fill-opacity: 1; }
.missed { fill: var(--warn); font-weight: 600; }
</style>
