<script setup lang="ts">
/** Groove book: the core of each section, its options and how often, its variants, and where
 * else its patterns are played. */
import TypedField from "@/controls/TypedField.vue";
import KeyCap from "@/keys/KeyCap.vue";
import { by, useKeys } from "@/keys/useKeys";
import { useElementSize } from "@vueuse/core";
import { computed, onUnmounted, ref, watch } from "vue";
import { useRouter } from "vue-router";
import { of, server, type Groove, type Option, type Stroke } from "@/api/client";
import FigureSearch from "@/desk/FigureSearch.vue";
import BassPanel from "@/desk/BassPanel.vue";
import PassageList from "@/desk/PassageList.vue";
import { layerOf, part } from "@/kit";
import { clockText } from "@/score/time";
import { laidOver, LAYER_KEYS, placeName, rungs } from "@/spine/grooves";
import SpineBar from "@/spine/SpineBar.vue";
import SpineThumb from "@/spine/SpineThumb.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const threshold = ref(0.75);
const book = useFinding(
  (id) => server.GET("/api/songs/{id}/grooves", { params: { ...of(id), query: { threshold: threshold.value } } }),
  () => threshold.value,
);
const evidence = useFinding((id) => server.GET("/api/songs/{id}/evidence", { params: of(id) }));
const at = ref(0);
const withOptions = ref<Set<string>>(new Set());
const hearing = ref<"written" | "core">("written");
const search = ref<InstanceType<typeof FigureSearch> | null>(null);
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);

const KIND: Record<string, string> = {
  silent: "silent", stops: "stops", fixed: "fixed", options: "core and options", skeleton: "ad lib round a skeleton",
  thinned: "one bar, thinned", vocabulary: "a vocabulary", through: "through-composed",
};
const grooves = computed<Groove[]>(() => book.value.value?.grooves ?? []);
const LENGTHS = { 0: "as found", 1: "1 bar", 2: "2 bars", 4: "4 bars" };
const CAN_BE = ["fixed", "options", "thinned", "skeleton", "vocabulary", "through", "stops"] as const;
const passages = computed(() => book.value.value?.passages ?? []);
const showsPassages = ref(false);
const shelf = useFinding((id) => server.GET("/api/songs/{id}/elsewhere", { params: of(id) }));
const elsewhere = computed(() => (threshold.value === 0.75 ? (shelf.value.value?.elsewhere ?? []).filter((e) => e.groove === grooves.value.indexOf(groove.value!)) : []));
const groove = computed<Groove | null>(() => grooves.value[Math.min(at.value, grooves.value.length - 1)] ?? null);
const nameOf = (g: Groove) => desk.score!.sections.find((s) => s.id === g.section)?.name ?? `bar ${g.first_bar}`;
const keyOf = (o: Option) => `${o.bar} ${o.part} ${o.place} ${o.dynamic}`;
const meter = computed(() => desk.clock!.meters[(groove.value?.first_bar ?? 1) - 1]!);

// -- what a person says of it
const isSaid = (what: string) => groove.value?.said.includes(what) ?? false;
type Judgement = { name?: string; length?: 0 | 1 | 2 | 4; kind?: "" | (typeof CAN_BE)[number]; figures?: string[]; note?: string };
function judge(said: Judgement): void {
  if (groove.value) desk.edit({ operation: "judge_groove", id: groove.value.section, ...said });
}
function addFigure(box: HTMLInputElement): void {
  const name = box.value.trim();
  if (name && groove.value) judge({ figures: [...groove.value.figures, name] });
  box.value = "";
}
interface Spot { in_bar: number; place: string; part: Stroke["part"]; ghost: boolean }
/** A stroke of the core, chosen on the spine: what it is called, and where. */
const chosen = ref<Stroke | null>(null);
const spotOf = (s: Stroke): Spot => ({ in_bar: groove.value!.length > 1 ? s.bar : 0, place: s.place, part: s.part, ghost: s.dynamic === "ghost" && part(s.part).role === "backbeat" });
function setCore(spot: Spot, standing: "core" | "option" | "found"): void {
  if (groove.value) desk.edit({ operation: "set_core", id: groove.value.section, standing, ...spot });
  chosen.value = null;
}
const spotOfOption = (o: Option): Spot => ({ in_bar: groove.value!.length > 1 ? o.bar : 0, place: o.place, part: o.part as Stroke["part"], ghost: o.dynamic === "ghost" && part(o.part).role === "backbeat" });

