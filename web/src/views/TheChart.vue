<script setup lang="ts">
/** Chart: what the player will get. The pages are those that print. */
import { computed, nextTick, ref, shallowRef, watch } from "vue";
import { brought, inArrangement, of, retryWhileAway, server, type Schemas } from "@/api/client";
import TypedField from "@/controls/TypedField.vue";
import { useLocalStorage } from "@vueuse/core";
import type { paths } from "@/api/schema";
import { keysOfPads } from "@/audio/pads";
import { useKitOfMine } from "@/stores/kitOfMine";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const props = defineProps<{ songId: number }>();
const desk = useSong();
const playback = usePlayback();
const chart = shallowRef<Schemas["Chart"] | null>(null);
const complaint = ref("");
const footnotes = ref(false);
const VIEWS = [["full", "Full chart"], ["road-map", "Road map"], ["limbs", "Limbs"], ["counting", "Counting"], ["excerpts", "Excerpts"], ["variations", "Variations"], ["stages", "Stages"]] as const;
const STICKINGS = [["none", "no sticking"], ["fills", "sticking in fills"], ["all", "sticking"]] as const;
const COUNTS = [["none", "no counts"], ["hard", "counts in hard bars"], ["all", "counts"]] as const;
const LAYOUTS = [["common", "ride on the top line, hat above it"], ["ride_above", "hat on the top line, ride above it"], ["low_kick", "feet below the staff"]] as const;
const GHOSTS = [["brackets", "in brackets"], ["small", "small heads"]] as const;
const LETTERS = [["RL", "R L"], ["DG", "D G"]] as const;
const ownLetters = computed({
  get: () => (LETTERS.some(([key]) => key === look.value.letters) ? "" : look.value.letters),
  set: (typed: string) => (look.value = { ...look.value, letters: typed.trim() || "RL" }),
});
/** What a person leaves out of a sheet, and the words on what stands there. */
const setOnPaper = (i: Schemas["SheetItem"], shown: boolean, text: string) => desk.edit({ operation: "set_on_paper", item: i.item, shown, text });
const leftOut = computed(() => chart.value?.items.filter((i) => !i.shown).length ?? 0);
/** How a sign is played, in the writer's own words. */
const setHowTo = (sign: string, text: string) => desk.edit({ operation: "set_how_to", sign: sign as "accent", text });
const PAPERS = [["A4", "A4"], ["letter", "Letter"], ["tablet", "Tablet"], ["A4 large", "A4, large print"], ["letter large", "Letter, large print"]] as const;
/** How this browser likes its pages. */
const look = useLocalStorage("orchesis.chart", { view: "", paper: "A4", sticking: "none", counts: "none", repeats: false, layout: "common", ghosts: "brackets", letters: "RL", bars_a_line: 0, brackets: true, count_row: true }, { mergeDefaults: true });
type Wished = NonNullable<paths["/api/songs/{id}/chart"]["get"]["parameters"]["query"]>;
const own = useKitOfMine();
/** The view chosen on this device, else the one that its reader reads. */
const view = computed({
  get: () => look.value.view || ({ staff: "full", limbs: "limbs", spine: "counting" }[own.read.reads] ?? "full"),
  set: (chosen: string) => (look.value = { ...look.value, view: chosen }),
});
/** Bars of the limb chart, "" for the whole song: of this song alone. */
const stretch = ref("");
const wished = computed(() => ({ ...look.value, view: view.value, footnotes: footnotes.value, ...(view.value === "limbs" && stretch.value ? { bars: stretch.value } : {}) }) as Wished);
const hasCounts = computed(() => !["road-map", "counting"].includes(view.value));
const pages = ref<HTMLElement | null>(null);
/** Which pages were asked for last: slower ones of another view come too late. */
let run = 0;
async function fetchPages(): Promise<void> {
  const state = desk.state;
  const own = ++run;
  try {
    const query = wished.value;
    const found = await retryWhileAway(
      () => brought(server.GET("/api/songs/{id}/chart", { params: { ...of(props.songId), query } })),
      (why) => own === run && (complaint.value = why),
      () => own === run,
    );
    if (own !== run) return;
    chart.value = found;
    complaint.value = "";
    drawn = state;
    lit = 0;
    await nextTick();
    light();
  } catch (problem) {
    if (own === run) complaint.value = (problem as Error).message;
  }
}
let drawn: string | null = null;
watch([() => desk.state, () => desk.isSaved], ([state, saved]) => {
  if (saved && state !== drawn) void fetchPages();
}, { immediate: true });

