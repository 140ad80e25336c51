<script setup lang="ts">
/** After an edit: the bars that read alike, and the same change made there. */
import KeyCap from "@/keys/KeyCap.vue";
import Dialog from "primevue/dialog";
import { computed, ref, watch } from "vue";
import type { Stroke } from "@/api/client";
import SpineThumb from "@/spine/SpineThumb.vue";
import { useSong } from "@/stores/song";

const desk = useSong();
const isPicking = ref(false);
const picked = ref<number[]>([]);
const offer = computed(() => desk.offer);
watch(offer, (o) => {
  picked.value = o ? [...o.bars].sort((a, b) => a - b) : [];
  if (!o) isPicking.value = false;
});

function apply(bars = offer.value?.bars ?? []): void {
  const o = offer.value;
  if (o && bars.length) desk.edit({ operation: "spread", bars, changes: o.changes });
  desk.offer = null;
}
function dismiss(): void {
  desk.offer = null;
}
function pick(): void {
  if (offer.value) isPicking.value = true;
}
/** What a bar would read like, and what in it would be new. */
function after(bar: number): { strokes: Stroke[]; different: Set<string> } {
  let strokes = [...(desk.byBar.get(bar) ?? [])];
  const different = new Set<string>();
  for (const { was, now } of offer.value?.changes ?? []) {
    const gone = strokes.find((s) => was && s.part === was.part && s.place === was.place);
    strokes = strokes.filter((s) => s !== gone);
    if (now) {
      const made = { ...gone, ...now, bar, id: gone?.id ?? `${now.id as string}b${bar}` } as Stroke;
      strokes.push(made);
      different.add(`${made.place} ${made.part} ${made.dynamic === "ghost" ? "g" : ""}`);
    }
  }
  return { strokes, different };
}
const sectionOf = (bar: number) => desk.score!.sections.find((s) => s.first_bar <= bar && bar < s.first_bar + s.bars)?.name ?? "";
const all = computed(() => [...(offer.value?.bars ?? [])].sort((a, b) => a - b));
defineExpose({ apply, pick, dismiss });
</script>

<template>
  <div v-if="offer" class="offer" role="status">
    <span>{{ offer.says.charAt(0).toUpperCase() + offer.says.slice(1) }}: <strong>in {{ offer.bars.length }} {{ offer.bars.length === 1 ? "bar" : "bars" }} alike too?</strong></span>
    <button class="plain" @click="apply()">All <KeyCap scope="bench" action="applyAll" /></button>
    <button class="plain" @click="pick">Choose <KeyCap scope="bench" action="pickAlike" /></button>
    <button class="plain" @click="dismiss">No</button>
  </div>
  <Dialog v-model:visible="isPicking" modal :header="offer ? `${offer.says}: in which bars?` : ''" :style="{ width: '56rem' }" dismissable-mask>
    <div class="bars">
      <label v-for="b in all" :key="b" :class="{ off: !picked.includes(b) }">
        <span><input v-model="picked" type="checkbox" :value="b"> bar {{ b }} <span class="soft">{{ sectionOf(b) }}</span></span>
        <span class="thumb"><SpineThumb :bar="b" :strokes="after(b).strokes" :clock="desk.clock!" :different="after(b).different" /></span>
      </label>
    </div>
    <template #footer>
      <button class="plain" @click="picked = picked.length ? [] : [...all]">{{ picked.length ? "None" : "All" }}</button>
      <button class="plain on" :disabled="!picked.length" @click="apply(picked)">Change {{ picked.length }} {{ picked.length === 1 ? "bar" : "bars" }}</button>
    </template>
  </Dialog>
</template>

<style scoped>
.offer { position: absolute; left: 50%; bottom: 10px; transform: translateX(-50%); z-index: 3; display: flex; align-items: center; gap: 0.6rem; padding: 0.4rem 0.5rem 0.4rem 0.9rem; background: var(--ink); color: var(--paper); border-radius: 10px; box-shadow: 0 4px 14px rgb(0 0 0 / 0.25); max-width: 94%; }
.offer > span { max-width: 34rem; }
.offer .plain { padding: 0.25rem 0.6rem; white-space: nowrap; }
.bars { display: grid; grid-template-columns: repeat(auto-fill, minmax(12rem, 1fr)); gap: 0.6rem; }
label { display: grid; gap: 3px; cursor: pointer; }
label.off { opacity: 0.5; }
.thumb { height: 64px; border: 1px solid var(--line-strong); border-radius: 6px; background: var(--sheet); }
</style>
