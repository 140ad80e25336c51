<script setup lang="ts">
/** Take in: is this the right recording, is it whole, how far is hearing. */
import { STEPS } from "@/kit";
import Button from "primevue/button";
import { computed, onMounted, onUnmounted, ref } from "vue";
import { useRouter } from "vue-router";
import { of, Refusal, server, type Take } from "@/api/client";
import DropZone from "@/desk/DropZone.vue";
import SoundList from "@/desk/SoundList.vue";
import WaveForm from "@/desk/WaveForm.vue";
import { kindOf } from "@/desk/takes";
import { many } from "@/desk/words";
import { clockText } from "@/score/time";
import { useShelf } from "@/stores/shelf";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const props = defineProps<{ songId: number }>();
const shelf = useShelf();
const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const file = ref<File | null>(null);
const sent = ref<number | null>(null);
const complaint = ref("");

const song = computed(() => shelf.get(props.songId));
const take = computed(() => song.value?.takes.at(-1));
const job = computed(() => take.value?.job ?? null);
const isOpen = computed(() => job.value?.state === "queued" || job.value?.state === "running");
const at = computed(() => STEPS.findIndex(([key]) => key === job.value?.step));

/** Watched from the first sign of work on: what is done so far tells how long the rest takes. */
let seen: { share: number; at: number } | null = null;
const left = computed(() => {
  const share = job.value?.share ?? 0;
  if (!isOpen.value || share <= 0) return "";
  seen ??= { share, at: Date.now() };
  if (share - seen.share < 0.05) return "";
  const seconds = ((Date.now() - seen.at) / 1000 / (share - seen.share)) * (1 - share);
  return `, about ${Math.max(1, Math.round(seconds))} s left`;
});

async function refresh(): Promise<void> {
  try {
    await shelf.refresh(props.songId);
    if (job.value?.state === "done" && !desk.shown) await desk.open(props.songId);
    complaint.value = "";
    isAway = false;
  } catch (problem) {
    complaint.value = (problem as Error).message;
    isAway = problem instanceof Refusal && problem.isPassing;
  }
}

let isAway = false;
let timer: ReturnType<typeof setInterval>;
onMounted(() => {
  void refresh();
  timer = setInterval(() => {
    if (isOpen.value || isAway) void refresh();
  }, 700);
});
onUnmounted(() => clearInterval(timer));

async function chosen(f: File): Promise<void> {
  file.value = f;
  sent.value = 0;
  complaint.value = "";
  try {
    await shelf.takeIn(props.songId, f, (s) => (sent.value = s));
  } catch (problem) {
    complaint.value = (problem as Error).message;
  } finally {
    sent.value = null;
    file.value = null;
  }
}

