<script setup lang="ts">
/** Fills: each with its time, subdivision, cell, way over the drums, and where it comes back. */
import TypedField from "@/controls/TypedField.vue";
import KeyCap from "@/keys/KeyCap.vue";
import { by, useKeys } from "@/keys/useKeys";
import { useElementSize } from "@vueuse/core";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import { useToast } from "primevue/usetoast";
import { computed, onMounted, ref, shallowRef, watch } from "vue";
import { useRouter } from "vue-router";
import { brought, of, server, type KeptFill, type Schemas, type Stroke, type ToldFill } from "@/api/client";
import { part } from "@/kit";
import { Clock, clockText, placeText, placeValue } from "@/score/time";
import CellBrackets from "@/spine/CellBrackets.vue";
import { placeName } from "@/spine/grooves";
import SpineBar from "@/spine/SpineBar.vue";
import SpineThumb from "@/spine/SpineThumb.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

type Row = ToldFill & { n: number; cell: string; way: string; again: number };

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const toast = useToast();
const list = useFinding((id) => server.GET("/api/songs/{id}/fills", { params: of(id) }));
const kept = shallowRef<KeptFill[]>([]);
const shows = ref<"song" | "collection">("song");
const at = ref(0);
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);

const fills = computed(() => list.value.value?.fills ?? []);
const fill = computed<ToldFill | null>(() => fills.value[Math.min(at.value, fills.value.length - 1)] ?? null);
const cellText = (c: Schemas["Cell"]) =>
  `${c.strokes}${c.steps && c.steps !== c.strokes ? ` in ${c.steps}` : ""} over ${c.grid}s, ${c.turns}×`;
const short = (name: string): string => name.includes("+") ? name.split("+").map(short).join(" + ") : part(name).label.toLowerCase().replace("high tom", "high").replace("mid tom", "mid").replace("low tom", "low").replace("floor tom", "floor");
const wayText = (f: ToldFill) => f.path.map((p) => `${short(p.part)} ${p.strokes}`).join(" › ");
const rows = computed<Row[]>(() =>
  fills.value.map((f, n) => ({ ...f, n, cell: f.cells.map(cellText).join("; "), way: wayText(f), again: f.like.filter((l) => l.how !== "rhythm").length })),
);
const bars = computed(() => (fill.value ? Array.from({ length: fill.value.last_bar - fill.value.bar + 1 }, (_, k) => fill.value!.bar + k) : []));
const barWidth = computed(() => Math.max(260, Math.min(640, (width.value - 4) / Math.max(1, bars.value.length))));
const inside = computed(() => new Set(fill.value?.strokes ?? []));
/** The bar's other strokes are quiet. */
const marks = (bar: number) => new Map((desk.byBar.get(bar) ?? []).map((s) => [s.id, inside.value.has(s.id) ? "plain" : "same"]));
/** Who plays it, stroke by stroke: R, L, and f for a foot. */
const sticking = computed(() => {
  const own = (desk.score?.strokes ?? []).filter((s) => inside.value.has(s.id));
  const moments = new Map<string, Stroke[]>();
  for (const s of own) moments.set(`${s.bar} ${s.place}`, [...(moments.get(`${s.bar} ${s.place}`) ?? []), s]);
  const beats = (s: Stroke) => desk.clock!.starts[s.bar - 1]! + placeValue(s.place);
  return [...moments.values()]
    .sort((a, b) => beats(a[0]!) - beats(b[0]!))
    .map((m) => ({ limb: m[0]!.limb, text: m.map((s) => (s.limb === "RF" ? "K" : s.limb === "LF" ? "F" : s.limb[0])).join("") }));
});
const isKept = computed(() => kept.value.some((k) => k.song === desk.id && k.bar === fill.value?.bar));
const HOW: Record<string, string> = { same: "the same", near: "nearly", rhythm: "its rhythm" };

async function fetchKept(): Promise<void> {
  const found = await brought(server.GET("/api/kept-fills")).catch(() => null);
  if (found) kept.value = found.fills;
}
onMounted(() => void fetchKept());

