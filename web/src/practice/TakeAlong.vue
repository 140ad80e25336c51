<script setup lang="ts">
/** Files to play along with where there is no page: chosen tempi and mixes in one zip, made by a worker. */
import { onMounted, onUnmounted, ref, shallowRef } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import { LIMBS } from "@/kit";
import { counting } from "@/score/count";
import { useSong } from "@/stores/song";

const props = defineProps<{ first: number; last: number; order: Schemas["Stages"]["order"] }>();
const desk = useSong();
const made = shallowRef<Schemas["PlayAlong"][]>([]);
const complaint = ref("");
const MIXES = [["part", "our part"], ["part and click", "our part and a click"], ["recording", "the recording"], ["drums away", "the recording, drums away"], ["drums away and click", "drums away, and a click"], ["drums forward", "the recording, drums forward"], ["recording and part", "our part with the band"]] as const;
const SHARES = [0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.1];
const FORMS = [["ogg", "OGG, small"], ["flac", "FLAC"], ["wav", "WAV"]] as const;
const mixes = ref<string[]>(["drums away and click"]);
const shares = ref<number[]>([0.8, 1]);
const isWhole = ref(true);
const stages = ref(false);
const counts = ref(false);
const form = ref<"ogg" | "flac" | "wav">("ogg");
const mine = ref<string[]>([]);
const turn = <T,>(list: T[], one: T): T[] => (list.includes(one) ? list.filter((x) => x !== one) : [...list, one]);
let timer: ReturnType<typeof setTimeout> | undefined;
let isHere = true;

async function find(): Promise<void> {
  clearTimeout(timer);
  try {
    made.value = (await brought(server.GET("/api/songs/{id}/play-alongs", { params: of(desk.id) }))).made;
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
  if (isHere && made.value.some((m) => !m.is_ready && ["queued", "running"].includes(m.job?.state ?? ""))) timer = setTimeout(() => void find(), 700);
}
async function ask(): Promise<void> {
  const body = {
    first: isWhole.value ? 0 : props.first, last: isWhole.value ? 0 : props.last, shares: [...shares.value].sort(), mixes: mixes.value as never[], mute: mine.value,
    stages: stages.value && !isWhole.value, order: props.order, click: "quarters" as const, counted: counts.value ? counting.value : "", form: form.value, loops: 4,
  };
  try {
    await brought(server.POST("/api/songs/{id}/play-alongs", { params: of(desk.id), body }));
    complaint.value = "";
    await find();
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
onMounted(() => void find());
onUnmounted(() => {
  isHere = false;
  clearTimeout(timer);
});
</script>

<template>
  <section class="card" aria-label="Files to play along with">
    <h2>Files to play along with</h2>
    <p class="soft">A zip with sound at the tempi you choose and the pages as PDF, for where there is no network.</p>
    <div class="line" role="group" aria-label="Tempi">Tempo <button v-for="s in SHARES" :key="s" :class="['plain', { on: shares.includes(s) }]" :aria-pressed="shares.includes(s)" @click="shares = turn(shares, s)">{{ Math.round(100 * s) }} %</button></div>
    <div class="mixes" role="group" aria-label="Mixes"><label v-for="[key, label] in MIXES" :key="key"><input type="checkbox" :checked="mixes.includes(key)" @change="mixes = turn(mixes, key)"> {{ label }}</label></div>
    <div class="line" role="group" aria-label="I play these limbs">I play <button v-for="limb in LIMBS" :key="limb" :class="['plain', { on: mine.includes(limb) }]" :aria-pressed="mine.includes(limb)" @click="mine = turn(mine, limb)">{{ limb }}</button></div>
    <div class="line">
      <label><input v-model="isWhole" type="radio" :value="true"> the whole song</label>
      <label><input v-model="isWhole" type="radio" :value="false"> bars {{ first }}–{{ last }}, round and round</label>
      <label v-if="!isWhole"><input v-model="stages" type="checkbox"> and every stage</label>
      <label><input v-model="counts" type="checkbox"> counted aloud</label>
      <select v-model="form" class="plain" aria-label="Format"><option v-for="[key, label] in FORMS" :key="key" :value="key">{{ label }}</option></select>
    </div>
    <button class="plain big" :disabled="!shares.length || (!mixes.length && !stages)" @click="ask">Make the files</button>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <ul class="made" aria-label="Files made">
      <li v-for="m in made" :key="m.id">
        <a v-if="m.is_ready" :href="`/api/play-alongs/${m.id}/file`" download>{{ m.names.length }} files</a>
        <span v-else-if="m.job && ['refused', 'cancelled'].includes(m.job.state)" class="wrong">{{ m.job.message || "cancelled" }}</span>
        <span v-else>{{ m.job?.step_name ?? "waiting" }} <progress :value="m.job?.share ?? 0" max="1" /></span>
        <span class="soft">{{ m.wish.first ? `bars ${m.wish.first}–${m.wish.last}` : "the whole song" }}, {{ (m.wish.shares ?? []).map((s) => `${Math.round(100 * s)} %`).join(", ") }}{{ m.is_ready && m.is_old ? "; the part was changed since" : "" }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.card { padding: 0.8rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
h2, p { margin: 0; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.mixes { display: grid; grid-template-columns: repeat(auto-fill, minmax(13rem, 1fr)); gap: 0.25rem 0.8rem; }
.made { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.35rem; }
.made li { display: flex; gap: 0.8rem; flex-wrap: wrap; }
.big { padding: 0.5rem 0.9rem; }
.wrong { color: var(--warn); }
</style>
