<script setup lang="ts">
/** The kit from above, as the solver knows it: what is struck now shows in the colour of its limb,
 *  and a piece can be dragged to where it really stands. */
import { computed, ref } from "vue";
import type { Schemas, Stroke } from "@/api/client";
import { part, PIECE, PLAN } from "@/kit";
import type { Clock } from "@/score/time";

const props = defineProps<{ strokes: Stroke[]; clock: Clock; now: number; player: Schemas["Player"]; parts: Set<string> }>();
const emit = defineEmits<{ move: [plan: [string, number, number][]] }>();
const LIT = 0.14; // seconds that a stroke is shown
const UNIT = 92, WIDTH = 460, HEIGHT = 262, STEEP = 0.92;
const SIZE: Record<string, number> = { snare: 27, tom_floor: 30, ride: 36, crash: 31, crash_2: 31, hat_closed: 27, china: 26, splash: 17, cowbell: 13, clap: 17, shaker: 17, tambourine: 17, block: 15 };
const PIECES = [...new Set(Object.values(PIECE))].filter((name) => PLAN[name]);
const FEET = { kick: [0.32, -0.52], hat_foot: [-0.75, -0.42] } as const;
const FARTHEST = { x: 2.1, away: 1.9, near: -0.4 };
/** What every kit has, and what else the song plays. */
const USUAL = ["hat_closed", "snare", "ride", "crash"];

const isLeft = computed(() => props.player.hand === "left");
const middle = computed(() => WIDTH * 0.44 + (isLeft.value ? WIDTH * 0.12 : 0));
const spot = (x: number, y: number) => ({ x: middle.value + (isLeft.value ? -x : x) * UNIT, y: HEIGHT - 78 - y * UNIT * STEEP });
const lit = computed(() => {
  const made = new Map<string, string>();
  for (const s of props.strokes) {
    const since = props.now - props.clock.played(s);
    if (since >= -0.02 && since < LIT && s.doubt !== "left_out") made.set(s.part === "hat_splash" ? "hat_foot" : PIECE[s.part]!, s.doubt === "layer" ? "layer" : s.limb);
  }
  return made;
});
const used = computed(() => new Set(props.strokes.map((s) => PIECE[s.part])));
const dragged = ref<{ name: string; x: number; y: number } | null>(null);
const usual = computed(() => props.player.plan as [string, number, number][]);
const placed = computed(() => {
  const plan = new Map(usual.value.map(([name, x, y]) => [name, [x, y] as [number, number]]));
  if (dragged.value) plan.set(dragged.value.name, [dragged.value.x, dragged.value.y]);
  return plan;
});
const pieces = computed(() =>
  PIECES.filter((name) => !props.player.lacks.includes(name) && (USUAL.includes(name) || [...props.parts].some((p) => PIECE[p] === name) || placed.value.has(name))).map((name) => ({
    name, ...spot(...(placed.value.get(name) ?? PLAN[name]!)), r: SIZE[name] ?? 24, label: part(name).label.replace(" closed", "").replace(" tom", ""),
  })),
);
const feet = computed(() => Object.entries(FEET).map(([name, [x, y]]) => ({ name, ...spot(x, y), label: name === "kick" ? "Kick" : "Foot hat" })));

function take(name: string, event: PointerEvent): void {
  const svg = (event.currentTarget as SVGElement).ownerSVGElement!;
  svg.setPointerCapture(event.pointerId);
  const [x, y] = placed.value.get(name) ?? PLAN[name]!;
  dragged.value = { name, x, y };
}
function drag(event: PointerEvent): void {
  if (!dragged.value) return;
  const box = (event.currentTarget as SVGElement).getBoundingClientRect();
  const at = { x: ((event.clientX - box.left) / box.width) * WIDTH, y: ((event.clientY - box.top) / box.height) * HEIGHT };
  const x = ((at.x - middle.value) / UNIT) * (isLeft.value ? -1 : 1);
  const y = (HEIGHT - 78 - at.y) / (UNIT * STEEP);
  put(dragged.value.name, x, y);
}
const put = (name: string, x: number, y: number) =>
  (dragged.value = { name, x: rounded(Math.min(Math.max(x, -FARTHEST.x), FARTHEST.x)), y: rounded(Math.min(Math.max(y, FARTHEST.near), FARTHEST.away)) });
const rounded = (v: number) => Math.round(v * 20) / 20;
function drop(): void {
  const d = dragged.value;
  dragged.value = null;
  if (!d) return;
  const [x, y] = usual.value.find(([name]) => name === d.name)?.slice(1) as [number, number] ?? PLAN[d.name]!;
  if (Math.hypot(x - d.x, y - d.y) < 0.05) return;
  emit("move", [...usual.value.filter(([name]) => name !== d.name), [d.name, d.x, d.y]]);
}
const STEPS: Record<string, [number, number]> = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] };
function nudge(name: string, event: KeyboardEvent): void {
  const step = STEPS[event.key];
  if (!step) return;
  event.preventDefault();
  event.stopPropagation();
  const [x, y] = placed.value.get(name) ?? PLAN[name]!;
  put(name, x + step[0] * (isLeft.value ? -1 : 1), y + step[1]);
  drop();
}
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="group" aria-label="The kit from above" @pointermove="drag" @pointerup="drop" @pointercancel="dragged = null">
    <g v-for="p in pieces" :key="p.name" :class="['piece', lit.get(p.name), { used: used.has(p.name), dragged: dragged?.name === p.name }]" tabindex="0" role="button" :aria-label="`${p.label}: drag it, or move it with the arrows`" @pointerdown="take(p.name, $event)" @keydown="nudge(p.name, $event)">
      <circle :cx="p.x" :cy="p.y" :r="p.r" />
      <text :x="p.x" :y="p.y + 4">{{ p.label }}</text>
    </g>
    <g v-for="f in feet" :key="f.name" :class="['piece', 'foot', lit.get(f.name), { used: used.has(f.name) }]">
      <rect :x="f.x - 26" :y="f.y - 14" width="52" height="26" rx="6" />
      <text :x="f.x" :y="f.y + 4">{{ f.label }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg { width: min(100%, 460px); touch-action: none; }
.piece { cursor: grab; outline: none; }
.piece:focus-visible circle { stroke: var(--focus); stroke-width: 3; }
.foot { cursor: default; }
circle, rect { fill: var(--paper); stroke: var(--line-strong); stroke-width: 1.5; }
text { text-anchor: middle; font-size: 11px; fill: var(--ink-faint); pointer-events: none; user-select: none; }
.used circle, .used rect { stroke: var(--ink-soft); stroke-width: 2; fill: var(--well); }
.used text { fill: var(--ink); font-weight: 600; }
.dragged circle { stroke: var(--focus); stroke-width: 3; cursor: grabbing; }
.RH circle, .RH rect { fill: var(--rh); } .LH circle, .LH rect { fill: var(--lh); }
.RF circle, .RF rect { fill: var(--rf); } .LF circle, .LF rect { fill: var(--lf); }
.layer circle { fill: var(--ink-faint); }
.RH text, .LH text, .RF text, .LF text, .layer text { fill: var(--paper); }
</style>