function play(lead = 1): void {
  const f = fill.value;
  if (!f) return;
  const clock = desk.clock!;
  const from = lead ? clock.barStart(Math.max(1, f.bar - lead)) : f.start;
  const to = Math.min(f.end + (lead ? clock.barEnd(f.last_bar) - clock.barStart(f.last_bar) : 0), clock.end);
  playback.loop = [from, to];
  playback.play(from);
}
async function lift(): Promise<void> {
  if (!fill.value) return;
  try {
    const made = await brought(
      server.POST("/api/kept-fills", { body: { song: desk.id, fill: fills.value.indexOf(fill.value) } }),
    );
    toast.add({ severity: "success", summary: `Kept: the fill of bar ${made.bar}.`, life: 4000 });
    await fetchKept();
  } catch (problem) {
    toast.add({ severity: "warn", summary: (problem as Error).message, life: 6000 });
  }
}
async function forget(k: KeptFill): Promise<void> {
  await server.DELETE("/api/kept-fills/{id}", { params: of(k.id) });
  await fetchKept();
}
async function note(k: KeptFill, text: string): Promise<void> {
  if (text !== k.note) await server.PATCH("/api/kept-fills/{id}", { params: of(k.id), body: { note: text } });
  await fetchKept();
}
/** A kept fill on a clock of its own, for it outlives its song. */
function clockOf(k: KeptFill): Clock {
  const meters = k.document.meters;
  const beats = new Clock({ meters, pulse: [0, 1], swing: ["none", 0.5] }).starts.at(-1)!;
  return new Clock({ meters, pulse: Array.from({ length: beats + 1 }, (_, i) => (i * 60) / k.tempo), swing: ["none", 0.5] });
}
// -- what a person says of it
type Stretch = { bar: number; place: string; last_bar: number; end: string };
const stretchOf = (f: { bar: number; place: string; last_bar: number; end_place: string }): Stretch => ({ bar: f.bar, place: f.place, last_bar: f.last_bar, end: f.end_place });
/** The stretch that was said of last: its fill is shown when the list comes anew. */
const wanted = ref<Stretch | null>(null);
const denied = computed(() => list.value.value?.denied ?? []);
function say(operation: "mark_fill" | "deny_fill" | "forget_fill", stretch: Stretch): void {
  wanted.value = operation === "mark_fill" ? stretch : null;
  desk.edit({ operation, ...stretch });
}
watch(fills, (own) => {
  const w = wanted.value;
  const n = w ? own.findIndex((f) => f.bar === w.bar && placeValue(f.place) === placeValue(w.place)) : -1;
  if (n >= 0) at.value = n;
});
/** A border an 8th (a third of a dotted beat) further, over the bar line too; nothing where it can't go. */
function moved(bar: number, place: string, by: number, isEnd: boolean): { bar: number; place: string } | null {
  const clock = desk.clock!;
  const parts = compound(bar) ? 3 : 2;
  let steps = Math.round(placeValue(place) * parts) + by;
  const least = isEnd ? 1 : 0;
  if (steps < least) {
    if (bar === 1) return null;
    bar -= 1;
    steps = clock.meters[bar - 1]!.beats * parts + (isEnd ? 0 : by);
  } else if (steps > clock.meters[bar - 1]!.beats * parts - 1 + least) {
    if (bar === clock.meters.length) return null;
    bar += 1;
    steps = least;
  }
  return { bar, place: placeText(steps, parts) };
}
function border(by: number, isEnd: boolean): void {
  // What is not kept yet is built upon: keys come faster than answers.
  const now = wanted.value ?? (fill.value ? stretchOf(fill.value) : null);
  if (!now) return;
  const to = isEnd ? moved(now.last_bar, now.end, by, true) : moved(now.bar, now.place, by, false);
  if (!to) return;
  const made = isEnd ? { ...now, last_bar: to.bar, end: to.place } : { ...now, bar: to.bar, place: to.place };
  const beats = (b: number, p: string) => desk.clock!.starts[b - 1]! + placeValue(p);
  if (beats(made.bar, made.place) >= beats(made.last_bar, made.end)) return;
  say("mark_fill", made);
}
/** The bar that sounds, or bar 1 before it. */
const here = computed(() => Math.max(1, desk.clock!.barAt(playback.now)));
function markHere(): void {
  const bar = here.value;
  say("mark_fill", { bar, place: "0", last_bar: bar, end: String(desk.clock!.meters[bar - 1]!.beats) });
}
function judge(operation: "mark_fill" | "deny_fill" | "forget_fill"): void {
  if (fill.value) say(operation, stretchOf(fill.value));
}
const compound = (bar: number) => desk.clock!.meters[bar - 1]!.isCompound;
function step(by: number): void {
  wanted.value = null;
  at.value = Math.min(Math.max(0, at.value + by), fills.value.length - 1);
}
useKeys("fills", {
  step: (_, which) => step(by(which)),
  play: (e) => (e.target instanceof HTMLButtonElement ? false : play()),
  lift: () => void lift(),
  right: () => judge("mark_fill"),
  noFill: () => judge("deny_fill"),
  begin: (_, which) => border(by(which), false),
  end: (_, which) => border(by(which), true),
  mark: markHere,
  asFound: () => judge("forget_fill"),
});
</script>

