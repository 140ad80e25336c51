<script setup lang="ts">
/** Brackets over the bars of a fill: each turn of a cell with its count. */
import { computed } from "vue";
import type { Schemas } from "@/api/client";
import { placeValue, type Clock } from "@/score/time";

const props = defineProps<{
  cells: Schemas["Cell"][];
  first: number;
  last: number;
  endPlace: string;
  clock: Clock;
  width: number;
}>();
const PAD = 26; // as on the spine
const at = (bar: number, place: number) => {
  const beats = props.clock.meters[bar - 1]!.beats;
  return (bar - props.first) * props.width + PAD + (place / beats) * (props.width - 2 * PAD) - 13;
};
const drawn = computed(() =>
  props.cells.flatMap((cell, n) =>
    cell.starts.map((s, k) => {
      const next = cell.starts[k + 1];
      const after = props.cells[n + 1];
      const x1 = at(s.bar, placeValue(s.place));
      const x2 = next ? at(next.bar, placeValue(next.place))
        : after ? at(after.bar, placeValue(after.place)) : at(props.last, placeValue(props.endPlace));
      return { x1: x1 + 2, x2: x2 - 3, whole: k < cell.turns, label: `${cell.strokes}` };
    }),
  ),
);
</script>

<template>
  <svg class="brackets" :width="(last - first + 1) * width" height="24" role="img" :aria-label="cells.map((c) => `${c.strokes} strokes, ${c.turns} times`).join('; ') || 'no cell'">
    <g v-for="(b, n) in drawn" :key="n" :class="{ part: !b.whole }">
      <path :d="`M${b.x1} 21V11H${b.x2}V21`" />
      <text :x="(b.x1 + b.x2) / 2" y="15">{{ b.label }}</text>
    </g>
  </svg>
</template>

<style scoped>
.brackets { display: block; }
path { fill: none; stroke: var(--ink-soft); stroke-width: 1.8; }
text { text-anchor: middle; font-size: 13px; font-weight: 700; fill: var(--ink); stroke: var(--paper); stroke-width: 5px; paint-order: stroke; }
.part path { stroke-dasharray: 4 3; }
.part text { fill: var(--ink-faint); }
</style>