async function setRights(t: Take, rights: string): Promise<void> {
  try {
    await server.PUT("/api/takes/{id}/rights", { params: of(t.id), body: { rights: rights as Take["rights"] & string } });
    await shelf.refresh(props.songId);
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}

async function act(what: "cancel" | "retry"): Promise<void> {
  try {
    if (job.value) await shelf.act(job.value, what);
    await refresh();
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
</script>

<template>
  <div class="take-in">
    <p v-if="complaint" class="notice" role="alert">{{ complaint }}</p>
    <template v-if="song && !song.takes.length">
      <h1>{{ song.title }} has no recording yet</h1>
      <DropZone :file="file" :sent="sent" @chosen="chosen" />
    </template>
    <template v-else-if="take && !take.sounds && !job">
      <h1>{{ song!.title }} came as a score</h1>
      <p class="soft">There is no recording to hear; everything else works: grooves, hands, chart, practice, the written part as sound.</p>
      <div class="next"><Button label="Look at the map" @click="router.push({ name: 'map' })" /></div>
    </template>
    <template v-else-if="take">
      <h1>
        {{ isOpen ? "Listening to" : job?.state === "done" ? "Heard:" : "Not heard:" }} {{ take.name }}
      </h1>
      <p v-if="take.duration" class="soft figure">{{ clockText(take.duration) }} long</p>
      <ol class="card steps">
        <li
          v-for="([key, name], n) in STEPS"
          :key="key"
          :class="{ done: job?.state === 'done' || (isOpen && n < at), now: isOpen && n === at }"
        >
          <i :class="job?.state === 'done' || (isOpen && n < at) ? 'pi pi-check' : 'pi pi-circle'" />{{ name }}
        </li>
      </ol>
      <template v-if="isOpen">
        <div class="bar" role="progressbar" :aria-valuenow="Math.round((job?.share ?? 0) * 100)" aria-valuemin="0" aria-valuemax="100">
          <i :style="{ width: `${(job?.share ?? 0) * 100}%` }" />
        </div>
        <p class="soft">
          {{ job?.step_name }}{{ left }}. You may close this page; hearing goes on.
        </p>
        <Button label="Cancel" severity="secondary" outlined @click="act('cancel')" />
      </template>
      <template v-else-if="job?.state === 'done'">
        <p v-for="note in (job.notes as string[])" :key="note" class="notice">{{ note }}</p>
        <p v-if="desk.shown">
          {{ many(desk.shown.score.meters.length, "bar") }} of {{ desk.shown.score.meters[0] }},
          {{ desk.shown.tempo.steady ? "" : "about " }}{{ Math.round(desk.shown.tempo.bpm) }} bpm,
          {{ many(desk.shown.score.strokes.length, "stroke") }} in
          {{ many(desk.shown.score.sections.length, "section") }}.
        </p>
        <WaveForm v-if="desk.shown" class="card" :from="0" :to="desk.shown.duration" :now="playback.now" :height="110" numbers @seek="playback.play" />
        <SoundList v-if="desk.score" @open="(bar) => router.push({ name: 'bench', query: { bar } })" />
        <section class="card others">
          <h2>Takes of this song</h2>
          <p v-for="t in song!.takes" :key="t.id"><strong>{{ t.name }}</strong>, {{ kindOf(t) }}<span v-if="t.kind === 'other' && t.likeness" class="soft figure">, laid over {{ t.anchors.length - 1 }} bars, {{ Math.round(t.likeness * 100) }} % alike</span><select v-if="song!.may === 'own'" class="plain rights" :value="t.rights" :aria-label="`By what right ${t.name} is here`" @change="setRights(t, ($event.target as HTMLSelectElement).value)"><option value="private">for private study</option><option value="licensed">licensed for this</option><option value="own">ours</option></select></p>
          <p class="soft">A stem, a live version or a video is laid over this recording bar by bar and can sound in its place.</p>
          <DropZone :file="file" :sent="sent" @chosen="chosen" />
        </section>
        <div class="next">
          <Button label="Check the pulse" @click="router.push({ name: 'pulse' })" />
          <Button label="Look at the map" severity="secondary" @click="router.push({ name: 'map' })" />
        </div>
      </template>
      <template v-else-if="job">
        <p class="notice" role="alert">
          {{ job.state === "cancelled" ? "Hearing was cancelled; the recording is kept." : job.message }}
        </p>
        <div class="next"><Button label="Hear it again" @click="act('retry')" /></div>
        <h2>Or take in another recording</h2>
        <DropZone :file="file" :sent="sent" @chosen="chosen" />
      </template>
    </template>
    <p v-else-if="!complaint" class="soft">Looking for the recording …</p>
  </div>
</template>

<style scoped>
.take-in { max-width: 52rem; margin: 0 auto; padding: 2rem 1rem; display: grid; gap: 1rem; }
.steps { list-style: none; margin: 0; padding: 1rem 1.4rem; display: grid; gap: 0.6rem; }
.steps li { display: flex; gap: 0.8rem; align-items: center; color: var(--ink-faint); }
.steps .done { color: var(--ink); }
.steps .done .pi { color: var(--rh); }
.steps .now { color: var(--ink); font-weight: 700; }
.bar { height: 12px; border-radius: 6px; background: var(--line); overflow: hidden; }
.bar i { display: block; height: 100%; background: var(--rh); transition: width 0.4s linear; }
.rights { margin-left: 0.6rem; padding: 0.1rem 0.3rem; }
.others { display: grid; gap: 0.5rem; }
.next { display: flex; gap: 0.6rem; }
.notice { background: var(--warn-well); color: var(--warn); padding: 0.7rem 1rem; border-radius: 8px; }
</style>