watch(wished, () => void fetchPages());
const href = (ending: string) => inArrangement(`/api/songs/${props.songId}/chart.${ending}${ending === "pdf" ? `?${new URLSearchParams(Object.entries(wished.value).map(([k, v]) => [k, String(v)]))}` : ""}`);

/** What the pads of this browser were taught, as keys of a MIDI file. */
const ownKeys = computed(() => keysOfPads());
const midi = (feel: string) => inArrangement(`/api/songs/${props.songId}/chart.mid?${new URLSearchParams({ feel, keys: ownKeys.value }).toString()}`);

/** The bar as it is written, which may be half or twice the counted one. */
const bar = computed(() => {
  const starts = chart.value?.bars ?? [];
  let b = 0;
  while (b < starts.length - 1 && starts[b]! <= playback.now + 1e-6) b++;
  return b;
});
const BREAKS = [["found", "stands as the rules have it"], ["line", "begins a line"], ["page", "begins a page"], ["joined", "joins the line before"]] as const;
/** How the bar that sounds stands on the page; counted bars only. */
const counted = computed(() => Math.min(Math.max(1, desk.clock!.barAt(playback.now)), desk.clock!.bars));
const breaks = computed(() => chart.value?.breaks[String(counted.value)] ?? "found");
const setBreak = (kind: string) => desk.edit({ operation: "set_break", bar: counted.value, kind: kind as "line" });
const WRITINGS: Record<string, string> = {
  counted: "as counted",
  short: "8ths as 16ths",
  long: "16ths as 8ths",
  triplets: "with triplets",
  compound: "in 12/8",
  swung_triplets: "swing as triplets",
  swung_dotted: "swing as dotted values",
};
const box = ref<{ left: string; top: string; width: string; height: string } | null>(null);
const within = ref(0);
let lit = 0;

function light(): void {
  const b = bar.value;
  if (b !== lit) {
    lit = b;
    const measure = pages.value?.querySelector(`[id="bar-${b}"]`);
    const staff = measure?.querySelector("g.staff");
    if (!staff || !pages.value) {
      box.value = null;
      return;
    }
    const outer = pages.value.getBoundingClientRect();
    const own = staff.getBoundingClientRect();
    const scroll = pages.value;
    box.value = {
      left: `${own.left - outer.left + scroll.scrollLeft}px`,
      top: `${own.top - outer.top + scroll.scrollTop - 4}px`,
      width: `${own.width}px`,
      height: `${own.height + 8}px`,
    };
    if (playback.isPlaying) measure?.scrollIntoView({ block: "center", behavior: "smooth" });
  }
  const starts = chart.value?.bars;
  within.value = b > 0 && starts ? (playback.now - starts[b - 1]!) / (starts[b]! - starts[b - 1]!) : 0;
}
watch(() => playback.now, light);

/** The pages alone on the whole screen: for the stand. */
const stand = () => void pages.value?.requestFullscreen?.().catch(() => {});

function jump(event: MouseEvent): void {
  const measure = (event.target as Element).closest("[id^='bar-']");
  const start = chart.value?.bars[Number(measure?.id.slice(4)) - 1];
  if (start !== undefined) playback.seek(start);
}
</script>

