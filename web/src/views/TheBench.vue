<script setup lang="ts">
/** Bench: what exactly is played in this bar, by which limb, how loud, how sure. */
import KeyCap from "@/keys/KeyCap.vue";
import { withKey } from "@/keys/table";
import { useElementSize } from "@vueuse/core";
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import AlikeOffer from "@/desk/AlikeOffer.vue";
import ComparePanel from "@/desk/ComparePanel.vue";
import CountPanel from "@/desk/CountPanel.vue";
import PartTray from "@/desk/PartTray.vue";
import ReviewPanel from "@/desk/ReviewPanel.vue";
import SpectrumStrip from "@/desk/SpectrumStrip.vue";
import VideoTake from "@/desk/VideoTake.vue";
import type { StrokeEdit } from "@/api/client";
import StrokeCard from "@/desk/StrokeCard.vue";
import WaveForm from "@/desk/WaveForm.vue";
import { useDragging } from "@/desk/dragging";
import { useReviewing } from "@/desk/reviewing";
import { useStrokeKeys } from "@/desk/strokeKeys";
import { useWritingByPlaying } from "@/desk/writeByPlaying";
import { useWriting } from "@/desk/writing";
import { part } from "@/kit";
import { phraseRows } from "@/spine/layout";
import { faintIn, type Faint } from "@/spine/perhaps";
import SpineBar from "@/spine/SpineBar.vue";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useShelf } from "@/stores/shelf";
import { useSong } from "@/stores/song";

type Panel = "stroke" | "text" | "compare" | "review";
const PANELS = [
  { key: "stroke", label: "Stroke", at: null },
  { key: "text", label: "Text", at: "text" },
  { key: "compare", label: "Compare", at: "compare" },
  { key: "review", label: "Review", at: "review" },
] as const;
const VIEWS = [1, 2, 4, 0] as const; // bars side by side; 0: the phrase
const NEAR = 0.035; // seconds within which a stroke belongs to an onset
const PAD = 26;

const desk = useSong();
const shelf = useShelf();
const playback = usePlayback();
const route = useRoute();
const router = useRouter();
const frame = ref<HTMLElement | null>(null);
const scroller = ref<HTMLElement | null>(null);
const offer = ref<InstanceType<typeof AlikeOffer> | null>(null);
const text = ref<InstanceType<typeof CountPanel> | null>(null);
const comparing = ref<InstanceType<typeof ComparePanel> | null>(null);
const { width } = useElementSize(scroller);
const { height } = useElementSize(frame);
const view = ref(0); // index of VIEWS
const isZoomed = ref(false);
const showsPerhaps = ref(false);
const panel = ref<Panel>("stroke");

const bar = computed(() => {
  const asked = Number(route.query.bar);
  const fallback = desk.clock!.barAt(playback.now) || 1;
  return Math.min(Math.max(1, asked || fallback), desk.clock!.bars);
});
const section = computed(() => desk.score!.sections.find((s) => s.first_bar <= bar.value && bar.value < s.first_bar + s.bars));
const phrase = computed(() => {
  const s = section.value;
  return s ? (phraseRows(s.first_bar, s.bars).find((r) => r.includes(bar.value)) ?? []) : [bar.value];
});
const bars = computed(() => {
  const size = isZoomed.value ? 1 : VIEWS[view.value]!;
  if (size === 0) return phrase.value;
  return Array.from({ length: size }, (_, i) => bar.value + i).filter((b) => b <= desk.clock!.bars);
});
const barWidth = computed(() => {
  const across = Math.max(bars.value.length, VIEWS[view.value]!);
  const whole = Math.max(80, (width.value - 1) / (isZoomed.value ? 1 : across));
  return isZoomed.value ? whole * desk.clock!.meters[bar.value - 1]!.beats * 0.85 : whole;
});
/** A video take is seen beside the bar: that which sounds, or else the newest. */
const video = computed(() => {
  const takes = (shelf.get(desk.id)?.takes ?? []).filter((t) => t.is_video && t.job?.state === "done");
  return takes.find((t) => t.id === playback.take) ?? takes.at(-1) ?? null;
});
const writing = useWriting(bar);
const dragging = useDragging(writing);
const review = useReviewing(go);
const tapping = useWritingByPlaying(writing);