/** The earlier groove that this one is related to, laid under it: what both have is quiet. */
const isAgainst = ref(false);
const kin = computed(() => (groove.value?.to === null || groove.value?.to === undefined ? null : grooves.value[groove.value.to] ?? null));
function against(other: Groove, bar: number): Map<string, string> {
  const spot = (s: Stroke) => `${s.part} ${s.place} ${s.dynamic === "ghost"}`;
  const theirs = new Set(laidOver(other.core as Stroke[], [], ((bar - 1) % other.length) + 1).map(spot));
  return new Map(laidOver(groove.value!.core as Stroke[], [], bar).map((s) => [s.id, theirs.has(spot(s)) ? "same" : "added"]));
}

/** The unit's bars: its core, then its options as far as they are wanted. */
const unit = computed(() => {
  const g = groove.value;
  if (!g) return [];
  const shown = g.options.filter((o) => withOptions.value.has(keyOf(o)));
  return Array.from({ length: g.length }, (_, k) => ({
    bar: g.first_bar + k,
    strokes: laidOver(g.core as Stroke[], shown, k + 1)
      .filter((s) => !playback.muted.has(layerOf(s)))
      .map((s) => (playback.muted.has("ornaments") ? { ...s, ornament: null } : s)),
    marks: isAgainst.value && kin.value ? against(kin.value, k + 1) : null,
  }));
});
const barWidth = computed(() => Math.max(220, Math.min(760, (width.value - 8) / Math.max(1, unit.value.length))));
const bars = computed(() => {
  const g = groove.value;
  if (!g) return [];
  return Array.from({ length: g.bars }, (_, k) => {
    const bar = g.first_bar + k;
    const kind = g.fills.includes(bar) ? "fill" : g.unexplained.includes(bar) ? "unlike" : "told";
    const is = bar === g.typical ? "typical" : bar === g.fullest ? "fullest" : "";
    return { bar, kind, is };
  });
});
const isLong = ref(false);
const relatedSays = computed(() => {
  const told = groove.value?.related ?? [];
  return `${(isLong.value ? told : told.slice(0, 2)).join(". ")}${told.length > 2 && !isLong.value ? " …" : told.length ? "." : ""}`;
});
const layers = computed(() => rungs(groove.value?.core as Stroke[] | undefined));

watch(groove, (g, before) => {
  if (!g || (before && g.first_bar === before.first_bar && g.length === before.length)) return;
  withOptions.value = new Set();
  isAgainst.value = false;
  chosen.value = null;
});
/** What sounds instead of the written part while the core is heard. */
watch([groove, withOptions, hearing], () => {
  const g = groove.value;
  if (!g || hearing.value === "written") {
    playback.sketch = null;
    return;
  }
  const shown = g.options.filter((o) => withOptions.value.has(keyOf(o)));
  playback.sketch = Array.from({ length: g.bars }, (_, k) =>
    laidOver(g.core as Stroke[], shown, (k % g.length) + 1).map((s) => ({ ...s, bar: g.first_bar + k, id: `${s.id}@${k}` })),
  ).flat();
});
onUnmounted(() => (playback.sketch = null));