<template>
  <div class="fills">
    <header>
      <h1>{{ fills.length }} fill{{ fills.length === 1 ? "" : "s" }}</h1>
      <div class="group" role="group" aria-label="Which fills">
        <button :class="['plain', { on: shows === 'song' }]" :aria-pressed="shows === 'song'" @click="shows = 'song'">In this song</button>
        <button :class="['plain', { on: shows === 'collection' }]" :aria-pressed="shows === 'collection'" @click="shows = 'collection'">My collection ({{ kept.length }})</button>
      </div>
      <button class="plain" :title="'It is marked over the whole bar; then move its borders'" @click="markHere"><i class="pi pi-plus" /> A fill in bar {{ here }} <KeyCap scope="fills" action="mark" /></button>
      <span class="soft">A fill is what leaves the groove: the time hand stops, drums sound where the groove has none.</span>
    </header>
    <template v-if="shows === 'song'">
      <section v-if="fill" class="card one" aria-label="The fill">
        <div class="tell">
          <h2>Bar {{ fill.bar }}{{ fill.last_bar > fill.bar ? `–${fill.last_bar}` : "" }}, {{ clockText(fill.start) }} <span v-if="fill.marked" class="tag">marked by you</span></h2>
          <p>{{ fill.beats }} beat{{ fill.beats === 1 ? "" : "s" }} of {{ fill.subdivisions.join(", ") }}s, starts {{ fill.starts }}.</p>
          <p v-for="(c, n) in fill.cells" :key="n"><strong>{{ c.strokes }}-stroke figure</strong>{{ c.of === "hands" ? " of the hands" : c.of === "feet" ? " of the feet" : "" }}{{ c.steps && c.steps !== c.strokes ? ` in ${c.steps} steps` : "" }} over {{ c.grid }}s, {{ c.turns }}×{{ c.crosses ? ", across the beat" : "" }}: <span class="soft">{{ c.figure.map((w) => w.split("+").map((x) => (/^(LH|RH|LF|RF|hand|foot|accent|plain)$/.test(x) ? x : short(x))).join(" & ")).join(" · ") }}</span></p>
          <p v-if="!fill.cells.length" class="soft">No figure turns round in it.</p>
          <p>{{ wayText(fill) || "feet alone" }}.</p>
          <p class="sticking">Sticking <span v-for="(w, n) in sticking" :key="n" :class="w.limb">{{ w.text }}</span></p>
          <p>Resolves to {{ fill.resolves }}.</p>
          <p class="soft">{{ [fill.linear ? "linear" : "", fill.accents ? `${fill.accents} accent${fill.accents > 1 ? "s" : ""}` : "", ...fill.rudiments, ...new Set(fill.ornaments)].filter(Boolean).join(", ") }}</p>
          <p v-if="fill.like.length">Comes back: <button v-for="l in fill.like.slice(0, 6)" :key="l.fill" class="plain tiny" @click="at = l.fill">bar {{ fills[l.fill]?.bar }} <span class="soft">{{ HOW[l.how] }}</span></button></p>
          <div class="acts">
            <button class="plain" @click="play(1)"><i class="pi pi-play" /> With the bar before <KeyCap scope="fills" action="play" /></button>
            <button class="plain" @click="play(0)"><i class="pi pi-sync" /> Alone</button>
            <button class="plain" :disabled="isKept" @click="lift"><i class="pi pi-bookmark" /> {{ isKept ? "Kept" : "Keep" }} <KeyCap scope="fills" action="lift" /></button>
            <button class="plain" @click="router.push({ name: 'bench', query: { bar: fill.bar } })">To the Bench</button>
          </div>
          <div class="acts" role="group" aria-label="What you say of it">
            <button class="plain" :disabled="fill.marked" @click="judge('mark_fill')">Right <KeyCap scope="fills" action="right" /></button>
            <button class="plain" @click="judge('deny_fill')">No fill <KeyCap scope="fills" action="noFill" /></button>
            <span class="border">begins <button class="plain tiny" aria-label="The fill begins an 8th earlier" @click="border(-1, false)">‹</button><button class="plain tiny" aria-label="The fill begins an 8th later" @click="border(1, false)">›</button></span>
            <span class="border">ends <button class="plain tiny" aria-label="The fill ends an 8th earlier" @click="border(-1, true)">‹</button><button class="plain tiny" aria-label="The fill ends an 8th later" @click="border(1, true)">›</button></span>
            <button v-if="fill.marked" class="plain" @click="judge('forget_fill')">As found <KeyCap scope="fills" action="asFound" /></button>
          </div>
        </div>
        <div ref="frame" class="picture">
          <CellBrackets :cells="fill.cells" :first="fill.bar" :last="fill.last_bar" :end-place="fill.end_place" :clock="desk.clock!" :width="barWidth" />
          <div class="bars">
            <SpineBar v-for="bar in bars" :key="bar" :bar="bar" :strokes="desk.byBar.get(bar) ?? []" :clock="desk.clock!" :width="barWidth" :height="190" :grid="4" :marks="marks(bar)" />
          </div>
        </div>
      </section>
      <DataTable v-if="rows.length" :value="rows" data-key="n" :row-class="(r: Row) => (r.n === at ? 'chosen' : '')" row-hover scrollable scroll-height="flex" class="table" @row-click="(e: { data: Row }) => (at = e.data.n)">
        <Column field="start" header="Time" sortable><template #body="{ data }"><button class="plain tiny figure" :aria-label="`${clockText(data.start)}, the fill of bar ${data.bar}`" @click.stop="at = data.n">{{ clockText(data.start) }}</button></template></Column>
        <Column field="bar" header="Bar" sortable><template #body="{ data }"><span class="figure">{{ data.bar }}</span> <span class="soft">{{ placeName(data.place, compound(data.bar)) }}</span></template></Column>
        <Column field="beats" header="Beats" sortable />
        <Column header="Played in"><template #body="{ data }">{{ data.subdivisions.join(", ") }}</template></Column>
        <Column field="cell" header="Figure" sortable />
        <Column field="way" header="Over the drums" />
        <Column field="linear" header="Linear" sortable><template #body="{ data }">{{ data.linear ? "linear" : "" }}</template></Column>
        <Column field="difficulty" header="Hard" sortable><template #body="{ data }"><span class="hard" :title="`${data.difficulty} of 10${data.hard_by ? `, by ${data.hard_by} first` : ''}`"><i :style="{ width: `${data.difficulty * 10}%` }" /></span> <span class="figure">{{ data.difficulty.toFixed(1) }}</span></template></Column>
        <Column field="again" header="Again" sortable><template #body="{ data }">{{ data.again ? `${data.again}×` : "" }}</template></Column>
      </DataTable>
      <p v-if="denied.length" class="denied">No fill, you said: <button v-for="d in denied" :key="d.start" class="plain tiny" :title="'Told as it was found again'" @click="say('forget_fill', stretchOf(d))">bar {{ d.bar }} <i class="pi pi-undo" /></button></p>
      <p v-if="!rows.length" class="soft empty">{{ list.complaint.value || (list.value.value ? "No bar leaves its groove: this song has no fill." : "Looking for fills …") }}</p>
    </template>
    <div v-else class="kept">
      <p v-if="!kept.length" class="soft empty">Nothing is kept yet. Keep a fill of any song with <KeyCap scope="fills" action="lift" />; it stays here even when the song goes.</p>
      <article v-for="k in kept" :key="k.id" class="card">
        <div class="line"><strong>{{ k.title }}</strong><span class="soft figure">bar {{ k.bar }}, {{ Math.round(k.tempo) }} bpm</span></div>
        <div class="thumbs"><SpineThumb v-for="n in k.document.meters.length" :key="n" :bar="n" :strokes="(k.document.strokes as Stroke[]).filter((s) => s.bar === n)" :clock="clockOf(k)" /></div>
        <p>{{ k.document.fill.subdivisions.join(", ") }}s; {{ k.document.fill.cells.map(cellText).join("; ") || "no figure" }}; {{ wayText(k.document.fill) }}</p>
        <TypedField :value="k.note" placeholder="What it is good for" :aria-label="`Note on the fill of ${k.title}, bar ${k.bar}`" @set="note(k, $event)" />
        <div class="line">
          <button v-if="k.song" class="plain tiny" @click="router.push({ name: 'bench', params: { id: k.song }, query: { bar: k.bar } })">Open the song</button>
          <button class="plain tiny" :aria-label="`Take the fill of ${k.title}, bar ${k.bar}, out of the collection`" @click="forget(k)"><i class="pi pi-times" /> Take out</button>
          <span class="soft figure">{{ placeValue(k.document.fill.place) === 0 ? "a whole bar" : `from ${placeName(k.document.fill.place, false)}` }}</span>
        </div>
      </article>
    </div>
  </div>
