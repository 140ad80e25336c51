<script setup lang="ts">
/** Map: the form as sections, phrase rows and thumbnails. */
import { useElementSize } from "@vueuse/core";
import InputText from "primevue/inputtext";
import { computed, nextTick, ref } from "vue";
import { useRouter } from "vue-router";
import type { Section } from "@/api/client";
import { clockText } from "@/score/time";
import { likeness, phraseRows, surfaceOf } from "@/spine/layout";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const renaming = ref<string | null>(null);
const draft = ref("");

const different = computed(() => likeness(desk.byBar, desk.clock!.bars));
const fills = computed(() => new Set(desk.shown!.fills.map((f) => f.bar)));
const playing = computed(() => desk.clock!.barAt(playback.now));
const sections = computed(() =>
  desk.score!.sections.map((s, n, all) => {
    const own = Array.from({ length: s.bars }, (_, i) => desk.byBar.get(s.first_bar + i) ?? []).flat();
    const twin = all.slice(0, n).find((o) => o.label === s.label);
    return {
      ...s,
      n,
      rows: phraseRows(s.first_bar, s.bars),
      surface: surfaceOf(own),
      twin: twin?.name,
      start: desk.clock!.barStart(s.first_bar),
    };
  }),
);
const frame = ref<HTMLElement | null>(null);
const { height } = useElementSize(frame);
/** As tall as lets the whole song stand on the screen, within reason. */
const barHeight = computed(() => {
  const rows = sections.value.reduce((n, s) => n + Math.max(s.rows.length, 1.6), 0);
  const gaps = sections.value.length * 14;
  return Math.min(74, Math.max(34, ((height.value - 60) * 1.9 - gaps) / rows - 4));
});
const widest = computed(() => Math.max(4, ...sections.value.flatMap((s) => s.rows.map((r) => r.length))));

async function rename(s: Section): Promise<void> {
  renaming.value = s.id;
  draft.value = s.name;
  await nextTick();
  document.querySelector<HTMLInputElement>(".renaming")?.select();
}
function named(s: Section): void {
  const name = draft.value.trim();
  if (renaming.value === s.id && name && name !== s.name) desk.edit("rename_section", { id: s.id, name });
  renaming.value = null;
}
function move(s: Section, by: number): void {
  desk.edit("move_border", { id: s.id, first_bar: s.first_bar + by });
}
function open(bar: number): void {
  playback.seek(desk.clock!.barStart(bar));
  void router.push({ name: "bench", query: { bar } });
}
function isOdd(row: number[]): boolean {
  return row.length !== 4;
}
function hears(bar: number, name: string): boolean {
  return (desk.byBar.get(bar) ?? []).some((s) => s.part.startsWith(name));
}
</script>

<template>
  <div ref="frame" class="map">
    <p class="legend soft">
      <span><i class="corner" /> fill</span>
      <span><i class="quiet" /> pale: like an earlier bar</span>
      <span><i class="odd" /> phrase that is not a four</span>
      <span class="grow" />
      Click a bar to open it, a time to listen.
    </p>
    <div class="sections" :style="{ '--bars': widest, '--bar-height': `${barHeight}px` }">
      <section v-for="s in sections" :key="s.id" :class="['section', { on: s.first_bar <= playing && playing < s.first_bar + s.bars }]" :data-section="s.id">
        <div class="name">
          <InputText v-if="renaming === s.id" v-model="draft" class="renaming" size="small" maxlength="60" aria-label="Name of the section" @keydown.enter="named(s)" @keydown.esc="renaming = null" @blur="named(s)" />
          <button v-else class="title" :title="`Rename ${s.name}`" @click="rename(s)">{{ s.name }}</button>
          <button class="time figure" :aria-label="`Play ${s.name}`" @click="playback.play(s.start)"><i class="pi pi-play" /> {{ clockText(s.start) }}</button>
          <span class="soft about">{{ s.bars }} bars<template v-if="s.surface">, {{ s.surface }}</template></span>
          <span v-if="s.twin" class="soft about">like {{ s.twin }}</span>
          <span v-if="s.n > 0" class="border">
            <button class="plain" :aria-label="`${s.name} begins a bar earlier`" title="Begins a bar earlier" @click="move(s, -1)"><i class="pi pi-angle-left" /></button>
            <span class="soft">bar {{ s.first_bar }}</span>
            <button class="plain" :aria-label="`${s.name} begins a bar later`" title="Begins a bar later" @click="move(s, 1)"><i class="pi pi-angle-right" /></button>
          </span>
        </div>
        <div class="rows">
          <div v-for="row in s.rows" :key="row[0]" :class="['phrase', { odd: isOdd(row) }]">
            <button
              v-for="bar in row"
              :key="bar"
              :class="['bar', { now: bar === playing, fill: fills.has(bar), crash: hears(bar, 'crash'), beyond: row.length > 4 && bar - row[0]! > 3 }]"
              :aria-label="`Bar ${bar}${fills.has(bar) ? ', fill' : ''}`"
              :data-bar="bar"
              @click="open(bar)"
            >
              <span class="number figure">{{ bar }}</span>
              <SpineThumb :bar="bar" :strokes="desk.byBar.get(bar) ?? []" :clock="desk.clock!" :different="different.get(bar)" />
            </button>
          </div>
        </div>
      </section>
    </div>
  </div>
