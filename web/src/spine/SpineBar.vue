<script setup lang="ts">
/** One bar on the spine, large: lanes of the limbs, count row, heads on stems. */
import { DOUBTFUL } from "@/desk/trust";
import { computed } from "vue";
import type { Stroke } from "@/api/client";
import { LIMBS, part, type Limb } from "@/kit";
import type { Clock } from "@/score/time";
import { countRow, heads, lanes, type Head } from "./layout";
import { shape } from "./shapes";

const props = defineProps<{
  bar: number;
  strokes: Stroke[];
  clock: Clock;
  width: number;
  height: number;
  grid: number;
  selected?: string | null;
  cursor?: { place: number; limb: Limb } | null;
  playing?: number | null;
}>();
const emit = defineEmits<{
  pick: [stroke: Stroke, event: PointerEvent];
  place: [limb: Limb, at: number];
}>();

const PAD = 26;
const at = computed(() => lanes(props.height));
const drawn = computed(() =>
  heads(props.strokes, props.bar, props.clock, props.width, at.value, PAD),
);
const row = computed(() => countRow(props.strokes, props.bar, props.clock, props.grid));
const beats = computed(() => props.clock.meters[props.bar - 1]!.beats);
const unit = computed(() => (props.width - 2 * PAD) / beats.value);
const x = (beat: number) => PAD + beat * unit.value;

function look(h: Head) {
  const s = shape(part(h.stroke.part).shape);
  return { ...s, isHollow: s.isHollow || h.stroke.dynamic === "ghost" };
}

function label(s: Stroke): string {
  const off =
    s.time === null ? "" : `, ${Math.round((s.time - props.clock.played(s)) * 1000)} ms`;
  return `${part(s.part).label}, ${s.limb}, ${s.dynamic}${off}`;
}

function onLane(event: PointerEvent, limb: Limb): void {
  const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  const inside = ((event.clientX - box.left) / box.width) * props.width;
  emit("place", limb, (inside - PAD) / unit.value);
}

function laneTop(limb: Limb): number {
  return limb === "RH" || limb === "LH" ? at.value.base[limb] - at.value.base.RH : at.value.base[limb];
}
</script>

<template>
  <svg
    class="spine"
    :viewBox="`0 0 ${width} ${height}`"
    :width="width"
    :height="height"
    role="group"
    :aria-label="`Bar ${bar}`"
  >
    <g v-for="limb in LIMBS" :key="limb" :class="['lane', limb]">
      <rect
        class="catch"
        :x="0"
        :y="laneTop(limb)"
        :width="width"
        :height="at.base.RH"
        @pointerdown="onLane($event, limb)"
      />
      <line :x1="8" :x2="width - 8" :y1="at.base[limb]" :y2="at.base[limb]" />
    </g>
    <line
      v-for="b in beats + 1"
      :key="b"
      :class="['beat', { edge: b === 1 || b === beats + 1 }]"
      :x1="x(b - 1) - (b === beats + 1 ? 0 : 13)"
      :x2="x(b - 1) - (b === beats + 1 ? 0 : 13)"
      :y1="4"
      :y2="height - 4"
    />
    <rect
      v-if="cursor"
      class="cursor"
      :x="x(cursor.place) - 13"
      :y="laneTop(cursor.limb) + 2"
      width="26"
      :height="at.base.RH - 4"
      rx="5"
    />
    <text
      v-for="s in row"
      :key="s.at"
      :class="['count', { number: s.isBeat, spoken: s.isSpoken }]"
      :x="x(s.at)"
      :y="at.count + 5"
    >
      {{ s.text }}
    </text>
    <g
      v-for="h in drawn"
      :key="h.stroke.id"
      :class="[
        'stroke', h.stroke.limb, h.stroke.dynamic,
        { selected: h.stroke.id === selected, unsure: h.stroke.confidence < DOUBTFUL },
      ]"
      tabindex="-1"
      role="button"
      :aria-label="label(h.stroke)"
      :data-stroke="h.stroke.id"
      @pointerdown.stop="emit('pick', h.stroke, $event)"
    >
      <title>{{ label(h.stroke) }}</title>
      <line class="stem" :x1="h.x" :y1="h.base" :x2="h.x + h.lean" :y2="h.y" />
      <circle class="root" :cx="h.x" :cy="h.base" r="2.4" />
      <g :transform="`translate(${h.x + h.lean} ${h.y}) scale(${h.scale})`">
        <circle v-if="h.stroke.id === selected" class="ring" r="19" />
        <path :class="['head', { hollow: look(h).isHollow }]" :d="look(h).path" />
        <path v-if="look(h).extra" class="extra" :d="look(h).extra" />
        <text :class="['letter', { dark: look(h).isHollow }]" :y="look(h).letterY">
          {{ part(h.stroke.part).letter }}
        </text>
        <path v-if="h.stroke.dynamic === 'accent'" class="between" d="M-18-12V12M18-12V12" />
      </g>
    </g>
    <line
      v-if="playing !== null && playing !== undefined"
      class="now"
      :x1="x(playing * beats)"
      :x2="x(playing * beats)"
      :y1="2"
      :y2="height - 2"
    />
  </svg>
</template>

<style scoped>
.spine { display: block; user-select: none; touch-action: none; }
.catch { fill: transparent; cursor: copy; }
.lane line { stroke-width: 1.2; opacity: 0.45; }
.RH { --limb: var(--rh); } .LH { --limb: var(--lh); } .RF { --limb: var(--rf); } .LF { --limb: var(--lf); }
.lane line { stroke: var(--limb); }
.beat { stroke: var(--line); stroke-width: 1; pointer-events: none; }
.beat.edge { stroke: var(--line-strong); stroke-width: 2; }
.count { text-anchor: middle; font-size: 13px; fill: var(--ink-faint); pointer-events: none; }
.count.spoken { fill: var(--ink); }
.count.number { font-weight: 700; font-size: 16px; fill: var(--ink-soft); }
.count.number.spoken { fill: var(--ink); }
.stroke { cursor: grab; outline: none; }
.stem { stroke: var(--limb); stroke-width: 3; stroke-linecap: round; }
.root { fill: var(--limb); }
.head { fill: var(--limb); stroke: var(--limb); stroke-width: 1.6; stroke-linejoin: round; }
.head.hollow { fill: var(--paper); }
.extra { fill: none; stroke: var(--limb); stroke-width: 2; stroke-linecap: round; }
.ghost .head { stroke-dasharray: 3 2.4; }
.letter { text-anchor: middle; font-size: 12px; font-weight: 700; fill: var(--paper); pointer-events: none; }
.letter.dark { fill: var(--limb); }
.between { stroke: var(--limb); stroke-width: 2.4; stroke-linecap: round; }
.unsure .stem { stroke-dasharray: 2 5; }
.unsure { opacity: 0.72; }
.ring { fill: none; stroke: var(--focus); stroke-width: 3; }
.cursor { fill: var(--focus); opacity: 0.16; stroke: var(--focus); pointer-events: none; }
.now { stroke: var(--now); stroke-width: 2; pointer-events: none; }
</style>
