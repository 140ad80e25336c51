<script setup lang="ts">
/** One bar on the spine, large: lanes of the limbs, count row, heads on stems. */
import { DOUBTFUL } from "@/kit";
import { computed, ref } from "vue";
import type { Stroke } from "@/api/client";
import { LIMBS, part, type Limb } from "@/kit";
import { placeValue, type Clock } from "@/score/time";
import { countRow, heads, lanes, type Head } from "./layout";
import type { Faint } from "./perhaps";
import { shape } from "./shapes";

const props = defineProps<{
  bar: number;
  strokes: Stroke[];
  clock: Clock;
  width: number;
  height: number;
  grid: number;
  /** Ids of the chosen strokes. */
  selected?: string[];
  /** How each stroke differs from another bar, by id: "same" is quiet, "plain" is not ringed. */
  marks?: Map<string, string> | null;
  /** What the band does in this bar. */
  cue?: { places: string[]; words: string; pitches?: number[] } | null;
  /** What is perhaps a stroke in this bar. */
  faint?: Faint[];
  /** Whether early and late are told in ms. */
  figures?: boolean;
  cursor?: { place: number; limb: Limb } | null;
  playing?: number | null;
  /** The limbs that have a lane; none said: all. */
  limbs?: readonly Limb[];
}>();
const emit = defineEmits<{
  pick: [stroke: Stroke, event: PointerEvent];
  sweep: [event: PointerEvent, limb: Limb, at: number];
  write: [faint: Faint];
}>();

const PAD = 26;
const QUIET = new Set(["same", "plain"]);
const FAINT_OFF = 16; // pixels from the line
const TELL = 6; // ms from which early and late are told
/** The stroke under the pointer; it alone says its words in a tip (a tip each would be slow). */
const pointed = ref("");
const chosen = computed(() => new Set(props.selected ?? []));
const shown = computed(() => props.limbs ?? LIMBS);
const at = computed(() => lanes(props.height, shown.value));
const laneHeight = computed(() => at.value.reach + 18);
const drawn = computed(() =>
  heads(props.strokes, props.bar, props.clock, props.width, at.value, PAD),
);
const beats = computed(() => props.clock.meters[props.bar - 1]!.beats);
const unit = computed(() => (props.width - 2 * PAD) / beats.value);
const LETTER = 7.5; // pixels
/** Beats are always told, what is said between them where there is room for it. */
const row = computed(() => {
  const all = countRow(props.strokes, props.bar, props.clock, props.grid);
  return all.filter((s, n) => {
    const next = (all[n + 1]?.at ?? beats.value) - s.at;
    const before = s.at - (all[n - 1]?.at ?? -1);
    return s.isBeat || Math.min(next, before) * unit.value > LETTER * s.text.length + 2;
  });
});
const x = (beat: number) => PAD + beat * unit.value;

function look(h: Head) {
  const s = shape(part(h.stroke.part).shape);
  return { ...s, isHollow: s.isHollow || h.stroke.dynamic === "ghost" };
}

/** By how much a note of the cue lies lower (or, below 0, higher) than its lane's middle. */
function sung(n: number): number {
  const pitches = props.cue?.pitches ?? [];
  if (!pitches.length) return 0;
  const [low, high] = [Math.min(...pitches), Math.max(...pitches)];
  return high > low ? Math.round(8 * (0.5 - (pitches[n]! - low) / (high - low))) : 0;
}

function label(s: Stroke): string {
  const off =
    s.measured ? `, ${Math.round((s.measured.time - props.clock.played(s)) * 1000)} ms` : "";
  return `${part(s.part).label}, ${s.limb}, ${s.dynamic}${off}`;
}

function onLane(event: PointerEvent, limb: Limb): void {
  const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
  const inside = ((event.clientX - box.left) / box.width) * props.width;
  emit("sweep", event, limb, (inside - PAD) / unit.value);
}

function off(s: Stroke): number {
  return s.measured ? Math.round((s.measured.time - props.clock.played(s)) * 1000) : 0;
}
const WORD: Record<string, string> = { flam: "fl", drag: "dr", ruff: "ru", buzz: "bz", diddle: "dd", drop: "dp" };