/** The strokes of a bar as they are drawn: with what a drag would make of one. */
function drawn(b: number) {
  const own = desk.byBar.get(b) ?? [];
  const d = dragging.dragged.value;
  return d ? own.map((s) => (s.id === d.id ? { ...s, place: d.place, loudness: d.loudness } : s)) : own;
}
const faint = computed(() =>
  new Map(
    showsPerhaps.value
      ? bars.value.map((b) => [b, faintIn(desk.score!.perhaps, desk.byBar.get(b) ?? [], b, desk.clock!)])
      : [],
  ),
);
function writePerhaps(f: Faint): void {
  desk.edit({ operation: "write_perhaps", ids: [f.id] });
}
const selected = computed(() => [...writing.chosen.value, ...(review.isOn.value ? (review.doubt.value?.strokes ?? []) : [])]);
const limbsOf = computed(() =>
  new Map(bars.value.map((b) => [b, (desk.byBar.get(b) ?? []).filter((s) => s.measured).map((s) => ({ time: s.measured!.time, limb: s.limb }))])),
);
const onsets = computed(() => {
  const clock = desk.clock!;
  return new Map(
    bars.value.map((b) => {
      const [from, to] = [clock.barStart(b), clock.barEnd(b)];
      const strokes = desk.byBar.get(b) ?? [];
      const heard = desk.shown!.hits.filter((h) => h.time >= from - NEAR && h.time < to - NEAR);
      return [
        b,
        heard.map((h) => ({
          time: h.time,
          isWritten: strokes.some((s) => s.part === h.part && Math.abs((s.measured?.time ?? clock.played(s)) - h.time) < NEAR),
          says: `${part(h.part).label}, ${Math.round(h.confidence * 100)} % sure`,
        })),
      ];
    }),
  );
});

function go(to: number): void {
  const next = Math.min(Math.max(1, to), desk.clock!.bars);
  void router.replace({ query: { bar: next } });
  writing.leave();
  if (!playback.isPlaying) playback.seek(desk.clock!.barStart(next));
}
watch(
  () => desk.clock!.barAt(playback.now),
  (sounding) => {
    if (playback.isPlaying && !playback.loop && sounding > 0 && !bars.value.includes(sounding)) {
      void router.replace({ query: { bar: sounding } });
    }
  },
);
const isConfirmed = computed(() => desk.score!.confirmed.includes(bar.value));
const state = computed(() => (isConfirmed.value ? "confirmed" : (desk.shown!.form.states[bar.value - 1] ?? "heard")));
function confirm(): void {
  desk.edit({ operation: "confirm_bars", bar: bar.value, last: bar.value, confirmed: !isConfirmed.value });
}
function confirmSection(): void {
  const s = section.value;
  if (s) desk.edit({ operation: "confirm_bars", bar: s.first_bar, last: s.first_bar + s.bars - 1, confirmed: true });
}
function show(to: Panel): void {
  panel.value = panel.value === to && to !== "review" ? "stroke" : to;
  if (to === "text") void nextTick(() => text.value?.focus());
  if (to === "review") {
    if (review.isOn.value) review.stop();
    else void review.start();
  }
}
function tap(): void {
  if (tapping.isOn.value) tapping.end(true);
  else void tapping.start(playback.loop?.[0] ?? desk.clock!.barStart(bar.value));
}
/** A stretch drawn over the sound becomes the loop, drawn to the grid. */
function loopOver(from: number, to: number): void {
  const clock = desk.clock!;
  const snapped = [from, to].map((t) => {
    const b = Math.min(Math.max(clock.barAt(t), 1), clock.bars);
    const steps = clock.meters[b - 1]!.beats * writing.grid.value;
    return clock.seconds(clock.starts[b - 1]! + Math.round(clock.within(b, t) * steps) / writing.grid.value);
  });
  if (snapped[1]! > snapped[0]!) playback.setLoop(snapped[0]!, snapped[1]!);
}
function zoom(): void {
  isZoomed.value = !isZoomed.value;
}
watch([isZoomed, () => writing.focus.value], () =>
  nextTick(() => {
    if (!isZoomed.value || !scroller.value) return;
    const beats = desk.clock!.meters[bar.value - 1]!.beats;
    const x = PAD + (writing.focus.value / beats) * (barWidth.value - 2 * PAD);
    scroller.value.scrollTo({ left: x - width.value / 2 });
  }),
);
useStrokeKeys(writing, review, {
  bar, go, confirm, zoom, show, tap,
  takeOver: () => comparing.value?.takeOver(),
  perhaps: () => (showsPerhaps.value = !showsPerhaps.value),
  nextView: () => (view.value = (view.value + 1) % VIEWS.length),
  applyAll: () => offer.value?.apply(),
  pickAlike: () => offer.value?.pick(),
});
watch(() => writing.part.value, (p) => playback.narrowed && (playback.narrowed = p));
watch(() => writing.part.value, (p) => (playback.partInHand = p), { immediate: true });
onMounted(() => {
  if (!playback.isPlaying && desk.clock!.barAt(playback.now) !== bar.value) {
    playback.seek(desk.clock!.barStart(bar.value));
  }
});
onUnmounted(() => review.isOn.value && review.stop());

