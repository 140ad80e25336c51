<script setup lang="ts">
/** The same picture very small: one path of stems and one of heads a limb. */
import { computed } from "vue";
import type { Stroke } from "@/api/client";
import { LIMBS, part, type Limb } from "@/kit";
import { placeValue, type Clock } from "@/score/time";

import { mark } from "./shapes";

const props = defineProps<{
  bar: number;
  strokes: Stroke[];
  clock: Clock;
  /** signatures of the strokes that differ from an earlier bar; null draws all alike */
  different?: Set<string> | null;
}>();

const W = 120;
const H = 44;
const BASE: Record<Limb, number> = { RH: 16, LH: 26, RF: 28, LF: 39 };

function key(s: Stroke): string {
  return `${s.place} ${s.part} ${s.dynamic === "ghost" ? "g" : ""}`;
}

const drawn = computed(() => {
  const beats = props.clock.meters[props.bar - 1]!.beats;
  return LIMBS.flatMap((limb) =>
    [true, false].map((isQuiet) => {
      const own = props.strokes.filter(
        (s) => s.limb === limb && !!props.different && isQuiet === !props.different.has(key(s)),
      );
      const strokes = props.different ? own : isQuiet ? [] : props.strokes.filter((s) => s.limb === limb);
      let stems = "";
      let heads = "";
      for (const s of strokes) {
        const x = +(5 + (placeValue(s.place) / beats) * (W - 8)).toFixed(1);
        const up = limb === "RH" || limb === "LH";
        const length = 3 + s.loudness * (limb === "LF" ? 1 : limb === "RH" ? 9 : 8.5);
        const y = +(up ? BASE[limb] - length : BASE[limb] + length).toFixed(1);
        stems += `M${x} ${BASE[limb]}V${y}`;
        heads += mark(part(s.part).shape, x, y);
      }
      return { limb, isQuiet, stems, heads };
    }),
  ).filter((d) => d.stems);
});
</script>

<template>
  <svg class="thumb" :viewBox="`0 0 ${W} ${H}`" preserveAspectRatio="none" aria-hidden="true">
    <line class="count" x1="2" :x2="W - 2" y1="27" y2="27" />
    <g v-for="d in drawn" :key="d.limb + d.isQuiet" :class="[d.limb, { quiet: d.isQuiet }]">
      <path class="stems" :d="d.stems" />
      <path class="heads" :d="d.heads" />
    </g>
  </svg>
</template>

<style scoped>
.thumb { display: block; width: 100%; height: 100%; }
.count { stroke: var(--line-strong); stroke-width: 0.8; }
.RH { --limb: var(--rh); } .LH { --limb: var(--lh); } .RF { --limb: var(--rf); } .LF { --limb: var(--lf); }
.stems { stroke: var(--limb); stroke-width: 1.3; fill: none; }
.heads { fill: var(--limb); fill-rule: evenodd; }
.quiet { opacity: 0.32; }
</style>
