<script setup lang="ts">
/** A lesson is put together here: passages chosen in place, in their order, each with its method and words. */
import { computed, onMounted, ref, shallowRef } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import TypedField from "@/controls/TypedField.vue";
import { ORDERS } from "@/kit";
import SpineThumb from "@/spine/SpineThumb.vue";
import { useSong } from "@/stores/song";
import { MOST_BARS, MOST_PASSAGES, type Passage, type useLessonDraft } from "./lessonDraft";

const props = defineProps<{ own: ReturnType<typeof useLessonDraft>; isBusy: boolean }>();
const emit = defineEmits<{ give: []; cancel: [] }>();
const desk = useSong();
const draft = computed(() => props.own.draft.value);
const bars = computed(() => desk.clock!.bars);
const first = ref(1);
const last = ref(2);
const grooves = shallowRef<Schemas["Groove"][]>([]);
const fills = shallowRef<Schemas["ToldFill"][]>([]);
const spanText = (a: number, b: number) => (b > a ? `bars ${a}–${b}` : `bar ${a}`);
const sectionAt = (bar: number) => desk.score!.sections.find((s) => s.first_bar <= bar && bar < s.first_bar + s.bars)?.name ?? "";
const nameOf = (p: Passage) => [sectionAt(p.first), spanText(p.first, p.last)].filter(Boolean).join(", ");
interface Choice { says: string; first: number; last: number; order: Passage["order"] }
const choices = computed<[string, Choice[]][]>(() => [
  ["Sections", desk.score!.sections.map((s) => {
    const end = Math.min(s.first_bar + s.bars - 1, s.first_bar + MOST_BARS - 1);
    return { says: `${s.name}, ${spanText(s.first_bar, end)}`, first: s.first_bar, last: end, order: "computed" };
  })],
  ["Grooves", grooves.value.map((g) => {
    const start = g.typical || g.first_bar;
    const end = Math.min(start + Math.min(g.length, 4) - 1, bars.value);
    return { says: `Groove of ${sectionAt(g.first_bar) || spanText(g.first_bar, g.first_bar)}, ${spanText(start, end)}`, first: start, last: end, order: "computed" };
  })],
  ["Fills", fills.value.map((f) => ({ says: `Fill in ${spanText(f.bar, f.last_bar)}`, first: f.bar, last: f.last_bar, order: "fill" }))],
]);
function choose(event: Event): void {
  const select = event.target as HTMLSelectElement;
  const [group, n] = select.value.split(" ").map(Number);
  const c = choices.value[group!]?.[1][n!];
  select.value = "";
  if (c) props.own.add(c.first, c.last, c.order);
}
function addBars(): void {
  const from = Math.min(Math.max(1, Math.round(first.value) || 1), bars.value);
  props.own.add(from, Math.min(Math.max(from, Math.round(last.value) || from), bars.value));
}
function resize(n: number, p: Passage, field: "first" | "last", value: number): void {
  const bar = Math.min(Math.max(1, Math.round(value) || 1), bars.value);
  const from = field === "first" ? bar : Math.min(p.first, bar);
  const to = field === "last" ? bar : Math.max(p.last, bar);
  props.own.change(n, { first: from, last: Math.min(to, from + MOST_BARS - 1) });
}
onMounted(async () => {
  // Without them sections and bars can still be chosen.
  const [g, f] = await Promise.all([
    brought(server.GET("/api/songs/{id}/grooves", { params: of(desk.id) })).catch(() => null),
    brought(server.GET("/api/songs/{id}/fills", { params: of(desk.id) })).catch(() => null),
  ]);
  grooves.value = g?.grooves ?? [];
  fills.value = f?.fills ?? [];
});
</script>