<template>
  <div class="chart">
    <header>
      <div class="group" role="group" aria-label="Pages">
        <button v-for="[key, label] in VIEWS" :key="key" :class="['plain', { on: view === key }]" :aria-pressed="view === key" @click="view = key">{{ label }}</button>
      </div>
      <details class="files look">
        <summary class="plain"><i class="pi pi-sliders-h" aria-hidden="true" /> Look</summary>
        <div class="card" role="group" aria-label="Look of the pages">
          <label>Paper <select v-model="look.paper" class="plain" aria-label="Paper"><option v-for="[key, label] in PAPERS" :key="key" :value="key">{{ label }}</option></select></label>
          <template v-if="hasCounts">
            <label>Sticking <select v-model="look.sticking" class="plain" aria-label="Sticking"><option v-for="[key, label] in STICKINGS" :key="key" :value="key">{{ label }}</option></select></label>
            <label v-if="look.sticking !== 'none'">Letters
              <select v-model="look.letters" class="plain" aria-label="Letters of the hands"><option v-for="[key, label] in LETTERS" :key="key" :value="key">{{ label }}</option><option v-if="ownLetters" :value="ownLetters">{{ ownLetters }}</option></select>
              <input v-model.lazy="ownLetters" class="plain two-letters" maxlength="2" placeholder="own" aria-label="My own two letters, right and left">
            </label>
            <label v-if="view === 'limbs'"><span /><span><input v-model="look.count_row" type="checkbox"> counts between hands and feet</span></label>
            <label v-else>Counts <select v-model="look.counts" class="plain" aria-label="Counts"><option v-for="[key, label] in COUNTS" :key="key" :value="key">{{ label }}</option></select></label>
            <label>Ghosts <select v-model="look.ghosts" class="plain" aria-label="Look of ghosts"><option v-for="[key, label] in GHOSTS" :key="key" :value="key">{{ label }}</option></select></label>
            <label>Lines <select v-model="look.layout" class="plain" aria-label="Which line is which"><option v-for="[key, label] in LAYOUTS" :key="key" :value="key">{{ label }}</option></select></label>
            <label>Bars a line <select v-model.number="look.bars_a_line" class="plain" aria-label="Bars a line"><option :value="0">as there is room</option><option v-for="n in [1, 2, 3, 4, 5, 6, 8]" :key="n" :value="n">at most {{ n }}</option></select></label>
            <label v-if="view === 'full'"><span /><span><input v-model="look.brackets" type="checkbox"> fills under brackets, with their figures</span></label>
            <label v-if="view === 'full'"><span /><span><input v-model="look.repeats" type="checkbox"> bars as before by a repeat sign</span></label>
          </template>
          <label v-if="chart && chart.notations.length > 1">Written
            <select class="plain" aria-label="Way of writing" :value="chart.notation" @change="desk.edit({ operation: 'set_notation', notation: ($event.target as HTMLSelectElement).value as 'counted' })"><option v-for="n in chart.notations" :key="n" :value="n">{{ WRITINGS[n] ?? n }}</option></select>
          </label>
          <label v-if="chart?.decisions.length"><span /><span><input v-model="footnotes" type="checkbox"> {{ chart.decisions.length }} decision{{ chart.decisions.length > 1 ? "s" : "" }} as footnotes</span></label>
          <fieldset v-if="hasCounts && chart?.signs.length" class="how">
            <legend>How it is played, as the legend says it</legend>
            <label v-for="s in chart.signs" :key="s.sign"><span>{{ s.says.split(":")[0] }}</span> <TypedField maxlength="120" :value="desk.score?.how_to[s.sign] ?? ''" :placeholder="s.says.split(': ')[1] ?? 'in my words'" :aria-label="`How it is played: ${s.says.split(':')[0]}`" @set="setHowTo(s.sign, $event.trim())" /></label>
          </fieldset>
        </div>
      </details>
      <select v-if="view === 'limbs' && chart" v-model="stretch" class="plain" aria-label="Which bars the limb chart holds"><option value="">the whole song</option><option v-for="s in chart.stretches" :key="`${s.name} ${s.first}`" :value="`${s.first}-${s.last}`">{{ s.name }}, {{ s.first === s.last ? `bar ${s.first}` : `bars ${s.first} to ${s.last}` }}</option></select>
      <details v-if="chart?.items.length && !(view === 'limbs' && stretch)" class="files look">
        <summary class="plain"><i class="pi pi-list-check" aria-hidden="true" /> On the sheet<span v-if="leftOut" class="soft">, without {{ leftOut }}</span></summary>
        <div class="card" role="group" aria-label="What stands on the sheet">
          <p class="soft">{{ view === "variations" ? "What is left out here has no number; words stand below the heading." : "Of a section that is left out only its name, bars and words stand there." }}</p>
          <label v-if="view === 'full'" title="Where the bar at the cursor stands on the page">Bar {{ counted }}
            <select class="plain" aria-label="Where the bar stands" :value="breaks" @change="setBreak(($event.target as HTMLSelectElement).value)"><option v-for="[key, label] in BREAKS" :key="key" :value="key">{{ label }}</option></select>
          </label>
          <div v-for="i in chart.items" :key="i.item" :class="['item', { part: i.item.startsWith('option') }]">
            <label><input type="checkbox" :checked="i.shown" :aria-label="`${i.name} on the sheet`" @change="setOnPaper(i, !i.shown, i.words)"> {{ i.name }}</label>
            <TypedField maxlength="120" :value="i.words" placeholder="words beside it" :aria-label="`Words on ${i.name}`" @set="setOnPaper(i, i.shown, $event.trim())" />
          </div>
        </div>
      </details>
      <span class="grow" />
      <a class="plain" :href="href('pdf')" :download="true"><i class="pi pi-download" aria-hidden="true" /> PDF</a>
      <button class="plain" title="The pages alone, on the whole screen; Esc comes back" @click="stand"><i class="pi pi-window-maximize" aria-hidden="true" /> Stand</button>
      <details v-if="chart" class="files">
        <summary class="plain">Files</summary>
        <ul class="card">
          <li>as MIDI: <a :href="midi('grid')" :download="true">on the grid</a> <a :href="midi('song')" :download="true">with the feel</a> <a :href="midi('measured')" :download="true">as it was measured</a> <span class="soft">{{ ownKeys ? "by the keys of my pads" : "General MIDI keys" }}</span></li>
          <li><a :href="href('mei')" :download="true">MEI</a> <span class="soft">.mei: the page for other engravers</span></li>
          <li v-for="f in chart.files.filter((f) => f.ending !== 'mid')" :key="f.ending"><a :href="href(f.ending)" :download="true">{{ f.name }}</a> <span class="soft">.{{ f.ending }}{{ f.lost.length ? `: without ${f.lost.join(", ")}` : "" }}</span></li>
        </ul>
      </details>
    </header>
    <p v-if="complaint" class="notice" role="alert">{{ complaint }}</p>
    <div ref="pages" class="pages">
      <!-- eslint-disable-next-line vue/no-v-html -- pages engraved by our own server -->
      <div v-for="(page, n) in chart?.pages ?? []" :key="n" class="page" :aria-label="`Page ${n + 1}`" @click="jump" v-html="page" />
      <i v-if="box" class="bar-now" :style="box"><i :style="{ left: `${within * 100}%` }" /></i>
      <p v-if="!chart && !complaint" class="soft">Engraving …</p>
    </div>
  </div>