function hearCore(): void {
  hearing.value = hearing.value === "core" ? "written" : "core";
  if (hearing.value === "core") {
    if (playback.sounding === "recording") playback.sounding = "written";
    hearUnit();
  }
}
function hearUnit(): void {
  const g = groove.value;
  if (!g) return;
  const from = desk.clock!.barStart(g.first_bar);
  playback.loop = [from, desk.clock!.barEnd(g.first_bar + g.bars - 1)];
  playback.play(from);
}
function toggle(o: Option): void {
  const chosen = new Set(withOptions.value);
  if (!chosen.delete(keyOf(o))) chosen.add(keyOf(o));
  withOptions.value = chosen;
}
function allOptions(): void {
  const g = groove.value;
  if (!g) return;
  withOptions.value = withOptions.value.size ? new Set() : new Set(g.options.map(keyOf));
}
function hearOption(o: Option): void {
  const bar = o.bars[0]!;
  playback.loop = [desk.clock!.barStart(bar), desk.clock!.barEnd(bar)];
  playback.play(desk.clock!.barStart(bar));
}
function open(bar: number): void {
  playback.seek(desk.clock!.barStart(bar));
  void router.push({ name: "bench", query: { bar } });
}
function step(by: number): void {
  showsPassages.value = false;
  at.value = Math.min(Math.max(0, at.value + by), grooves.value.length - 1);
}
useKeys("grooves", {
  step: (_, which) => step(by(which)),
  core: hearCore,
  options: allOptions,
  layer: (_, which) => playback.mute(LAYER_KEYS[which]!),
  kick: () => void search.value?.ask("kick"),
  hands: () => void search.value?.ask("hands"),
  kickAndSnare: () => void search.value?.ask("kick and snare"),
});
</script>

