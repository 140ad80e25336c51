<script setup lang="ts">
/** Map: the form as sections, phrase rows and thumbnails; the whole song at a glance. */
import type { Section } from "@/api/client";
import KeyCap from "@/keys/KeyCap.vue";
import { by, useKeys } from "@/keys/useKeys";
import { useElementSize } from "@vueuse/core";
import Popover from "primevue/popover";
import { computed, nextTick, ref } from "vue";
import { useRouter } from "vue-router";
import SectionCard from "@/desk/SectionCard.vue";
import { clockText } from "@/score/time";
import { likeness, phraseRows } from "@/spine/layout";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { factsText, layoutOf, type Shown } from "./mapLayout";

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const isRoomy = ref(false);
const card = ref<InstanceType<typeof Popover> | null>(null);
const opened = ref<{ id: string; bar: number } | null>(null);

const different = computed(() => likeness(desk.byBar, desk.clock!.bars));
const form = computed(() => desk.shown!.form);
const fills = computed(() => new Set(form.value.sections.flatMap((s) => s.fills)));
const crashes = computed(() => new Set(form.value.sections.flatMap((s) => s.crashes)));
const playing = computed(() => desk.clock!.barAt(playback.now));
const events = computed(() => {
  const at = new Map<number, string[]>();
  for (const e of form.value.events) at.set(e.bar, [...(at.get(e.bar) ?? []), e.says]);
  return at;
});
const name = (id: string | null | undefined) => desk.score!.sections.find((s) => s.id === id)?.name;
const sections = computed<Shown[]>(() =>
  desk.score!.sections.map((s) => {
    const facts = form.value.sections.find((f) => f.id === s.id);
    return { ...s, rows: phraseRows(s.first_bar, s.bars), facts, twin: name(facts?.twin), start: desk.clock!.barStart(s.first_bar) };
  }),
);
const frame = ref<HTMLElement | null>(null);
const { height } = useElementSize(frame);
const layout = computed(() => layoutOf(sections.value, height.value - 36));
const barHeight = computed(() => (isRoomy.value ? 76 : layout.value.height));
const isDense = computed(() => !isRoomy.value && layout.value.isDense);
const widest = computed(() => Math.max(4, ...sections.value.flatMap((s) => s.rows.map((r) => r.length))));

const isConfirmed = (s: Shown) =>
  form.value.states.slice(s.first_bar - 1, s.first_bar + s.bars - 1).every((x) => x === "confirmed");

async function edit(id: string, event: Event): Promise<void> {
  const own = sections.value.find((s) => s.id === id)!;
  const inside = playing.value > own.first_bar && playing.value < own.first_bar + own.bars;
  opened.value = { id, bar: inside ? playing.value : own.first_bar + Math.max(1, own.bars >> 1) };
  card.value?.hide();
  await nextTick();
  card.value?.show(event);
}
function open(bar: number): void {
  playback.seek(desk.clock!.barStart(bar));
  void router.push({ name: "bench", query: { bar } });
}
function saysOf(bar: number): string {
  const says = [...(events.value.get(bar) ?? [])];
  if (desk.score!.notes[bar]) says.push(desk.score!.notes[bar]!);
  return says.join("; ");
}

/** Keys act on the section that the cursor is in. */
/** The section at the cursor, if the cursor stands in one. */
function here(act: (s: Section, bar: number) => void): () => unknown {
  return () => {
    const bar = Math.max(1, playing.value);
    const own = sections.value.find((s) => s.first_bar <= bar && bar < s.first_bar + s.bars);
    return own ? act(own, bar) : false;
  };
}
useKeys("map", {
  roomy: () => void (isRoomy.value = !isRoomy.value),
  step: (_, which) => {
    const bar = Math.max(1, playing.value) + by(which);
    playback.seek(desk.clock!.barStart(Math.min(Math.max(1, bar), desk.clock!.bars)));
  },
  border: (_, which) => here((s) => desk.edit({ operation: "move_border", id: s.id, first_bar: s.first_bar + by(which) }))(),
  split: here((s, bar) => desk.edit({ operation: "split_section", id: s.id, bar, new: `sec-${crypto.randomUUID().slice(0, 8)}` })),
  join: here((s) => desk.edit({ operation: "merge_section", id: s.id })),
});
</script>

