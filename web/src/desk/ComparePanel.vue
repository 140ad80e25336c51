<script setup lang="ts">
/** Two bars laid over each other: what is equal is quiet, what differs is marked and said. */
import { computed, ref, shallowRef, watch } from "vue";
import { brought, of, server, type Comparison } from "@/api/client";
import KeyCap from "@/keys/KeyCap.vue";
import { takenOver } from "./takingOver";
import { usable } from "./takes";
import SpineBar from "@/spine/SpineBar.vue";
import { usePlayback } from "@/stores/playback";
import { useShelf } from "@/stores/shelf";
import { useSong } from "@/stores/song";

const props = defineProps<{ bar: number; grid: number }>();
const desk = useSong();
const shelf = useShelf();
const playback = usePlayback();
const other = ref<number | "heard" | `take${number}`>(Math.max(1, props.bar - 1));
const found = shallowRef<Comparison | null>(null);
const complaint = ref("");
const WIDTH = 300;

async function compare(): Promise<void> {
  const asked = `${props.bar} ${other.value}`;
  complaint.value = "";
  try {
    const told = await brought(
      server.GET("/api/songs/{id}/transcription/compare", {
        params: { ...of(desk.id), query: { bar: props.bar, with: String(other.value) } },
      }),
    );
    if (asked === `${props.bar} ${other.value}`) found.value = told;
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
watch(
  () => props.bar,
  (bar, before) => {
    // The bar before goes along; a bar that was picked stays.
    if (other.value === before - 1) other.value = Math.max(1, bar - 1);
  },
);
watch([() => props.bar, other, () => desk.state], () => void compare(), { immediate: true });

const takes = computed(() => usable(shelf.get(desk.id)?.takes ?? []));
const takeName = computed(() => takes.value.find((t) => `take${t.id}` === other.value)?.name);
const marks = (side: "a" | "b") =>
  new Map((found.value?.differences ?? []).filter((d) => d[side]).map((d) => [d[side]!, d.kind]));
const told = computed(() => found.value?.says ?? []);
const isTake = computed(() => String(other.value).startsWith("take"));
/** The bar becomes what it is compared with; one edit, undone as one. */
function takeOver(): void {
  if (found.value) desk.editMany(takenOver(found.value, props.bar, isTake.value));
}
defineExpose({ takeOver });
const bars = computed(() => [
  typeof other.value === "string"
    ? { name: takeName.value ?? "as it was heard", side: "a" as const, of: props.bar }
    : { name: `bar ${other.value}`, side: "a" as const, of: other.value },
  { name: `bar ${props.bar}${typeof other.value === "string" ? " now" : ""}`, side: "b" as const, of: props.bar },
]);
</script>

<template>
  <section class="compare">
    <div class="line">
      <label>With bar
        <input :value="typeof other === 'number' ? other : ''" @input="other = Number(($event.target as HTMLInputElement).value) || 1" class="plain" type="number" min="1" :max="desk.clock!.bars" aria-label="The other bar">
      </label>
      <button :class="['plain', { on: other === bar - 1 }]" :disabled="bar === 1" @click="other = bar - 1">before</button>
      <button :class="['plain', { on: other === 'heard' }]" @click="other = other === 'heard' ? Math.max(1, bar - 1) : 'heard'">as heard</button>
      <button v-for="t in takes" :key="t.id" :class="['plain', { on: other === `take${t.id}` }]" :title="t.name" @click="other = `take${t.id}`">{{ t.name.length > 16 ? `${t.name.slice(0, 14)}…` : t.name }}</button>
    </div>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <template v-else-if="found">
      <figure v-for="b in bars" :key="b.side">
        <figcaption class="soft">{{ b.name }} <button class="plain tiny" :aria-label="`Play ${b.name}`" @click="playback.play(desk.clock!.barStart(b.of))"><i class="pi pi-play" /></button></figcaption>
        <SpineBar :bar="Math.min(b.of, desk.clock!.bars)" :strokes="found[b.side]" :clock="desk.clock!" :width="WIDTH" :height="112" :grid="grid" :marks="marks(b.side)" />
      </figure>
      <p><strong>{{ told.length ? `In bar ${bar}:` : "The same." }}</strong></p>
      <ul v-if="told.length">
        <li v-for="(d, n) in told" :key="n">{{ d }}</li>
      </ul>
      <button v-if="told.length" class="plain" @click="takeOver">Take over what {{ bars[0]!.name }} plays <KeyCap scope="bench" action="takeOver" /></button>
    </template>
  </section>
</template>

<style scoped>
.compare { display: grid; gap: 0.45rem; align-content: start; }
.line { display: flex; align-items: center; gap: 0.4rem; flex-wrap: wrap; }
input { width: 4.4rem; }
figure { margin: 0; border: 1px solid var(--line); border-radius: 8px; background: var(--paper); pointer-events: none; }
figcaption { padding: 2px 8px; display: flex; justify-content: space-between; align-items: center; pointer-events: auto; }
.tiny { padding: 0 0.4rem; }
ul { margin: 0; padding-left: 1.1rem; display: grid; gap: 0.2rem; }
.wrong { color: var(--warn); }
</style>
