<script setup lang="ts">
/** Pulse: how fast, how steady, where is 1, which meter; and putting it right. */
import KeyCap from "@/keys/KeyCap.vue";
import { by, useKeys } from "@/keys/useKeys";
import { useElementSize } from "@vueuse/core";
import { computed, onUnmounted, ref, watch } from "vue";
import { listenToPads } from "@/audio/pads";
import BeatHandles from "@/desk/BeatHandles.vue";
import WaveForm from "@/desk/WaveForm.vue";
import { part } from "@/kit";
import { placeText } from "@/score/time";
import type { UnplacedStroke } from "@/api/client";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const METERS = ["2/4", "3/4", "4/4", "5/4", "6/4", "7/4", "6/8", "7/8", "9/8", "12/8"];
const meter = computed(() => (scope.value === "song" ? usual.value : desk.score?.meters[chosen.value.bar - 1]) ?? "4/4");
const usual = computed(() => {
  const count = new Map<string, number>();
  for (const m of desk.score?.meters ?? []) count.set(m, (count.get(m) ?? 0) + 1);
  return [...count].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "4/4";
});
const changes = computed(() => {
  const all = desk.score?.meters ?? [];
  return all.flatMap((m, i) => (i > 0 && m !== all[i - 1] ? [{ bar: i + 1, meter: m }] : []));
});
const tempo = computed(() => desk.shown!.tempo);
const range = computed(() => {
  const t = tempo.value;
  if (t.steady || t.high - t.low < 1) return "to a click";
  return `${t.low.toFixed(0)} to ${t.high.toFixed(0)}, no click`;
});
/** Other ways to feel the same strokes, each with the key that chooses it. */
const READINGS = [
  { key: "half", factor: "1/2", value: 0.5, says: "half" },
  { key: "double", factor: "2", value: 2, says: "double" },
  { key: "threeForTwo", factor: "3/2", value: 1.5, says: "3 for 2" },
  { key: "twoForThree", factor: "2/3", value: 2 / 3, says: "2 for 3" },
] as const;
const readings = computed(() =>
  READINGS.map((r) => ({
    ...r,
    bpm: tempo.value.bpm * r.value,
    heard: tempo.value.alternatives.some((a) => Math.abs(a / (tempo.value.bpm * r.value) - 1) < 0.04),
  })).filter((r) => r.key === "half" || r.key === "double" || r.heard),
);
function read(key: string): void {
  const reading = READINGS.find((r) => r.key === key);
  if (!reading) return;
  if (key === "h") desk.edit({ operation: "halve_tempo" });
  else if (key === "d") desk.edit({ operation: "double_tempo" });
  else desk.edit({ operation: "retime", factor: reading.factor });
}

/** The beat nearest to the cursor: what single-beat corrections act on. */
const chosen = computed(() => {
  const clock = desk.clock!;
  const near = playback.now;
  const bar = Math.min(Math.max(clock.barAt(near), 1), clock.bars);
  const beats = clock.meters[bar - 1]!.beats;
  const inside = Math.round(clock.within(bar, near) * beats);
  if (inside < beats || bar === clock.bars) return { bar, beat: Math.min(Math.max(inside, 0), beats - 1) + 1 };
  return { bar: bar + 1, beat: 1 };
});
const isLocked = computed(() => {
  const at = (desk.clock!.barStart(chosen.value.bar) + desk.clock!.barEnd(chosen.value.bar)) / 2;
  return desk.score!.locked.some(([a, b]) => a! <= at && at <= b!);
});
const scope = ref<"song" | "from" | "bar">("song");
function setMeter(to: string): void {
  const bar = chosen.value.bar;
  if (scope.value === "song") desk.edit({ operation: "set_meter", meter: to });
  else if (scope.value === "from") desk.edit({ operation: "set_meter", meter: to, bar });
  else desk.edit({ operation: "set_meter", meter: to, bar, last: bar });
}
function toggleLock(): void {
  const bar = chosen.value.bar;
  const own = desk.score!.sections.find((s) => s.first_bar <= bar && bar < s.first_bar + s.bars);
  if (isLocked.value) desk.edit({ operation: "unlock", bar });
  else desk.edit({ operation: "lock", bar: own?.first_bar ?? bar, last: own ? own.first_bar + own.bars - 1 : bar });
}