</template>

<style scoped>
.chart { height: 100%; display: grid; grid-template-rows: auto auto 1fr; }
header { display: flex; flex-wrap: wrap; gap: 0.5rem; align-items: center; padding: 0.5rem 1rem; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.grow { flex: 1; }
header .plain { text-decoration: none; }
.pages { grid-row: 3; position: relative; overflow: auto; background: var(--well); padding: 1rem; display: grid; gap: 1rem; justify-content: center; align-content: start; }
.page { width: min(860px, calc(100vw - 3rem)); background: #fff; color: #000; box-shadow: 0 1px 8px rgb(0 0 0 / 0.18); }
:root.dark .page { filter: invert(0.93) hue-rotate(180deg); }
.pages:fullscreen { padding: 0; gap: 0; grid-template-columns: repeat(auto-fit, minmax(min(100%, 70vh), 1fr)); }
.pages:fullscreen .page { width: 100%; box-shadow: none; }
.page :deep(svg) { display: block; width: 100%; height: auto; }
.page :deep(.measure) { cursor: pointer; }
.bar-now { position: absolute; background: color-mix(in srgb, #0b7a75 14%, transparent); border-radius: 4px; pointer-events: none; }
.bar-now i { position: absolute; top: -4px; bottom: -4px; width: 2px; background: #c1121f; }
.files { position: relative; }
.files summary { list-style: none; cursor: pointer; }
.files ul { position: absolute; right: 0; z-index: 5; margin: 0.3rem 0 0; padding: 0.6rem 0.9rem; list-style: none; display: grid; gap: 0.35rem; width: 24rem; }
.look > div { position: absolute; left: 0; z-index: 5; margin: 0.3rem 0 0; padding: 0.7rem 0.9rem; display: grid; gap: 0.4rem; width: 27rem; max-height: 70vh; overflow: auto; }
.look label { display: grid; grid-template-columns: 5.5rem 1fr auto; gap: 0.5rem; align-items: center; }
.look .how { border: 0; border-top: 1px solid var(--line); margin: 0.2rem 0 0; padding: 0.5rem 0 0; display: grid; gap: 0.3rem; }
.look .how label { grid-template-columns: 9rem 1fr; }
.look .item { display: grid; grid-template-columns: 1fr 11rem; gap: 0.5rem; align-items: center; }
.look .item label { display: flex; gap: 0.4rem; align-items: baseline; }
.look .item.part { padding-left: 1.2rem; }
.look p { margin: 0; }
.two-letters { width: 3.4rem; }
.files a { font-weight: 700; color: var(--ink); }
.notice { margin: 0 1rem; background: var(--warn-well); color: var(--warn); padding: 0.6rem 1rem; border-radius: 8px; }
</style>