<template>
  <div class="book">
    <nav class="list" aria-label="Grooves">
      <button v-if="passages.length" :class="['whole', { on: showsPassages }]" :aria-current="showsPassages" @click="showsPassages = true">
        <strong>The song in {{ passages.length }} passage{{ passages.length > 1 ? "s" : "" }}</strong>
        <span class="soft kind">they tell {{ Math.round(100 * passages.reduce((sum, p) => sum + p.share, 0)) }} % of its bars</span>
      </button>
      <button v-for="(g, n) in grooves" :key="g.first_bar" :class="['entry', { on: g === groove && !showsPassages }]" :aria-current="g === groove && !showsPassages" @click="showsPassages = false; at = n">
        <span class="head"><strong>{{ nameOf(g) }}</strong><span class="soft figure">{{ g.first_bar }}{{ g.bars > 1 ? `–${g.first_bar + g.bars - 1}` : "" }}</span></span>
        <span class="thumbs">
          <SpineThumb v-for="k in Math.min(2, g.length)" :key="k" :bar="g.first_bar" :strokes="laidOver(g.core as Stroke[], [], k)" :clock="desk.clock!" />
        </span>
        <em v-if="g.name" class="called">{{ g.name }}</em>
        <span class="soft kind">{{ KIND[g.kind] }}<template v-if="g.length > 1">, {{ g.length }} bars</template></span>
      </button>
      <p v-if="!grooves.length" class="soft">{{ book.complaint.value || "Reading the grooves …" }}</p>
    </nav>
    <article v-if="showsPassages" class="page">
      <header><div>
        <h1>The song in {{ passages.length }} passage{{ passages.length > 1 ? "s" : "" }}</h1>
        <p>What tells most of it comes first. Whoever plays these plays {{ Math.round(100 * passages.reduce((sum, p) => sum + p.share, 0)) }} % of its bars; the rest are small changes and fills.</p>
      </div></header>
      <PassageList :passages="passages" />
    </article>
    <article v-else-if="groove" class="page">
      <header>
        <div>
          <h1>{{ nameOf(groove) }} <span class="soft figure">bars {{ groove.first_bar }}–{{ groove.first_bar + groove.bars - 1 }}</span></h1>
          <p>{{ groove.says }}<span v-for="f in groove.figures" :key="f" class="tag">{{ f }} <button class="bare" :aria-label="`It is no ${f}`" :title="`It is no ${f}`" @click="judge({ figures: groove.figures.filter((x) => x !== f) })"><i class="pi pi-times" /></button></span></p>
        </div>
        <span class="grow" />
        <label class="line">Core: in at least
          <input v-model.number.lazy="threshold" type="range" min="0.5" max="1" step="0.05" aria-label="Share of the bars that makes a stroke core">
          <strong class="figure">{{ Math.round(threshold * 100) }} %</strong>
        </label>
        <button :class="['plain', { on: hearing === 'core' }]" :aria-pressed="hearing === 'core'" @click="hearCore"><i class="pi pi-play" /> Core <KeyCap scope="grooves" action="core" /></button>
        <button class="plain" :disabled="!groove.options.length" @click="allOptions">{{ withOptions.size ? "Without options" : "With options" }} <KeyCap scope="grooves" action="options" /></button>
      </header>
      <div class="said" role="group" aria-label="What you say of it">
        <label>Called <TypedField :value="groove.name" maxlength="60" placeholder="a name of your own" aria-label="Name of the groove" @set="judge({ name: $event.trim() })" /></label>
        <label>Unit <select class="plain" :value="isSaid('length') ? groove.length : 0" aria-label="Bars of the unit" @change="judge({ length: Number(($event.target as HTMLSelectElement).value) as 1 })"><option v-for="(label, n) in LENGTHS" :key="n" :value="n">{{ Number(n) === 0 && !isSaid("length") ? `${label}: ${LENGTHS[groove.length as 1]}` : label }}</option></select></label>
        <label>It is <select class="plain" :value="isSaid('kind') ? groove.kind : ''" aria-label="Kind of the groove" @change="judge({ kind: ($event.target as HTMLSelectElement).value as 'fixed' })"><option value="">as found{{ isSaid("kind") ? "" : `: ${KIND[groove.kind]}` }}</option><option v-for="k in CAN_BE" :key="k" :value="k">{{ KIND[k] }}</option></select></label>
        <label>Goes with <TypedField :value="groove.note" maxlength="200" placeholder="what goes with what" aria-label="What goes with what" @set="judge({ note: $event.trim() })" /></label>
        <label>Figure <input class="plain" maxlength="60" placeholder="name one, ⏎" aria-label="Name a figure of the groove" @change="addFigure($event.target as HTMLInputElement)"></label>
        <button v-if="groove.said.length" class="plain" @click="desk.edit({ operation: 'forget_groove', id: groove.section })"><i class="pi pi-undo" /> As found</button>
      </div>
      <p v-if="groove.rules.length" class="rules"><strong>{{ groove.rules[0] }}</strong> {{ groove.rules.slice(1).join(" ") }}</p>
      <p v-if="groove.relation" class="relation">
        <strong>{{ groove.relation }}{{ groove.related.length ? ":" : "." }}</strong>
        <span class="soft related">{{ relatedSays }}</span>
        <button v-if="kin && groove.related.length" :class="['plain', 'tiny', { on: isAgainst }]" :aria-pressed="isAgainst" @click="isAgainst = !isAgainst">on the spine</button>
        <button v-if="groove.related.length > 2" class="plain tiny" @click="isLong = !isLong">{{ isLong ? "less" : "all of it" }}</button>
      </p>
      <div class="chips" role="group" aria-label="Layers shown and heard">
        <button v-for="(l, n) in LAYER_KEYS" :key="l" :class="['plain', 'chip', { muted: playback.muted.has(l) }]" :aria-pressed="!playback.muted.has(l)" :disabled="!layers.has(l) && !groove.options.some((o) => layerOf({ ...o}) === l)" title="Shows and sounds, or not; with Shift: it alone" @click="$event.shiftKey ? playback.only([l]) : playback.mute(l)">{{ l.replace("_", " ") }} <KeyCap scope="grooves" action="layer" :which="n" /></button>
        <button class="plain chip" @click="playback.only(['kick', 'backbeat'])">kick and backbeat</button>
      </div>
      <div ref="frame" class="spines">
        <figure v-for="u in unit" :key="u.bar">
          <SpineBar :bar="u.bar" :strokes="u.strokes" :clock="desk.clock!" :width="barWidth" :height="178" :grid="meter.isCompound ? 3 : 4" :marks="u.marks" :selected="chosen ? [chosen.id] : []" @pick="(s) => (chosen = s.id === chosen?.id ? null : s)" />
        </figure>
        <p v-if="!groove.core.length" class="soft empty">{{ groove.kind === "silent" ? "Nothing plays here." : "No stroke comes in enough bars to be core." }}</p>
      </div>
      <p v-if="chosen" class="relation">
        <strong>{{ part(chosen.part).label }} on {{ placeName(chosen.place, meter.isCompound) }}</strong>
        <button class="plain tiny" @click="setCore(spotOf(chosen), 'option')">is an option</button>
        <button class="plain tiny" @click="setCore(spotOf(chosen), 'core')">is core</button>
        <button v-if="isSaid('core')" class="plain tiny" @click="setCore(spotOf(chosen), 'found')">as found</button>
      </p>
      <ul v-if="groove.difference.length" class="says">
        <li v-for="d in groove.difference" :key="d">{{ d }}.</li>
      </ul>
      <div class="strip" role="group" aria-label="Bars of this groove">
        <button v-for="b in bars" :key="b.bar" :class="['cell', b.kind, b.is, { now: b.bar === desk.clock!.barAt(playback.now) }]" :title="`Bar ${b.bar}${b.is ? `, the ${b.is} bar` : ''}${b.kind === 'fill' ? ', a fill' : b.kind === 'unlike' ? ', not told by this groove' : ''}`" @click="open(b.bar)">{{ b.bar }}</button>
        <span class="soft legend"><i class="cell typical" /> the typical bar <template v-if="groove.fullest"><i class="cell fullest" /> the fullest; {{ Math.round(groove.thinned * 100) }} % are it, thinned </template><i class="cell fill" /> fill <i class="cell unlike" /> not told</span>
      </div>
      <div class="columns">
        <section v-if="groove.options.length">
          <h2>Options</h2>
          <table>
            <tbody>
              <tr v-for="o in groove.options" :key="keyOf(o)" :class="{ on: withOptions.has(keyOf(o)) }">
                <td><button class="plain tiny" :aria-pressed="withOptions.has(keyOf(o))" :aria-label="`Show ${part(o.part).label} on ${placeName(o.place, meter.isCompound)}`" @click="toggle(o)"><i :class="withOptions.has(keyOf(o)) ? 'pi pi-check' : 'pi pi-plus'" /></button></td>
                <td><strong>{{ o.dynamic === "ghost" ? `Ghost ${part(o.part).label.toLowerCase()}` : part(o.part).label }}</strong> on {{ placeName(o.place, meter.isCompound) }}<span v-if="groove.length > 1 && o.bar" class="soft"> of bar {{ o.bar }}</span></td>
                <td class="share"><i :style="{ width: `${o.share * 100}%` }" /><span class="figure">{{ o.bars.length }} of {{ o.of }}</span></td>
                <td class="soft">{{ [o.where, o.goes].filter(Boolean).join("; ") }}</td>
                <td class="acts"><button class="plain tiny" :aria-label="`Hear bar ${o.bars[0]}`" @click="hearOption(o)"><i class="pi pi-play" /></button><button class="plain tiny" :aria-label="`${part(o.part).label} on ${placeName(o.place, meter.isCompound)} is core`" @click="setCore(spotOfOption(o), 'core')">is core</button></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="groove.unsure.length">
          <h2>Perhaps options <span class="soft">not printed, not counted</span></h2>
          <table>
            <tbody>
              <tr v-for="o in groove.unsure" :key="keyOf(o)" class="faint">
                <td><strong>{{ o.dynamic === "ghost" ? `Ghost ${part(o.part).label.toLowerCase()}` : part(o.part).label }}</strong> on {{ placeName(o.place, meter.isCompound) }}<span v-if="groove.length > 1 && o.bar" class="soft"> of bar {{ o.bar }}</span></td>
                <td class="figure">{{ o.bars.length }} of {{ o.of }}</td>
                <td class="soft">{{ o.goes }}</td>
                <td class="acts"><button class="plain tiny" :aria-label="`Hear bar ${o.bars[0]}`" @click="hearOption(o)"><i class="pi pi-play" /></button><button class="plain tiny" :aria-label="`${part(o.part).label} on ${placeName(o.place, meter.isCompound)} is an option`" @click="setCore(spotOfOption(o), 'option')">is an option</button></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="groove.phrases.length">
          <h2>Phrases</h2>
          <p v-for="(p, n) in groove.phrases" :key="p.bar" class="phrase">
            <button class="plain tiny" :aria-label="`Hear bar ${p.bar}`" @click="playback.play(desk.clock!.barStart(p.bar))"><i class="pi pi-play" /></button>
            <strong>{{ String.fromCharCode(65 + n) }}</strong> <span class="mini"><SpineThumb :bar="p.bar" :strokes="desk.byBar.get(p.bar) ?? []" :clock="desk.clock!" /></span>
            <span class="figure">{{ Math.round(p.share * 100) }} %</span> <span class="soft">{{ p.says }}</span>
          </p>
        </section>
        <section>
          <h2>To learn</h2>
          <ul class="says">
            <li>{{ groove.learn }}</li>
            <li v-for="r in groove.returns" :key="r">{{ r }}</li>
            <li v-for="e in elsewhere" :key="e.song">Its kick and snare are those of <RouterLink :to="{ name: 'bench', params: { id: e.song }, query: { bar: e.bar } }">{{ e.title }}</RouterLink>, bar {{ e.bar }}{{ e.bars > 1 ? ` and ${e.bars - 1} more` : "" }}.</li>
          </ul>
          <h2>Also to be told</h2>
          <ul class="says">
            <li v-for="a in groove.across" :key="a">{{ a }}</li>
            <li v-for="o in groove.once" :key="o">Only once: {{ o }}.</li>
            <li v-if="groove.never.length">Never: {{ groove.never.join(", ") }}.</li>
            <li v-if="groove.unexplained.length">Not told by this groove: {{ groove.unexplained.length > 1 ? "bars" : "bar" }} {{ groove.unexplained.join(", ") }}.</li>
            <li v-if="!groove.across.length && !groove.once.length && !groove.never.length && !groove.unexplained.length" class="soft">Nothing more.</li>
          </ul>
          <template v-if="evidence.value.value?.takes.length">
            <h2>Against the other takes</h2>
            <ul class="says">
              <li v-for="t in evidence.value.value.tallies.slice(0, 6)" :key="t.section + t.part + t.place"><button class="plain tiny" @click="open(t.bars[0]!)">{{ t.ghost ? "ghost " : "" }}{{ part(t.part).label }} on {{ placeName(t.place, false) }}</button> {{ t.section }}: {{ t.says }}</li>
              <li v-if="!evidence.value.value.tallies.length" class="soft">They play the same.</li>
            </ul>
          </template>
        </section>
        <BassPanel v-if="groove.kind !== 'silent'" :first="groove.first_bar" :bars="groove.bars" />
        <FigureSearch ref="search" :bar="groove.typical || groove.first_bar" />
      </div>
      <p class="soft foot">From {{ clockText(desk.clock!.barStart(groove.first_bar)) }}. A click on a bar opens it on the Bench.</p>
    </article>
  </div>