function laneTop(limb: Limb): number {
  return limb === "RH" || limb === "LH" ? at.value.base[limb] - laneHeight.value : at.value.base[limb];
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
    <g v-for="limb in shown" :key="limb" :class="['lane', limb]">
      <rect
        class="catch"
        :x="0"
        :y="laneTop(limb)"
        :width="width"
        :height="laneHeight"
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
    <g v-if="cue" class="cue" role="img" :aria-label="`Cue: ${cue.words} ${cue.places.length} notes`">
      <line :x1="PAD" :x2="width - PAD" y1="11" y2="11" />
      <path v-for="(p, n) in cue.places" :key="p" :d="`M${x(placeValue(p))} ${4 + sung(n)}l6 7-6 7-6-7z`" />
      <text :x="width - PAD" y="30">{{ cue.words }}</text>
    </g>
    <rect
      v-if="cursor"
      class="cursor"
      :x="x(cursor.place) - 13"
      :y="laneTop(cursor.limb) + 2"
      width="26"
      :height="laneHeight - 4"
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
      v-for="(f, n) in faint ?? []"
      :key="`faint-${n}`"
      :class="['faint', f.limb]"
      role="button"
      tabindex="-1"
      :aria-label="`${f.says}: write it`"
      :transform="`translate(${x(f.at)} ${at.base[f.limb] + (f.limb[1] === 'H' ? -1 : 1) * FAINT_OFF}) scale(0.8)`"
      @pointerdown.stop="emit('write', f)"
    >
      <title>{{ f.says }}</title>
      <path :d="shape(part(f.part).shape).path" />
      <text y="4">{{ part(f.part).letter }}</text>
    </g>
    <g
      v-for="(h, n) in drawn"
      :key="n"
      :class="[
        'stroke', h.stroke.limb, h.stroke.dynamic,
        { selected: chosen.has(h.stroke.id), unsure: h.stroke.confidence < DOUBTFUL },
        h.stroke.doubt, marks && (marks.get(h.stroke.id) === 'same' ? 'quiet' : 'loud'),
      ]"
      tabindex="-1"
      role="button"
      :aria-label="label(h.stroke)"
      :data-stroke="h.stroke.id"
      @pointerdown.stop="emit('pick', h.stroke, $event)"
      @pointerenter="pointed = h.stroke.id"
    >
      <title v-if="pointed === h.stroke.id">{{ label(h.stroke) }}</title>
      <path class="stem" :d="`M${h.x} ${h.base}L${h.x + h.lean} ${h.y}M${h.x} ${h.base}m-1 0h2`" />
      <g :transform="`translate(${h.x + h.lean} ${h.y}) scale(${h.scale})`">
        <circle v-if="chosen.has(h.stroke.id)" class="ring" r="19" />
        <circle v-if="marks && !QUIET.has(marks.get(h.stroke.id) ?? '')" class="mark" r="18" />
        <path :class="['head', { hollow: look(h).isHollow }]" :d="look(h).path" />
        <path v-if="look(h).extra" class="extra" :d="look(h).extra" />
        <text :class="['letter', { dark: look(h).isHollow }]" :y="look(h).letterY">
          {{ part(h.stroke.part).letter }}
        </text>
        <path v-if="h.stroke.dynamic === 'accent'" class="between" d="M-18-12V12M18-12V12" />
        <text v-if="h.stroke.ornament" class="word" x="17" y="-8">{{ WORD[h.stroke.ornament] }}</text>
        <path v-if="h.stroke.choked" class="between" d="M14 13L22 21M22 13L14 21" />
        <path v-if="h.stroke.doubt === 'left_out'" class="struck" d="M-17 15L17-15" />
        <text v-if="h.stroke.doubt === 'doubtful' || h.stroke.doubt === 'assumed'" class="word" x="17" y="14">{{ h.stroke.doubt === "doubtful" ? "?" : "~" }}</text>
      </g>
      <text v-if="figures && Math.abs(off(h.stroke)) >= TELL" class="off" :x="h.x + 5" :y="h.base + (h.stroke.limb[1] === 'H' ? -4 : 12)">{{ off(h.stroke) > 0 ? "+" : "−" }}{{ Math.abs(off(h.stroke)) }}</text>
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
.cue { pointer-events: none; }
.cue line { stroke: var(--line-strong); stroke-dasharray: 2 3; }
.cue path { fill: var(--ink-soft); }
.cue text { text-anchor: end; font-size: 13px; font-style: italic; fill: var(--ink-soft); }
.beat { stroke: var(--line); stroke-width: 1; pointer-events: none; }
.beat.edge { stroke: var(--line-strong); stroke-width: 2; }
.count { text-anchor: middle; font-size: 13px; fill: var(--ink-faint); pointer-events: none; }
.count.spoken { fill: var(--ink); }
.count.number { font-weight: 700; font-size: 16px; fill: var(--ink-soft); }
.count.number.spoken { fill: var(--ink); }
.stroke { cursor: grab; outline: none; }
.stem { stroke: var(--limb); stroke-width: 3; stroke-linecap: round; fill: none; }
.head { fill: var(--limb); stroke: var(--limb); stroke-width: 1.6; stroke-linejoin: round; }
.head.hollow { fill: var(--paper); }
.extra { fill: none; stroke: var(--limb); stroke-width: 2; stroke-linecap: round; }
.ghost .head { stroke-dasharray: 3 2.4; }
.letter { text-anchor: middle; font-size: 12px; font-weight: 700; fill: var(--paper); pointer-events: none; }
.letter.dark { fill: var(--limb); }
.between { stroke: var(--limb); stroke-width: 2.4; stroke-linecap: round; }
.unsure .stem { stroke-dasharray: 2 5; }
.unsure { opacity: 0.72; }
.faint { cursor: pointer; outline: none; }
.faint path { fill: var(--sheet); stroke: var(--limb); stroke-width: 1.4; stroke-dasharray: 2 2.5; opacity: 0.75; }
.faint text { text-anchor: middle; font-size: 12px; fill: var(--limb); opacity: 0.85; }
.left_out { opacity: 0.5; }
.left_out .head { fill: var(--paper); stroke-dasharray: 2 3; }
.left_out .letter { fill: var(--limb); }
.layer { --limb: var(--ink-faint); }
.layer .head { fill: var(--paper); }
.layer .letter { fill: var(--limb); }
.struck { stroke: var(--warn); stroke-width: 2.4; fill: none; }
.word { font-size: 12px; font-weight: 700; fill: var(--limb); pointer-events: none; }
.off { font-size: 10.5px; fill: var(--ink-soft); pointer-events: none; font-variant-numeric: tabular-nums; }
.quiet { opacity: 0.28; }
.mark { fill: none; stroke: var(--warn); stroke-width: 2.5; }
.ring { fill: none; stroke: var(--focus); stroke-width: 3; }
.cursor { fill: var(--focus); opacity: 0.16; stroke: var(--focus); pointer-events: none; }
.now { stroke: var(--now); stroke-width: 2; pointer-events: none; }
</style>