<template>
  <section class="card editor" :aria-label="draft.id ? 'Change the lesson' : 'A new lesson'">
    <h2>{{ draft.id ? "Change the lesson" : "A new lesson" }}</h2>
    <p class="soft">Anyone with the link can open it, on a phone too, without an account, until you stop sharing it. What you write here is kept in this browser.</p>
    <label>Title <input class="plain" maxlength="120" aria-label="Title of the lesson" :value="draft.title" :placeholder="desk.score!.title || 'Lesson'" @input="own.set({ title: ($event.target as HTMLInputElement).value })"></label>
    <label>Your words <textarea class="plain" rows="3" maxlength="2000" aria-label="Words for the lesson" :value="draft.words" @input="own.set({ words: ($event.target as HTMLTextAreaElement).value })" /></label>
    <div class="line" role="group" aria-label="What the lesson holds">
      <label class="line"><input type="radio" :checked="!draft.isWhole" @change="own.set({ isWhole: false })"> some passages</label>
      <label class="line"><input type="radio" :checked="draft.isWhole" @change="own.set({ isWhole: true })"> the whole song</label>
    </div>
    <template v-if="!draft.isWhole">
      <p v-if="!draft.passages.length" class="soft">No passage yet. Choose one below.</p>
      <ol class="passages" aria-label="Passages of the lesson">
        <li v-for="(p, n) in draft.passages" :key="n">
          <div class="head">
            <strong class="figure">{{ n + 1 }}</strong>
            <SpineThumb :bar="Math.min(p.first, bars)" :strokes="desk.byBar.get(p.first) ?? []" :clock="desk.clock!" class="thumb" />
            <span class="name">{{ nameOf(p) }}</span>
            <button class="plain" :disabled="n === 0" :aria-label="`${nameOf(p)}: earlier`" @click="own.move(n, -1)"><i class="pi pi-arrow-up" /></button>
            <button class="plain" :disabled="n === draft.passages.length - 1" :aria-label="`${nameOf(p)}: later`" @click="own.move(n, 1)"><i class="pi pi-arrow-down" /></button>
            <button class="plain" :aria-label="`Leave out ${nameOf(p)}`" @click="own.remove(n)"><i class="pi pi-times" /></button>
          </div>
          <div class="line">
            <label class="line">Bars <TypedField class="number" type="number" min="1" :max="bars" :value="p.first" :aria-label="`First bar of passage ${n + 1}`" @set="resize(n, p, 'first', Number($event))" /> to <TypedField class="number" type="number" min="1" :max="bars" :value="p.last" :aria-label="`Last bar of passage ${n + 1}`" @set="resize(n, p, 'last', Number($event))" /></label>
            <label class="line">Method <select class="plain" :aria-label="`Method of passage ${n + 1}`" :value="p.order" @change="own.change(n, { order: ($event.target as HTMLSelectElement).value as Passage['order'] })"><option v-for="(label, key) in ORDERS" :key="key" :value="key">{{ label }}</option></select></label>
          </div>
          <textarea class="plain" rows="2" maxlength="1000" :aria-label="`Words for passage ${n + 1}`" placeholder="Your words for this passage" :value="p.words" @input="own.change(n, { words: ($event.target as HTMLTextAreaElement).value })" />
        </li>
      </ol>
      <div v-if="draft.passages.length < MOST_PASSAGES" class="line" role="group" aria-label="Add a passage">
        <select class="plain choose" aria-label="Choose a section, groove or fill" value="" @change="choose">
          <option value="" disabled>Add a section, groove or fill …</option>
          <optgroup v-for="([label, some], g) in choices" v-show="some.length" :key="label" :label="label"><option v-for="(c, n) in some" :key="n" :value="`${g} ${n}`">{{ c.says }}</option></optgroup>
        </select>
        <span class="line">or bars <input v-model.number="first" class="plain number" type="number" min="1" :max="bars" aria-label="First bar to add"> to <input v-model.number="last" class="plain number" type="number" min="1" :max="bars" aria-label="Last bar to add"> <button class="plain" @click="addBars"><i class="pi pi-plus" /> Add bars</button></span>
      </div>
    </template>
    <label class="line"><input type="checkbox" :checked="draft.withRecording" @change="own.set({ withRecording: ($event.target as HTMLInputElement).checked })"> <span>Students hear the recording (you have the right to share it)</span></label>
    <p class="line">
      <button class="plain big" :disabled="isBusy || (!draft.isWhole && !draft.passages.length)" @click="emit('give')">{{ draft.id ? "Save for students" : "Create the link" }}</button>
      <button v-if="!own.isEmpty.value" class="plain" @click="emit('cancel')">{{ draft.id ? "Leave it as it was" : "Clear the draft" }}</button>
    </p>
  </section>
</template>

<style scoped>
.editor { padding: 0.8rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
h2, p { margin: 0; }
label { display: grid; gap: 0.15rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
label.line { flex-wrap: nowrap; }
.passages { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.6rem; }
.passages li { display: grid; gap: 0.4rem; border: 1px solid var(--line); border-radius: 8px; padding: 0.5rem 0.6rem; }
.head { display: flex; gap: 0.5rem; align-items: center; }
.name { flex: 1; font-weight: 600; }
.thumb { width: 7rem; flex: none; }
.number { width: 4.2rem; }
.choose { max-width: 20rem; }
.big { padding: 0.5rem 0.9rem; }
</style>