</template>

<style scoped>
.book { display: grid; grid-template-columns: 13.5rem 1fr; height: 100%; min-height: 0; }
.list { overflow: hidden auto; grid-template-columns: minmax(0, 1fr); padding: 0.5rem; display: grid; gap: 0.35rem; align-content: start; border-right: 1px solid var(--line); background: var(--well); }
.entry { display: grid; grid-template-columns: minmax(0, 1fr); gap: 2px; text-align: left; border: 1px solid var(--line); border-left: 4px solid transparent; border-radius: 8px; background: var(--sheet); color: var(--ink); padding: 0.3rem 0.5rem; cursor: pointer; }
.whole { display: grid; gap: 2px; text-align: left; border: 1px solid var(--line-strong); border-left: 4px solid transparent; border-radius: 8px; background: var(--well); color: var(--ink); padding: 0.35rem 0.5rem; cursor: pointer; }
.entry.on, .whole.on { border-color: var(--ink); border-left-color: var(--focus); }
.line input { accent-color: var(--rh); }
.head { display: flex; justify-content: space-between; gap: 0.4rem; }
.thumbs { display: grid; grid-auto-flow: column; grid-auto-columns: minmax(0, 1fr); gap: 3px; height: 34px; }
.kind { font-size: 0.85rem; }
.page { overflow: auto; padding: 0.7rem 1rem 1rem; display: grid; gap: 0.55rem; align-content: start; min-width: 0; }
header { display: flex; gap: 0.7rem; align-items: center; flex-wrap: wrap; }
.grow { flex: 1; }
.line { display: flex; gap: 0.5rem; align-items: center; }
.rules { border-left: 4px solid var(--rf); padding: 0.15rem 0 0.15rem 0.7rem; }
.relation { background: var(--well); border-radius: 8px; padding: 0.35rem 0.7rem; }
.related { margin-left: 0.4rem; }
.chips { display: flex; gap: 0.35rem; flex-wrap: wrap; }
.chip { padding: 0.15rem 0.6rem; }
.muted { text-decoration: line-through; background: var(--well); color: var(--ink-faint); }
.spines { display: flex; overflow-x: auto; background: var(--paper); border: 1px solid var(--line); border-radius: 10px; min-height: 186px; }
figure { margin: 0; }
.said { display: flex; gap: 0.5rem 0.9rem; flex-wrap: wrap; align-items: center; font-size: 0.95rem; }
.said label { display: inline-flex; gap: 0.35rem; align-items: center; color: var(--ink-soft); }
.said .plain { padding: 0.15rem 0.45rem; }
.said input.plain { width: 10.5rem; }
.bare { border: 0; background: none; color: inherit; cursor: pointer; padding: 0 0.1rem; font-size: 0.7rem; }
.called { font-style: normal; font-size: 0.9rem; }
.acts { white-space: nowrap; }
.empty { padding: 1.5rem; }
.says { margin: 0; padding-left: 1.1rem; display: grid; gap: 0.2rem; }
.strip { display: flex; flex-wrap: wrap; gap: 3px; align-items: center; }
.cell { min-width: 2rem; height: 24px; border: 1px solid var(--line-strong); border-radius: 5px; background: var(--sheet); color: var(--ink); font-variant-numeric: tabular-nums; font-size: 0.85rem; cursor: pointer; padding: 0 3px; }
.cell.fill { background: linear-gradient(225deg, var(--lh) 26%, var(--sheet) 27%); }
.cell.unlike { border-style: dashed; color: var(--ink-faint); background: var(--well); }
.cell.typical { box-shadow: inset 0 -4px var(--rh); font-weight: 700; }
.cell.fullest { box-shadow: inset 0 4px var(--rf); }
.cell.now { outline: 2px solid var(--now); }
.legend { display: inline-flex; gap: 0.4rem; align-items: center; font-size: 0.85rem; margin-left: 0.6rem; }
.legend .cell { min-width: 1.1rem; height: 14px; display: inline-block; margin-left: 0.4rem; }
.columns { display: grid; grid-template-columns: repeat(auto-fit, minmax(25rem, 1fr)); gap: 0.4rem 1.4rem; align-items: start; }
table { border-collapse: collapse; width: 100%; }
td { padding: 0.16rem 0.35rem; border-bottom: 1px solid var(--line); vertical-align: middle; }
tr.faint strong { font-weight: 400; }
tr.on td { background: color-mix(in srgb, var(--focus) 8%, transparent); }
.share { position: relative; min-width: 5.5rem; }
.share i { position: absolute; left: 0; top: 4px; bottom: 4px; background: color-mix(in srgb, var(--rh) 28%, transparent); border-radius: 3px; }
.share span { position: relative; padding-left: 4px; }
.tiny { padding: 0.05rem 0.4rem; }
.phrase { display: flex; gap: 0.5rem; align-items: center; margin-bottom: 0.25rem; }
.mini { width: 120px; height: 34px; }
.foot { font-size: 0.85rem; }
h2 { margin-bottom: 0.2rem; }
@media (max-width: 900px) { .book { grid-template-columns: 1fr; } .list { grid-auto-flow: column; grid-auto-columns: 11rem; border-right: 0; } }
</style>