<template>
  <div ref="frame" class="map">
    <p class="legend soft">
      <span><i class="corner" /> fill</span>
      <span><i class="struck" /> crash</span>
      <span><i class="quiet" /> pale: like an earlier bar</span>
      <span><i class="odd" /> not a four</span>
      <span><i class="mark" /> something changes (point at it)</span>
      <span class="grow" />
      <button class="plain" :aria-pressed="isRoomy" @click="isRoomy = !isRoomy">{{ isRoomy ? "Whole song" : "Roomy" }} <KeyCap scope="map" action="roomy" /></button>
    </p>
    <div class="sections" :style="{ '--bars': widest, '--bar-height': `${barHeight}px` }">
      <div v-for="(column, c) in layout.columns" :key="c" :class="['column', { dense: isDense }]">
        <section v-for="s in column" :key="s.id" :class="['section', { on: s.first_bar <= playing && playing < s.first_bar + s.bars, odd: s.facts?.odd }]" :data-section="s.id">
          <div class="name">
            <p v-if="s.rows[0]![0] !== s.first_bar" class="about soft">{{ s.name }} goes on</p>
            <div v-else class="first">
              <button class="title" :title="`Change ${s.name}`" @click="edit(s.id, $event)">{{ s.name }} <i v-if="isConfirmed(s)" class="pi pi-check" title="All its bars are confirmed" /></button>
              <button class="time figure" :aria-label="`Play ${s.name}`" @click="playback.play(s.start)">{{ clockText(s.start) }}</button>
            </div>
            <p v-if="s.rows[0]![0] === s.first_bar" class="about soft" :title="factsText(s).join('; ')">{{ factsText(s).join("; ") }}</p>
            <p v-if="s.note && !isDense" class="about">{{ s.note }}</p>
          </div>
          <div class="rows">
            <div v-for="row in s.rows" :key="row[0]" :class="['phrase', { odd: row.length !== 4 }]">
              <button
                v-for="bar in row"
                :key="bar"
                :class="['bar', desk.shown!.form.states[bar - 1], { now: bar === playing, fill: fills.has(bar), crash: crashes.has(bar), beyond: row.length > 4 && bar - row[0]! > 3 }]"
                :aria-label="`Bar ${bar}${fills.has(bar) ? ', fill' : ''}${saysOf(bar) ? `, ${saysOf(bar)}` : ''}`"
                :title="saysOf(bar) || undefined"
                :data-bar="bar"
                @click="open(bar)"
              >
                <span :class="['number', 'figure', { event: saysOf(bar) }]">{{ bar }}</span>
                <SpineThumb :bar="bar" :strokes="desk.byBar.get(bar) ?? []" :clock="desk.clock!" :different="different.get(bar)" />
              </button>
            </div>
          </div>
        </section>
      </div>
    </div>
    <Popover ref="card"><SectionCard v-if="opened" :id="opened.id" :key="opened.id" :bar="opened.bar" @done="card?.hide()" /></Popover>
  </div>
</template>

<style scoped>
.map { padding: 0.2rem 1rem 0.3rem; min-height: 100%; height: 100%; box-sizing: border-box; }
.legend { display: flex; gap: 1.2rem; align-items: center; font-size: 0.88rem; margin: 0 0 0.2rem; height: 30px; }
.legend .plain { padding-block: 0.1rem; }
.legend span { display: inline-flex; gap: 0.4rem; align-items: center; }
.legend i { width: 16px; height: 12px; border: 1px solid var(--line-strong); border-radius: 3px; background: var(--sheet); }
.legend .corner { background: linear-gradient(225deg, var(--lh) 42%, var(--sheet) 43%); }
.legend .struck { border-left: 4px solid var(--rh); }
.legend .quiet { background: repeating-linear-gradient(90deg, transparent 0 4px, var(--line) 4px 5px); }
.legend .odd { background: var(--warn-well); border-color: var(--lh); }
.legend .mark { width: 12px; background: var(--ink); border-color: var(--ink); }
.grow { flex: 1; }
.sections { display: grid; grid-template-columns: 1fr 1fr; gap: 0 1.2rem; align-items: start; }
.column { display: grid; gap: 5px; min-width: 0; }
.column.dense { gap: 2px; }
.dense .section { padding: 0 3px; }
.dense .rows { gap: 1px; }
.dense .first { line-height: 1.15; }
.section { display: grid; grid-template-columns: 9.4rem 1fr; gap: 0.5rem; padding: 1px 3px; border-radius: 8px; border-left: 4px solid transparent; min-width: 0; }
.section.on { background: color-mix(in srgb, var(--rh) 9%, transparent); border-left-color: var(--rh); }
.name { display: flex; flex-direction: column; min-width: 0; overflow: hidden; max-height: 100%; }
.first { display: flex; gap: 0.4rem; align-items: baseline; justify-content: space-between; }
.title { border: 0; background: none; padding: 0; font-weight: 700; font-size: 1rem; color: var(--ink); cursor: pointer; text-align: left; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.title:hover { text-decoration: underline dotted; }
.time { border: 0; background: none; padding: 0; color: var(--rh); cursor: pointer; }
.about { font-size: 0.8rem; line-height: 1.18; margin: 0; overflow: hidden; display: -webkit-box; -webkit-box-orient: vertical; -webkit-line-clamp: 4; line-clamp: 4; }
.dense .about { -webkit-line-clamp: 2; line-clamp: 2; font-size: 0.76rem; }
.rows { display: grid; gap: 2px; min-width: 0; align-content: start; }
.phrase { display: grid; grid-template-columns: repeat(var(--bars), 1fr); gap: 3px; }
.bar { position: relative; height: var(--bar-height); padding: 1px 1px 1px 17px; border: 1px solid var(--line-strong); border-radius: 5px; background: var(--sheet); cursor: pointer; overflow: hidden; min-width: 0; }
.bar:hover { border-color: var(--ink); }
.phrase.odd .bar { background: color-mix(in srgb, var(--warn-well) 70%, var(--sheet)); }
.bar.beyond { border-color: var(--lh); }
.bar.crash { border-left: 4px solid var(--rh); padding-left: 14px; }
.bar.fill::after { content: ""; position: absolute; top: 0; right: 0; border: 6px solid; border-color: var(--lh) var(--lh) transparent transparent; }
.bar.confirmed { box-shadow: inset 0 -3px var(--rh); }
.bar.review { box-shadow: inset 0 -3px color-mix(in srgb, var(--rh) 40%, var(--sheet)); }
.title .pi { font-size: 0.8em; color: var(--rh); }
.bar.now { border-color: var(--now); box-shadow: 0 0 0 1px var(--now); }
.number { position: absolute; left: 2px; top: 1px; font-size: 10.5px; color: var(--ink-soft); line-height: 1.2; padding: 0 1px; }
.number.event { background: var(--ink); color: var(--paper); border-radius: 3px; }
@media (max-width: 900px) { .sections { grid-template-columns: 1fr; } }
</style>