</template>

<style scoped>
.fills { height: 100%; padding: 0.6rem 1rem; display: grid; grid-template-rows: auto auto 1fr auto; gap: 0.6rem; min-height: 0; }
header { display: flex; gap: 1rem; align-items: center; flex-wrap: wrap; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; padding: 0.3rem 0.8rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.one { display: grid; grid-template-columns: 24rem 1fr; gap: 0.8rem; padding: 0.6rem 0.8rem; min-width: 0; }
.tell { display: grid; gap: 0.2rem; align-content: start; line-height: 1.35; }
.picture { overflow-x: auto; background: var(--paper); border: 1px solid var(--line); border-radius: 10px; padding-top: 4px; min-width: 0; align-self: start; }
.bars { display: flex; pointer-events: none; }
.sticking span { font-weight: 700; margin-left: 0.3rem; }
.RH { color: var(--rh); } .LH { color: var(--lh); } .RF { color: var(--rf); } .LF { color: var(--lf); }
.acts { display: flex; gap: 0.35rem; flex-wrap: wrap; margin-top: 0.3rem; }
.acts .plain { padding: 0.25rem 0.55rem; }
.table { min-height: 0; font-size: 0.95rem; }
.table :deep(td), .table :deep(th) { padding: 0.22rem 0.5rem; }
.table :deep(tr) { cursor: pointer; }
.table :deep(tr.chosen td) { background: color-mix(in srgb, var(--focus) 12%, var(--sheet)); }
.tiny { padding: 0.05rem 0.45rem; }
.hard { display: inline-block; width: 54px; height: 9px; border-radius: 5px; background: var(--line); overflow: hidden; }
.hard i { display: block; height: 100%; background: var(--lh); }
.kept { grid-row: 2 / -1; overflow: auto; display: grid; grid-template-columns: repeat(auto-fill, minmax(20rem, 1fr)); gap: 0.8rem; align-content: start; }
.kept .card { padding: 0.6rem 0.8rem; display: grid; gap: 0.35rem; }
.thumbs { display: grid; grid-auto-flow: column; grid-auto-columns: 1fr; gap: 4px; height: 64px; }
.line { display: flex; gap: 0.5rem; align-items: center; justify-content: space-between; }
.border { display: inline-flex; align-items: center; gap: 0.2rem; }
.denied { display: flex; gap: 0.35rem; flex-wrap: wrap; align-items: center; }
.empty { padding: 2rem; }
@media (max-width: 900px) { .one { grid-template-columns: 1fr; } }
</style>