function pixelsABeat(b: number): number {
  return (barWidth.value - 2 * PAD) / desk.clock!.meters[b - 1]!.beats;
}
const HANDS = { ghost: "writes ghosts", normal: "", accent: "writes accents" };
const hints = computed(() =>
  [
    HANDS[writing.touch.value],
    writing.isStepping.value ? "steps on by itself" : "",
    writing.isFilling.value ? "the next part fills the bar" : "",
    playback.narrowed ? `hears the band of the ${part(playback.narrowed).label.toLowerCase()}` : "",
  ].filter(Boolean),
);
</script>

<template>
  <div class="bench">
    <div class="strip">
      <button class="plain" aria-label="Bar before" @click="go(bar - 1)"><i class="pi pi-angle-left" /></button>
      <div class="what"><strong>Bar {{ bar }}</strong><span class="soft">{{ section?.name }}</span></div>
      <button class="plain" aria-label="Next bar" @click="go(bar + 1)"><i class="pi pi-angle-right" /></button>
      <button v-for="(b, n) in phrase" :key="n" :class="['thumb', { on: bars.includes(b) }, desk.shown!.form.states[b - 1]]" :aria-label="`Bar ${b}`" @click="go(b)">
        <SpineThumb :bar="b" :strokes="desk.byBar.get(b) ?? []" :clock="desk.clock!" :different="null" />
      </button>
      <span class="grow" />
      <button :class="['plain', { on: isConfirmed }]" :aria-pressed="isConfirmed" :title="`This bar is ${state}`" @click="confirm"><i class="pi pi-check" /> {{ isConfirmed ? "Confirmed" : "Is right" }} <KeyCap scope="bench" action="confirm" /></button>
      <button class="plain" title="All bars of the section are right" @click="confirmSection">Section is right</button>
    </div>
    <div class="work">
      <div class="limbs" aria-hidden="true"><span class="RH">RH</span><span class="LH">LH</span><span class="mid" /><span class="RF">RF</span><span class="LF">LF</span></div>
      <div ref="scroller" class="scroller">
        <div ref="frame" class="spines">
          <div v-for="(b, n) in bars" :key="n" class="column" :style="{ width: `${barWidth}px` }">
            <button v-if="bars.length > 1" :class="['number', { on: b === bar }]" @click="go(b)">{{ b }}</button>
            <SpineBar
              :bar="b"
              :strokes="drawn(b)"
              :clock="desk.clock!"
              :width="barWidth"
              :height="Math.max(200, height)"
              :grid="writing.grid.value"
              :selected="selected"
              :faint="faint.get(b)"
              :figures="bars.length <= 2"
              :cue="desk.score!.cues?.[b] ?? null"
              :cursor="b === bar ? writing.cursor.value : null"
              :playing="desk.clock!.barAt(playback.now) === b ? desk.clock!.within(b, playback.now) : null"
              @pick="(s, e) => dragging.grab(s, e, pixelsABeat(b), height / 4)"
              @sweep="(e, limb, at) => dragging.sweep(e, b, limb, at)"
              @write="writePerhaps"
            />
          </div>
        </div>
        <div class="sounds">
          <div v-for="(b, n) in bars" :key="n" :style="{ width: `${barWidth}px` }">
            <WaveForm :from="desk.clock!.barStart(b)" :to="desk.clock!.barEnd(b)" :now="playback.now" :height="44" :inset="PAD" :strokes="limbsOf.get(b)!" stretches :loop="playback.loop" @seek="playback.seek" @stretch="loopOver" />
            <SpectrumStrip :take="desk.shown!.take" :from="desk.clock!.barStart(b)" :to="desk.clock!.barEnd(b)" :height="64" :inset="PAD" :onsets="onsets.get(b)!" />
          </div>
        </div>
      </div>
      <div class="axis soft" aria-hidden="true"><span class="wave">level</span><span>cymbals</span><span>snare</span><span>toms</span><span>kick</span></div>
      <aside class="side">
        <div class="tabs" role="tablist" aria-label="Beside the bar">
          <button v-for="p in PANELS" :key="p.key" role="tab" :aria-selected="panel === p.key" :class="{ on: panel === p.key }" @click="panel = p.key">{{ p.label }} <KeyCap v-if="p.at" scope="bench" :action="p.at" /></button>
        </div>
        <div class="panel" role="tabpanel">
          <StrokeCard v-if="panel === 'stroke'" :strokes="writing.strokes.value" :clock="desk.clock!" @edit="(wanted) => writing.each((s) => ({ ...wanted, id: s.id }) as StrokeEdit)" @remove="writing.remove()" />
          <CountPanel v-else-if="panel === 'text'" ref="text" :bar="bar" :bars="isZoomed ? 1 : bars[0] === bar ? bars.length : 1" />
          <ComparePanel v-else-if="panel === 'compare'" ref="comparing" :bar="bar" :grid="writing.grid.value" />
          <ReviewPanel v-else :review="review" />
        </div>
        <VideoTake v-if="video" :take="video" />
      </aside>
      <AlikeOffer ref="offer" />
    </div>
    <div class="bar-tools">
      <div class="group" role="group" aria-label="Bars side by side">
        <button v-for="(n, k) in VIEWS" :key="n" :class="['plain', { on: view === k && !isZoomed }]" title="Bars side by side (1)" @click="view = k; isZoomed = false">{{ n === 0 ? "Phrase" : n === 1 ? "1 bar" : `${n} bars` }}</button>
        <button :class="['plain', { on: isZoomed }]" title="Close up on a beat (9)" @click="zoom">1 beat</button>
      </div>
      <div class="group" role="group" aria-label="Grid">
        <button v-for="g in writing.GRIDS" :key="g.parts" :class="['plain', { on: writing.grid.value === g.parts }]" :title="`${g.label} (${g.key})`" @click="writing.setGrid(g.parts)">{{ g.label }}</button>
      </div>
      <button :class="['plain', { on: showsPerhaps }]" :aria-pressed="showsPerhaps" title="What was heard too unsurely to be written; a click writes it" @click="showsPerhaps = !showsPerhaps">Perhaps <KeyCap scope="bench" action="perhaps" /></button>
      <button :class="['plain', 'tap', { on: tapping.isOn.value }]" :title="withKey('Play the part in along with the recording', 'bench', 'playIn')" @click="tap">{{ tapping.isOn.value ? `Playing in: ${tapping.played.value.length}. Enter keeps it` : "Play it in" }} <KeyCap scope="bench" action="playIn" /></button>
      <span class="hints" role="status">{{ hints.join("; ") }}</span>
    </div>
    <PartTray :current="writing.part.value" @choose="writing.takePart" />
    <div v-if="dragging.box.value" class="box" :style="{ left: `${dragging.box.value.left}px`, top: `${dragging.box.value.top}px`, width: `${dragging.box.value.width}px`, height: `${dragging.box.value.height}px` }" />
  </div>
