<script setup lang="ts">
/** The player's page: a lesson behind a link. Stages with their ladder, the chart, playing along; from phone to desk. */
import { useOnline } from "@vueuse/core";
import { computed, onMounted, ref, shallowRef, watch } from "vue";
import type { Stroke } from "@/api/client";
import { RATE } from "@/audio/pieces";
import { Transport } from "@/audio/transport";
import { LIMBS } from "@/kit";
import { clicks, countIn as clicksBefore } from "@/score/clicks";
import { countedAloud, countIn } from "@/score/count";
import { eventsOf } from "@/score/sounding";
import ClipShow from "@/practice/ClipShow.vue";
import { exact } from "@/practice/ladder";
import { loopBeats } from "@/practice/loopTime";
import { heightOf } from "@/spine/layout";
import SpineBar from "@/spine/SpineBar.vue";
import { useLesson } from "./lesson";

const props = defineProps<{ token: string }>();
const own = useLesson(props.token);
const { lesson, clock } = own;
const VIEWS = [["lesson", "Lesson"], ["chart", "Chart"], ["me", "Me"]] as const;
const CLICKS = [[0, "no click"], [1, "beats"], [2, "8ths"], [4, "16ths"], [3, "triplets"], [-1, "counted aloud"]] as const;
const view = ref<(typeof VIEWS)[number][0]>("lesson");
const passageAt = ref(0);
const stageAt = ref(0);
const parts = ref(1); // clicks a beat
const countsIn = ref(true);
const withRecording = ref(false);
const mine = ref<string[]>([]); // limbs that the player plays
const isPlaying = ref(false);
const now = ref(0);
const complaint = ref("");
const passage = computed(() => lesson.value?.passages[passageAt.value] ?? null);
const stage = computed(() => passage.value?.stages[stageAt.value] ?? null);
const rung = computed(() => (passage.value && stage.value ? own.rungOf(passage.value, stage.value) : null));
const bars = computed(() => (passage.value ? Array.from({ length: passage.value.last - passage.value.first + 1 }, (_, k) => passage.value!.first + k) : []));
const share = computed(() => (rung.value && lesson.value ? Math.min(1.2, rung.value.tempo / lesson.value.tempo) : 1));
watch(passageAt, () => (stageAt.value = 0));
let since = 0;

const transport = shallowRef<Transport | null>(null);
function ready(): Transport | null {
  if (!lesson.value) return null;
  if (!transport.value) {
    const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    const source = lesson.value.sound ? `player/${props.token}/sound` : "";
    const made = new Transport(context, source, lesson.value.duration || clock.value!.end + 2, `${own.address}/words`);
    made.onstate = (s) => {
      isPlaying.value = s.playing;
      if (s.playing) follow();
    };
    transport.value = made;
  }
  return transport.value;
}
function follow(): void {
  now.value = transport.value?.position ?? 0;
  if (isPlaying.value) requestAnimationFrame(follow);
}
function arrange(): void {
  const [t, c, s] = [transport.value, clock.value, stage.value];
  if (!t || !c) return;
  const strokes = ((s?.strokes ?? []) as Stroke[]).filter((x) => !mine.value.includes(x.limb));
  t.setWritten(eventsOf({ cues: {} } as never, strokes, c, "grid", {}, new Set()));
  t.setSounding(withRecording.value ? "both" : "written");
  t.setDrums(withRecording.value ? "back" : "recorded");
  t.setRate(exact(share.value));
  t.setTicks(parts.value < 0 ? countedAloud(c, (b) => (bars.value.includes(b) ? ofBar(b) : [])) : clicks(c, parts.value, bars.value));
}
watch([stage, mine, parts, share, withRecording], arrange);
async function play(): Promise<void> {
  const [t, c, p] = [ready(), clock.value, passage.value];
  if (!t || !c || !p) return;
  arrange();
  const { start, beats } = loopBeats(c, p.first, p.last, stage.value);
  const from = c.seconds(start);
  t.setLoop([from, c.seconds(start + beats)]);
  since = performance.now();
  try {
    await t.play(from, countsIn.value ? clicksBefore(c, p.first) : []);
    complaint.value = "";
  } catch (problem) {
    complaint.value = navigator.onLine ? (problem as Error).message : "This part of the recording is not on this device. Play without the recording until the network is back.";
  }
}
const stop = () => transport.value?.pause();
function judged(judgement: string): void {
  if (!passage.value || !stage.value) return;
  const lasted = since ? Math.min(600, (performance.now() - since) / 1000) : 0;
  since = isPlaying.value ? performance.now() : 0;
  own.judged(passage.value, stage.value, judgement, lasted);
}
const step = (by: number) => {
  stop();
  stageAt.value = Math.min(Math.max(0, stageAt.value + by), (passage.value?.stages.length ?? 1) - 1);
};
function key(e: KeyboardEvent): void {
  if ((e.target as HTMLElement).closest("input, select, textarea") || view.value !== "lesson" || e.ctrlKey || e.metaKey || e.altKey) return;
  const acts: Record<string, () => void> = { " ": () => (isPlaying.value ? stop() : void play()), "1": () => judged("relaxed"), "2": () => judged("tense"), "3": () => judged("not yet"), ArrowRight: () => step(1), ArrowLeft: () => step(-1), PageDown: () => step(1), PageUp: () => step(-1) };
  const act = acts[e.key];
  if (!act) return;
  e.preventDefault();
  act();
}
/** The limbs that play in this step: the others have no lane. */
const playing = computed(() => LIMBS.filter((limb) => ((stage.value?.strokes ?? []) as Stroke[]).some((s) => s.limb === limb)));
const isOnline = useOnline();
const ofBar = (bar: number) => ((stage.value?.strokes ?? []) as Stroke[]).filter((s) => s.bar === bar);
const learned = (n: number) => lesson.value!.passages[n]!.stages.filter((s) => own.rungOf(lesson.value!.passages[n]!, s).is_learned).length;
/** The pages of the chart, in the page itself: only there have they our fonts. */
const sheets = shallowRef<string[]>([]);
watch(view, async (which) => {
  if (which !== "chart" || !lesson.value || sheets.value.length) return;
  for (let n = 1; n <= lesson.value.pages; n++) {
    const sheet = await fetch(`${own.address}/pages/${n}`).then((r) => (r.ok ? r.text() : "")).catch(() => "");
    if (sheet) sheets.value = [...sheets.value, sheet];
  }
});
/** As wide as the page: signs keep the size that a thumb's breadth away can be read. */
const width = ref(560);
const measure = () => (width.value = Math.min(680, Math.max(320, window.innerWidth - 26)));
function agree(on: boolean): void {
  own.told.value = { ...own.told.value, agrees: on };
  if (on) void own.tell();
  else own.forget();
}
onMounted(async () => {
  window.addEventListener("keydown", key);
  window.addEventListener("resize", measure);
  measure();
  document.documentElement.classList.toggle("dark", matchMedia("(prefers-color-scheme: dark)").matches);
  await own.open();
  if (lesson.value) await countIn(lesson.value.counting);
  void navigator.serviceWorker?.register("/player-worker.js", { scope: "/p/" }).catch(() => {});
});
</script>

