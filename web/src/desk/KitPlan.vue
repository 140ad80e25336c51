<script setup lang="ts">
/** The kit from above, as the solver knows it: what is struck now shows in the colour of its limb. */
import { computed } from "vue";
import type { Stroke } from "@/api/client";
import { part, PLAN } from "@/kit";
import type { Clock } from "@/score/time";

const props = defineProps<{ strokes: Stroke[]; clock: Clock; now: number; isLeft: boolean; parts: Set<string> }>();
const LIT = 0.14; // seconds that a stroke is shown
const UNIT = 92, WIDTH = 460, HEIGHT = 262;
const SHOWN = ["hat_closed", "snare", "tom_high", "tom_mid", "tom_low", "tom_floor", "ride", "crash", "crash_2", "splash", "china", "cowbell", "clap", "shaker", "tambourine", "block"];
const SIZE: Record<string, number> = { snare: 27, tom_floor: 30, ride: 36, crash: 31, crash_2: 31, hat_closed: 27, china: 26, splash: 17, cowbell: 13, clap: 17, shaker: 17, tambourine: 17, block: 15 };
const FEET = { kick: [0.32, -0.52], hat_foot: [-0.75, -0.42] } as const;

const spot = (x: number, y: number) => ({ x: WIDTH * 0.44 + (props.isLeft ? -x * UNIT + WIDTH * 0.12 : x * UNIT), y: HEIGHT - 78 - y * UNIT * 0.92 });
const key = (name: string) => {
  const at = PLAN[name];
  return at ? (SHOWN.find((s) => PLAN[s]![0] === at[0] && PLAN[s]![1] === at[1]) ?? name) : name;
};
const lit = computed(() => {
  const made = new Map<string, string>();
  for (const s of props.strokes) {
    const since = props.now - props.clock.played(s);
    if (since >= -0.02 && since < LIT) made.set(key(s.part === "hat_splash" ? "hat_foot" : s.part), s.limb);
  }
  return made;
});
const used = computed(() => new Set(props.strokes.map((s) => key(s.part))));
/** What every kit has, and what else the song plays. */
const USUAL = ["hat_closed", "snare", "ride", "crash"];
const pieces = computed(() => SHOWN.filter((name) => USUAL.includes(name) || [...props.parts].some((p) => key(p) === name)).map((name) => ({ name, ...spot(...PLAN[name]!), r: SIZE[name] ?? 24, label: part(name).label.replace(" closed", "").replace(" tom", "") })));
const feet = computed(() => Object.entries(FEET).map(([name, [x, y]]) => ({ name, ...spot(x, y), label: name === "kick" ? "Kick" : "Foot hat" })));
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" aria-label="The kit from above">
    <g v-for="p in pieces" :key="p.name" :class="['piece', lit.get(p.name), { used: used.has(p.name) }]">
      <circle :cx="p.x" :cy="p.y" :r="p.r" />
      <text :x="p.x" :y="p.y + 4">{{ p.label }}</text>
    </g>
    <g v-for="f in feet" :key="f.name" :class="['piece', lit.get(f.name), { used: used.has(f.name) }]">
      <rect :x="f.x - 26" :y="f.y - 14" width="52" height="26" rx="6" />
      <text :x="f.x" :y="f.y + 4">{{ f.label }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg { width: min(100%, 460px); }
circle, rect { fill: var(--paper); stroke: var(--line-strong); stroke-width: 1.5; }
text { text-anchor: middle; font-size: 11px; fill: var(--ink-faint); pointer-events: none; }
.used circle, .used rect { stroke: var(--ink-soft); stroke-width: 2; fill: var(--well); }
.used text { fill: var(--ink); font-weight: 600; }
.RH circle, .RH rect { fill: var(--rh); } .LH circle, .LH rect { fill: var(--lh); }
.RF circle, .RF rect { fill: var(--rf); } .LF circle, .LF rect { fill: var(--lf); }
.RH text, .LH text, .RF text, .LF text { fill: var(--paper); }
</style>