</template>

<style scoped>
.map { padding: 0.6rem 1rem 1rem; min-height: 100%; }
.legend { display: flex; gap: 1.2rem; align-items: center; font-size: 0.9rem; margin-bottom: 0.5rem; }
.legend span { display: inline-flex; gap: 0.4rem; align-items: center; }
.legend i { width: 16px; height: 12px; border: 1px solid var(--line-strong); border-radius: 3px; background: var(--sheet); }
.legend .corner { background: linear-gradient(225deg, var(--lh) 42%, var(--sheet) 43%); }
.legend .quiet { background: repeating-linear-gradient(90deg, transparent 0 4px, var(--line) 4px 5px); }
.legend .odd { background: var(--warn-well); border-color: var(--lh); }
.grow { flex: 1; }
.sections { columns: 2; column-gap: 1.6rem; }
.section { break-inside: avoid; display: grid; grid-template-columns: 6.6rem 1fr; gap: 0.5rem; padding: 0.35rem; border-radius: 10px; }
.section.on { background: color-mix(in srgb, var(--rh) 9%, transparent); }
.name { display: flex; flex-direction: column; align-items: flex-start; gap: 1px; min-width: 0; }
.title { border: 0; background: none; padding: 0; font-weight: 700; font-size: 1.05rem; color: var(--ink); cursor: text; text-align: left; overflow-wrap: anywhere; }
.title:hover { text-decoration: underline dotted; }
.renaming { width: 100%; }
.time { border: 0; background: none; padding: 0; color: var(--rh); cursor: pointer; }
.time .pi { font-size: 0.7rem; }
.about { font-size: 0.85rem; line-height: 1.2; }
.border { display: flex; align-items: center; gap: 3px; font-size: 0.85rem; opacity: 0; }
.section:hover .border, .section:focus-within .border { opacity: 1; }
.border .plain { padding: 0 0.2rem; border-radius: 5px; }
.rows { display: grid; gap: 4px; min-width: 0; }
.phrase { display: grid; grid-template-columns: repeat(var(--bars), 1fr); gap: 4px; }
.bar { position: relative; height: var(--bar-height); padding: 1px 1px 1px 15px; border: 1px solid var(--line-strong); border-radius: 6px; background: var(--sheet); cursor: pointer; overflow: hidden; }
.bar:hover { border-color: var(--ink); }
.phrase.odd .bar { background: color-mix(in srgb, var(--warn-well) 70%, var(--sheet)); }
.bar.beyond { border-color: var(--lh); }
.bar.fill::after { content: ""; position: absolute; top: 0; right: 0; border: 7px solid; border-color: var(--lh) var(--lh) transparent transparent; }
.bar.now { border-color: var(--now); box-shadow: 0 0 0 1px var(--now); }
.number { position: absolute; left: 3px; top: 1px; font-size: 11px; color: var(--ink-faint); }
@media (max-width: 900px) { .sections { columns: 1; } }
</style>