</template>

<style scoped>
.bench { height: 100%; display: grid; grid-template-rows: auto minmax(0, 1fr) auto auto; min-height: 560px; }
.strip { display: flex; flex-wrap: wrap; align-items: center; gap: 0.4rem; padding: 0.35rem 0.8rem; }
.what { display: flex; flex-direction: column; line-height: 1.1; min-width: 5.5rem; text-align: center; }
.thumb { width: 84px; height: 38px; padding: 1px; border: 1px solid var(--line-strong); border-radius: 6px; background: var(--sheet); cursor: pointer; }
.thumb.confirmed { border-bottom: 4px solid var(--rh); }
.thumb.review { border-bottom: 4px solid color-mix(in srgb, var(--rh) 45%, var(--well)); }
.thumb.on { border-color: var(--ink); box-shadow: 0 0 0 1px var(--ink); }
.grow { flex: 1; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; padding: 0.25rem 0.6rem; white-space: nowrap; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.work { position: relative; display: grid; grid-template-columns: 44px minmax(0, 1fr) 318px; grid-template-rows: minmax(0, 1fr) 108px; background: var(--sheet); border-block: 1px solid var(--line); min-height: 0; }
.limbs { grid-area: 1 / 1; display: grid; grid-template-rows: 1fr 1fr 8.5% 1fr 1fr; align-items: center; justify-items: center; font-weight: 700; background: var(--well); }
.axis { grid-area: 2 / 1; background: var(--well); display: grid; grid-template-rows: 44px repeat(4, 1fr); font-size: 9.5px; line-height: 1; text-align: right; padding-right: 3px; align-items: center; border-top: 1px solid var(--line); }
.RH { color: var(--rh); } .LH { color: var(--lh); } .RF { color: var(--rf); } .LF { color: var(--lf); }
.scroller { grid-area: 1 / 2 / 3 / 3; display: grid; grid-template-rows: minmax(0, 1fr) 108px; overflow: auto hidden; min-width: 0; }
.spines { display: flex; min-width: 0; min-height: 0; }
.column { position: relative; flex: none; }
.number { position: absolute; left: 4px; bottom: 4px; z-index: 1; border: 0; border-radius: 5px; background: var(--well); color: var(--ink-soft); padding: 0 6px; cursor: pointer; font-weight: 700; }
.number.on { background: var(--ink); color: var(--paper); }
.sounds { display: flex; border-top: 1px solid var(--line); }
.sounds > div { flex: none; }
.side { grid-area: 1 / 3 / 3 / 4; border-left: 1px solid var(--line-strong); display: grid; grid-template-rows: auto 1fr auto; min-height: 0; background: var(--paper); }
.tabs { display: flex; background: var(--well); }
.tabs button { flex: 1; border: 0; background: none; color: var(--ink-soft); padding: 0.4rem 0.1rem; cursor: pointer; white-space: nowrap; font-size: 0.92rem; }
.tabs .on { background: var(--paper); color: var(--ink); font-weight: 700; }
.panel { padding: 0.6rem 0.7rem; overflow: auto; }
.bar-tools { display: flex; flex-wrap: wrap; align-items: center; gap: 0.3rem 0.7rem; padding: 0.3rem 0.8rem 0.1rem; }
.tap { padding: 0.25rem 0.6rem; white-space: nowrap; }
.tap.on { background: var(--now); border-color: var(--now); color: var(--paper); }
.hints { color: var(--ink-soft); font-size: 0.92rem; }
@media (max-width: 1000px) {
  .work { grid-template-columns: 44px minmax(0, 1fr); grid-template-rows: minmax(240px, 1fr) 108px auto; }
  .side { grid-area: 3 / 1 / 4 / 3; border-left: 0; border-top: 1px solid var(--line-strong); max-height: 17rem; }
}
.box { position: fixed; border: 1.5px solid var(--focus); background: color-mix(in srgb, var(--focus) 14%, transparent); pointer-events: none; z-index: 5; }
</style>
