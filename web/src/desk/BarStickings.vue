<script setup lang="ts">
/** Other ways of sticking a bar, each with what it keeps; rudiments that are asked for by name. */
import { computed, ref } from "vue";
import { of, server } from "@/api/client";
import type { Stroke } from "@/api/client";
import { useFinding } from "@/stores/finding";
import { useSong } from "@/stores/song";

const props = defineProps<{ bar: number; strokes: Stroke[] }>();
const desk = useSong();
const found = useFinding(
  (id) => server.GET("/api/songs/{id}/stickings", { params: { ...of(id), query: { bar: props.bar } } }),
  () => props.bar,
);
const told = computed(() => found.value.value);
const hasChosen = computed(() => props.strokes.some((s) => s.limb_by === "person"));
const asked = ref("");
const complaint = ref("");
const choose = (limbs: Record<string, string>) => desk.edit({ operation: "stick_bar", bar: props.bar, limbs: limbs as Record<string, "RH" | "LH"> });
async function ask(): Promise<void> {
  if (!asked.value) return;
  complaint.value = await desk.tryEdit({ operation: "stick_as", first: props.bar, last: props.bar, rudiment: asked.value });
  asked.value = "";
}
const free = () => desk.edit({ operation: "free_limbs", first: props.bar, last: props.bar });
const LIMB: Record<string, string> = { RH: "right hand", LH: "left hand", RF: "right foot", LF: "left foot" };
const fastest = computed(() => {
  const own = Object.entries(told.value?.fastest ?? {}).sort((a, b) => a[1] - b[1]);
  return own.length ? `The ${LIMB[own[0]![0]]} is the first to give up, at ${Math.round(own[0]![1])} bpm.` : "";
});
</script>

<template>
  <section class="sticking" aria-label="Other stickings of the bar">
    <p class="line">
      <strong>Sticking of bar {{ bar }}</strong>
      <span v-if="told?.rudiments.length" class="soft">{{ told.rudiments.join(", ") }}</span>
      <span class="grow" />
      <button v-if="hasChosen" class="plain" @click="free">Leave it to the program</button>
      <select v-model="asked" class="plain" aria-label="Stick it as" @change="ask">
        <option value="">Stick it as …</option>
        <option v-for="name in told?.askable ?? []" :key="name" :value="name">{{ name }}</option>
      </select>
    </p>
    <p v-if="complaint || found.complaint.value" class="wrong" role="alert">{{ complaint || found.complaint.value }}</p>
    <p v-for="says in told?.heard ?? []" :key="says" class="soft"><i class="pi pi-volume-up" /> The recording: {{ says }}.</p>
    <ol v-if="told?.alternatives.length" class="ways">
      <li v-for="(a, n) in told.alternatives" :key="n" :class="{ on: a.is_now }">
        <span class="row" :aria-label="`Hands ${a.hands}`"><b v-for="(h, k) in a.hands" :key="k" :class="h === 'R' ? 'RH' : 'LH'">{{ h }}</b></span>
        <span class="says"><strong>{{ a.name }}</strong> {{ a.says.join("; ") }}</span>
        <span class="figure soft" title="What it costs, by the rules of the solver: less is easier">{{ a.cost.toFixed(1) }}</span>
        <span v-if="a.is_now" class="soft now">as it is</span>
        <button v-else class="plain" @click="choose(a.limbs)">Choose</button>
      </li>
    </ol>
    <p v-if="told" class="soft">{{ told.hard.total.toFixed(1) }} of 10{{ told.hard.total >= 1 ? `, by ${told.hard.hard_by} first` : "" }}. {{ fastest }} {{ told.harder_slow ? "It is harder slow than fast: long spaces have to be counted." : "" }}</p>
  </section>
</template>

<style scoped>
.sticking { display: grid; gap: 0.35rem; width: 100%; }
.line { display: flex; gap: 0.6rem; align-items: baseline; flex-wrap: wrap; }
.grow { flex: 1; }
.ways { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.2rem; }
.ways li { display: grid; grid-template-columns: minmax(8.5rem, auto) 1fr auto 5rem; gap: 0.6rem; align-items: baseline; padding: 0.12rem 0.4rem; border-radius: 6px; }
.ways li.on { background: var(--well); }
.row { font-family: var(--mono, monospace); letter-spacing: 0.06em; font-size: 0.95rem; }
.row b:nth-child(4n) { margin-right: 0.3em; }
.RH { color: var(--rh); } .LH { color: var(--lh); }
.says { line-height: 1.25; }
.now { text-align: center; }
.wrong { color: var(--warn); }
</style>