<template>
  <div class="player">
    <p v-if="own.complaint.value" class="wrong lone" role="alert">{{ own.complaint.value }}</p>
    <p v-else-if="!lesson" class="lone" role="status">Opening the lesson …</p>
    <template v-else>
      <header>
        <h1>{{ lesson.title }}</h1>
        <p class="soft">{{ lesson.song }}<template v-if="lesson.artist">, {{ lesson.artist }}</template> · {{ Math.round(lesson.tempo) }} bpm</p>
        <nav aria-label="Parts of the lesson">
          <button v-for="[k, label] in VIEWS" :key="k" :class="['plain', { on: view === k }]" :aria-pressed="view === k" @click="view = k">{{ label }}</button>
        </nav>
      </header>
      <p v-if="!isOnline" class="offline" role="status">No network. The steps, the written part and the chart work.{{ lesson.sound ? " The recording plays only where you have heard it before." : "" }}{{ own.told.value.agrees ? " Your progress is sent when the network is back." : "" }}</p>
      <main v-if="view === 'lesson'">
        <p v-if="lesson.words" class="words">{{ lesson.words }}</p>
        <label class="choose">Passage
          <select v-model.number="passageAt" class="plain" aria-label="Passage"><option v-for="(p, n) in lesson.passages" :key="n" :value="n">{{ p.title }} ({{ learned(n) }} of {{ p.stages.length }} learned)</option></select>
        </label>
        <template v-if="passage && stage && rung && clock">
          <p v-if="passage.words" class="words">{{ passage.words }}</p>
          <p v-if="passage.why" class="soft">{{ passage.why }}</p>
          <div class="stages" role="group" aria-label="Stages">
            <button v-for="(s, n) in passage.stages" :key="s.title" :class="['plain', { on: n === stageAt }]" :aria-pressed="n === stageAt" @click="step(n - stageAt)">{{ n + 1 }}<span class="unseen"> {{ s.title }}</span><span v-if="own.rungOf(passage, s).is_learned" aria-label="learned"> ✓</span></button>
          </div>
          <h2>{{ stage.title }}</h2>
          <p v-if="stage.words" class="words">{{ stage.words }}</p>
          <ClipShow :clips="stage.clips" :from="`/api/player/${token}/clips`" />
          <p>{{ stage.says }}</p>
          <div v-for="b in bars" :key="b" class="bar"><span class="soft">bar {{ b }}</span><SpineBar :bar="b" :strokes="ofBar(b)" :clock="clock" :width="width" :height="heightOf(170, playing)" :limbs="playing" :grid="4" :playing="isPlaying ? clock.within(b, now) : null" /></div>
          <div class="ladder"><strong>{{ Math.round(rung.tempo) }} <small>bpm</small></strong>
            <ol aria-label="Tempo ladder"><li v-for="t in stage.rungs" :key="t" :class="{ done: t < rung.tempo || rung.is_learned, now: Math.abs(t - rung.tempo) < 0.5 }">{{ Math.round(t) }}</li></ol>
            <span class="soft" role="status">{{ rung.is_learned ? "learned" : `${rung.clean} of ${stage.run} clean loops` }}</span>
          </div>
          <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
          <div class="acts">
            <button class="plain go" @click="isPlaying ? stop() : play()">{{ isPlaying ? "Stop" : "Play" }}</button>
            <button class="plain" @click="judged('relaxed')">Relaxed</button>
            <button class="plain" @click="judged('tense')">Right, but tense</button>
            <button class="plain" @click="judged('not yet')">Not yet</button>
          </div>
          <div class="how">
            <label>Click <select v-model.number="parts" class="plain" aria-label="Click"><option v-for="[n, label] in CLICKS" :key="n" :value="n">{{ label }}</option></select></label>
            <label><input v-model="countsIn" type="checkbox"> count in</label>
            <label v-if="lesson.sound"><input v-model="withRecording" type="checkbox"> with the recording</label>
            <span role="group" aria-label="I play myself">I play <button v-for="limb in LIMBS" :key="limb" :class="['plain', { on: mine.includes(limb) }]" :aria-pressed="mine.includes(limb)" @click="mine = mine.includes(limb) ? mine.filter((l) => l !== limb) : [...mine, limb]">{{ limb }}</button></span>
          </div>
          <p class="soft">Three relaxed loops go up a step. Rest after forty minutes, stop when it hurts, protect your ears; a physician or a hearing professional knows more than this page.</p>
        </template>
      </main>
      <main v-else-if="view === 'chart'" class="chart">
        <p v-if="!sheets.length" class="soft" role="status">{{ isOnline ? "Opening the chart …" : "The chart is not on this device yet; open it once with a network." }}</p>
        <!-- eslint-disable-next-line vue/no-v-html -- pages engraved by our own server -->
        <div v-for="(sheet, n) in sheets" :key="n" role="img" :aria-label="`Page ${n + 1} of the chart`" v-html="sheet" />
      </main>
      <main v-else class="me">
        <p>You practised {{ Math.round(own.minutes.value) }} minutes here. It is kept on this device{{ own.told.value.agrees ? ", and your teacher sees it" : " only; nobody else sees it" }}.</p>
        <label class="choose">My name <input v-model="own.told.value.name" class="plain" maxlength="60" aria-label="My name" autocomplete="given-name"></label>
        <label><input type="checkbox" :checked="own.told.value.agrees" :disabled="!own.told.value.name.trim()" @change="agree(($event.target as HTMLInputElement).checked)"> tell my teacher what I practised and how far I am</label>
        <p class="soft">{{ own.told.value.agrees ? (own.isAway.value ? "It could not be sent just now; it goes with the next loop." : "Take the tick away and it is deleted at your teacher's.") : "" }}</p>
      </main>
    </template>
  </div>