/** Taps along with the sound; they are taken over when tapping rests, from eight on. */
const taps = ref<number[]>([]);
let rest: ReturnType<typeof setTimeout> | undefined;
let leavePads: (() => void) | null = null;
async function openPads(): Promise<void> {
  leavePads ??= await listenToPads((_key, _loudness, event) => playback.isPlaying && tap(event));
}
function tap(event: { timeStamp: number }): void {
  if (!playback.isPlaying) {
    taps.value = [];
    playback.toggle();
    void openPads();
    return;
  }
  taps.value = [...taps.value, +playback.moment(event).toFixed(4)];
  clearTimeout(rest);
  rest = setTimeout(finishTaps, 1800);
}
function finishTaps(): void {
  clearTimeout(rest);
  if (taps.value.length >= 8) desk.edit({ operation: "tap", taps: taps.value });
  taps.value = [];
}
const tapSays = computed(() =>
  taps.value.length ? `${taps.value.length} taps${taps.value.length < 8 ? `, ${8 - taps.value.length} more` : "; stop to take them"}`
  : playback.isPlaying ? "tap along now" : "starts the song",
);
onUnmounted(() => {
  clearTimeout(rest);
  leavePads?.();
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
const HEIGHT = 132;
const doubtful = computed(() => (desk.shown?.form.confidence ?? []).flatMap((t, i) => (t < 0.5 ? [i + 1] : [])));
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

function isOne(): void {
  if (chosen.value.beat !== 1) desk.edit({ operation: "set_one", ...chosen.value });
}
function step(by: number): void {
  const clock = desk.clock!;
  playback.seek(clock.seconds(clock.starts[chosen.value.bar - 1]! + chosen.value.beat - 1 + by));
}
/** Strokes of a person that were set aside; heard ones come back by themselves when bars fit them. */
const mine = computed(() => desk.score!.aside.filter((s) => s.placed_by === "person"));
/** Words that come back by themselves when they have a bar of their own again. */
const words = computed(() => desk.score!.aside_words);
/** A stroke that was set aside goes to the nearest free 16th. */
function putBack(s: UnplacedStroke): void {
  const clock = desk.clock!;
  const bar = Math.min(Math.max(clock.barAt(s.moment), 1), clock.bars);
  const cells = clock.meters[bar - 1]!.beats * 4;
  const wanted = Math.min(Math.max(Math.round(clock.within(bar, s.moment) * cells), 0), cells - 1);
  const taken = new Set((desk.byBar.get(bar) ?? []).filter((o) => o.part === s.part).map((o) => o.place));
  const free = Array.from({ length: cells }, (_, k) => k)
    .filter((k) => !taken.has(placeText(k, 4)))
    .sort((a, b) => Math.abs(a - wanted) - Math.abs(b - wanted))[0];
  if (free !== undefined) desk.edit({ operation: "put_back", id: s.id, bar, place: placeText(free, 4) });
}
function drag(bar: number, beat: number, to: number): void {
  desk.edit({ operation: "drag_beat", bar, beat, seconds: to });
}

useKeys("pulse", {
  half: () => read("half"),
  double: () => read("double"),
  threeForTwo: () => read("threeForTwo"),
  twoForThree: () => read("twoForThree"),
  tap,
  takeTaps: () => (taps.value.length ? finishTaps() : false),
  dropTaps: () => void (taps.value = []),
  one: isOne,
  shift: (_, which) => desk.edit({ operation: "shift_one", beats: by(which) }),
  shiftHalf: (_, which) => desk.edit({ operation: "shift_half", later: which === 1 }),
  step: (_, which) => step(by(which)),
  insert: () => desk.edit({ operation: "insert_beat", ...chosen.value }),
  remove: () => desk.edit({ operation: "remove_beat", ...chosen.value }),
  lock: toggleLock,
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
        <h2>Felt otherwise?</h2>
        <button v-for="r in readings" :key="r.key" :class="['plain', { heard: r.heard && r.key !== 'half' && r.key !== 'double' }]" @click="read(r.key)">
          {{ r.says }}: {{ Math.round(r.bpm) }} <KeyCap scope="pulse" :action="r.key" />
        </button>
        <button class="plain" :class="{ on: taps.length }" @pointerdown.prevent="tap">Tap along <KeyCap scope="pulse" action="tap" /> <span class="soft">{{ tapSays }}</span></button>
      </div>
      <div class="act">
        <h2>Is the 1 elsewhere?</h2>
        <button class="plain" :disabled="chosen.beat === 1" @click="isOne">Beat {{ chosen.beat }} of bar {{ chosen.bar }} is the 1 <KeyCap scope="pulse" action="one" /></button>
        <button class="plain" aria-label="A beat earlier" @click="desk.edit({ operation: 'shift_one', beats: -1 })"><i class="pi pi-arrow-left" /> beat</button>
        <button class="plain" aria-label="A beat later" @click="desk.edit({ operation: 'shift_one', beats: 1 })">beat <i class="pi pi-arrow-right" /></button>
        <button class="plain" aria-label="Half a beat earlier" @click="desk.edit({ operation: 'shift_half', later: false })"><i class="pi pi-arrow-left" /> half</button>
        <button class="plain" aria-label="Half a beat later" @click="desk.edit({ operation: 'shift_half', later: true })">half <i class="pi pi-arrow-right" /></button>
      </div>
      <div class="act">
        <h2 id="meter">Meter</h2>
        <select class="plain" :value="meter" aria-labelledby="meter" @change="setMeter(($event.target as HTMLSelectElement).value)">
          <option v-for="m in new Set([...METERS, meter])" :key="m">{{ m }}</option>
        </select>
        <select v-model="scope" class="plain" aria-label="Where it holds">
          <option value="song">in the whole song</option>
          <option value="from">from bar {{ chosen.bar }} on</option>
          <option value="bar">in bar {{ chosen.bar }} only</option>
        </select>
        <p class="soft figure">{{ desk.clock!.bars }} bars<template v-for="c in changes.slice(0, 4)" :key="c.bar">, {{ c.meter }} at {{ c.bar }}</template></p>
      </div>
    </section>
    <section v-if="mine.length" class="card aside" role="alert">
      <h2>{{ mine.length }} of your strokes found no place on the new beats</h2>
      <span v-for="s in mine.slice(0, 6)" :key="s.id" class="set">
        <button class="plain" @click="playback.play(Math.max(0, s.moment - 1))"><i class="pi pi-play" /> {{ part(s.part).label }}</button>
        <button class="plain" @click="putBack(s)">Put near</button>
        <button class="plain" @click="desk.edit({ operation: 'drop_aside', id: s.id })">Give up</button>
      </span>
    </section>
    <section v-if="words.length" class="card aside" role="alert">
      <h2>{{ words.length === 1 ? "These words share" : `${words.length} notes and cues share` }} a bar with others on the new beats</h2>
      <span v-for="w in words.slice(0, 6)" :key="w.id" class="set">
        <button class="plain" @click="playback.play(Math.max(0, w.moment - 1))"><i class="pi pi-play" /> “{{ w.text }}”</button>
        <button class="plain" @click="desk.edit({ operation: 'put_back_words', id: w.id, bar: desk.clock!.barAt(w.moment) })">Add to bar {{ desk.clock!.barAt(w.moment) }}</button>
        <button class="plain" @click="desk.edit({ operation: 'drop_aside_words', id: w.id })">Give up</button>
      </span>
    </section>
    <section v-if="desk.shown!.form.disagree.length" class="card aside" role="status">
      <h2>Confirmed, but the sound lies elsewhere now:</h2>
      <button v-for="b in desk.shown!.form.disagree.slice(0, 12)" :key="b" class="plain" @click="playback.play(desk.clock!.barStart(b))"><i class="pi pi-play" /> bar {{ b }}</button>
    </section>
    <section class="card">
      <h2>Tempo, bar by bar</h2>
      <div ref="frame">
        <svg :width="width" :height="HEIGHT" class="line" role="img" :aria-label="`Tempo line, ${tempo.low.toFixed(0)} to ${tempo.high.toFixed(0)}`">
          <rect v-for="d in doubtful" :key="`d${d}`" class="doubt" :x="x(desk.clock!.barStart(d))" y="0" :width="Math.max(2, x(desk.clock!.barEnd(d)) - x(desk.clock!.barStart(d)))" :height="HEIGHT"><title>bar {{ d }}: the strokes fit these beats badly</title></rect>
          <rect v-for="(l, n) in desk.score!.locked" :key="`l${n}`" class="locked" :x="x(l[0]!)" :y="HEIGHT - 9" :width="x(l[1]!) - x(l[0]!)" height="9"><title>locked</title></rect>
          <g v-for="t in ticks" :key="t">
            <line class="grid" :x1="44" :x2="width - 10" :y1="y(t)" :y2="y(t)" />
            <text class="tick" x="38" :y="y(t) + 5">{{ Number.isInteger(t) ? t : t.toFixed(1) }}</text>
          </g>
          <line class="middle" :x1="44" :x2="width - 10" :y1="y(tempo.bpm)" :y2="y(tempo.bpm)" />
          <path :d="path" class="path" />
          <circle v-for="p in line" :key="p.bar" class="bar" :cx="x(p.at)" :cy="y(p.bpm)" :r="line.length > 90 ? 2.4 : 3.4" @pointerdown="playback.seek(desk.clock!.barStart(p.bar))">
            <title>bar {{ p.bar }}: {{ p.bpm.toFixed(1) }}</title>
          </circle>
          <line class="now" :x1="x(playback.now)" :x2="x(playback.now)" y1="0" :y2="HEIGHT" />
        </svg>
      </div>
    </section>
    <section class="card">
      <div class="head">
        <h2>Beats on the sound</h2>
        <span class="soft">Drag a beat; its neighbours follow. Striped: the pulse is unsure.</span>
        <span class="grow" />
        <button class="plain" @click="desk.edit({ operation: 'insert_beat', ...chosen })">Add a beat <KeyCap scope="pulse" action="insert" /></button>
        <button class="plain" @click="desk.edit({ operation: 'remove_beat', ...chosen })">Take one away <KeyCap scope="pulse" action="remove" /></button>
        <button class="plain" :class="{ on: isLocked }" @click="toggleLock">{{ isLocked ? "Unlock" : "Lock the section" }} <KeyCap scope="pulse" action="lock" /></button>
        <button class="plain" aria-label="See more" @click="zoom(1.5, playback.now)"><i class="pi pi-search-minus" /></button>
        <button class="plain" aria-label="See closer" @click="zoom(0.66, playback.now)"><i class="pi pi-search-plus" /></button>
      </div>
      <WaveForm :from="start" :to="stop" :now="playback.now" :height="120" numbers @seek="playback.seek" @zoom="zoom" />
      <BeatHandles :from="start" :to="stop" :chosen="chosen" @drag="drag" @choose="playback.seek" />
      <WaveForm class="whole" :from="0" :to="desk.shown!.duration" :now="playback.now" :height="50" numbers @seek="playback.seek" />
    </section>
  </div>
</template>

<style scoped>
.pulse { padding: 1rem; display: grid; gap: 0.8rem; max-width: 1400px; margin: 0 auto; }
.card { padding: 0.8rem 1rem; }
.tell { display: grid; grid-template-columns: auto 1.1fr 1.3fr 0.8fr; gap: 1.4rem; align-items: start; }
.tempo { display: flex; align-items: center; gap: 0.8rem; line-height: 1.25; }
.tempo strong { font-size: 2.7rem; white-space: nowrap; }
.act h2 { font-size: 1rem; margin-bottom: 0.35rem; }
.act .plain { margin: 0 0.35rem 0.35rem 0; }
.act .heard { border-color: var(--focus); }
.aside { border-left: 6px solid var(--warn); display: flex; flex-wrap: wrap; gap: 0.6rem; align-items: center; }
.aside h2 { font-size: 1rem; width: 100%; }
.doubt { fill: var(--warn-well); }
.locked { fill: var(--ink-soft); }
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