</template>

<style scoped>
.player { max-width: 46rem; margin: 0 auto; padding: 0.8rem; font-size: 1.05rem; }
.lone { padding: 3rem 1rem; text-align: center; font-size: 1.2rem; }
header { display: grid; gap: 0.3rem; padding-bottom: 0.6rem; border-bottom: 1px solid var(--line); }
h1 { font-size: 1.5rem; margin: 0; }
h2 { font-size: 1.25rem; margin: 0; }
p { margin: 0; }
nav, .stages, .acts, .how { display: flex; flex-wrap: wrap; gap: 0.4rem; align-items: center; }
main { display: grid; gap: 0.8rem; padding-top: 0.8rem; }
main > * { min-width: 0; }
.words { background: var(--well); border-radius: 8px; padding: 0.5rem 0.7rem; white-space: pre-line; }
.choose { display: grid; gap: 0.2rem; }
.plain { min-height: 2.6rem; min-width: 2.6rem; padding: 0.3rem 0.8rem; font-size: 1rem; max-width: 100%; }
.bar :deep(svg) { width: 100%; height: auto; pointer-events: none; }
.ladder { display: flex; flex-wrap: wrap; gap: 0.5rem 0.9rem; align-items: center; }
.ladder strong { font-size: 2rem; }
.ladder ol { display: flex; flex-wrap: wrap; gap: 3px; list-style: none; margin: 0; padding: 0; }
.ladder li { border: 1px solid var(--line-strong); border-radius: 5px; padding: 0.05rem 0.4rem; }
.ladder li.now { background: var(--ink); color: var(--paper); }
.ladder li.done { color: var(--ink-faint); background: var(--well); }
.acts .plain { flex: 1 1 auto; }
.acts .go { flex: 1 1 100%; font-size: 1.3rem; background: var(--ink); color: var(--paper); }
.how label, .me label { display: flex; gap: 0.4rem; align-items: center; }
.chart > div { background: #fff; border-radius: 6px; overflow: hidden; }
.chart :deep(svg) { display: block; width: 100%; height: auto; }
.offline { margin-top: 0.6rem; background: var(--warn-well); color: var(--warn); border-radius: 8px; padding: 0.4rem 0.7rem; }
.wrong { color: var(--warn); }
.unseen { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; overflow: hidden; white-space: nowrap; }
</style>
