<script setup lang="ts">
/** Practice room: a passage as stages, each at its own tempo, up the ladder by one key. */
import { useLocalStorage } from "@vueuse/core";
import { computed, onUnmounted, ref, watch } from "vue";
import { of, server, type Schemas, type Stroke } from "@/api/client";
import KeyCap from "@/keys/KeyCap.vue";
import { useKeys } from "@/keys/useKeys";
import SpineBar from "@/spine/SpineBar.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

type Stage = Schemas["Stages"]["stages"][number];
const desk = useSong();
const playback = usePlayback();
const SCHOOLS = [["computed", "By what is hard"], ["limbs", "Limb by limb"], ["hands", "Hands first"], ["steady", "What is steady first"], ["skeleton", "Skeleton first"], ["zoom", "The hard place first"]] as const;
const MOST = 32;
const school = ref<(typeof SCHOOLS)[number][0]>("computed");
const first = ref(1);
const last = ref(2);
const at = ref(0);
const clock = computed(() => desk.clock!);
const bars = computed(() => Array.from({ length: last.value - first.value + 1 }, (_, k) => first.value + k));
const found = useFinding(
  (id) => server.GET("/api/songs/{id}/stages", { params: { ...of(id), query: { first: first.value, last: last.value, order: school.value } } }),
  () => `${first.value} ${last.value} ${school.value}`,
);
const plan = computed(() => found.value.value);
const stage = computed<Stage | null>(() => plan.value?.stages[Math.min(at.value, plan.value.stages.length - 1)] ?? null);
watch([first, last, school], () => (at.value = 0));

/** What a section is learned by: its first two bars that are played. */
function choose(id: string): void {
  const s = desk.score!.sections.find((x) => x.id === id);
  if (!s) return;
  let from = s.first_bar;
  while (from < s.first_bar + s.bars - 1 && !(desk.byBar.get(from)?.length)) from++;
  span(from, Math.min(from + 1, s.first_bar + s.bars - 1));
}
function span(from: number, to: number): void {
  first.value = Math.min(Math.max(1, Math.round(from) || 1), clock.value.bars);
  last.value = Math.min(Math.max(first.value, Math.round(to) || first.value), first.value + MOST - 1, clock.value.bars);
}

/** The ladder of each stage, kept on this device: its tempo, clean loops in a row, whether it is learned. */
interface Rung { tempo: number; clean: number; isLearned: boolean }
const kept = useLocalStorage<Record<string, Rung>>("orchesis.practice", {});
const keyOf = (s: Stage) => `${desk.id}.${desk.arrangement}.${first.value}-${last.value}.${school.value}.${s.title}`;
const rungOf = (s: Stage): Rung => kept.value[keyOf(s)] ?? { tempo: s.tempo, clean: 0, isLearned: false };
const rung = computed(() => (stage.value ? rungOf(stage.value) : null));
const share = computed(() => (rung.value && plan.value ? Math.min(1.2, rung.value.tempo / plan.value.tempo) : 1));

/** One loop judged by its player. */
function judged(how: "relaxed" | "tense" | "not yet"): void {
  const s = stage.value;
  if (!s) return;
  const r = { ...rungOf(s) };
  if (how === "relaxed") {
    r.clean++;
    if (r.clean >= s.run) {
      if (r.tempo >= s.goal) r.isLearned = true;
      r.tempo = Math.min(s.goal, r.tempo + s.step);
      r.clean = 0;
    }
  } else {
    if (how === "not yet") r.tempo = Math.max(s.tempo, r.tempo - s.step);
    r.clean = 0;
  }
  kept.value = { ...kept.value, [keyOf(s)]: r };
}
const rungs = computed(() => {
  const s = stage.value;
  if (!s) return [];
  const made: number[] = [];
  for (let t = s.tempo; t < s.goal; t += s.step) made.push(t);
  return [...made, s.goal];
});

watch([stage, () => playback.isPlaying], () => {
  playback.sketch = (stage.value?.strokes as Stroke[] | undefined) ?? null;
}, { immediate: true });
watch(share, (now) => (playback.speed = Math.round(now * 100) / 100));
onUnmounted(() => {
  playback.sketch = null;
  playback.speed = 1;
});
function play(): void {
  const [from, to] = [clock.value.barStart(first.value), clock.value.barEnd(last.value)];
  playback.speed = Math.round(share.value * 100) / 100;
  if (playback.sounding === "recording") playback.sounding = "written";
  playback.loop = [from, to];
  playback.play(from);
}
const step = (by: number) => (at.value = Math.min(Math.max(0, at.value + by), (plan.value?.stages.length ?? 1) - 1));
useKeys("practice", {
  step: (_, which) => step(which ? 1 : -1),
  hear: play,
  relaxed: () => judged("relaxed"),
  tense: () => judged("tense"),
  notYet: () => judged("not yet"),
});
const ofBar = (bar: number) => (stage.value?.strokes as Stroke[] | undefined)?.filter((s) => s.bar === bar) ?? [];
</script>

<template>
  <div class="practice">
    <section class="card left" aria-label="What is learned">
      <h1>Practice</h1>
      <label>Section
        <select class="plain" aria-label="Section" @change="choose(($event.target as HTMLSelectElement).value)">
          <option v-for="s in desk.score!.sections" :key="s.id" :value="s.id" :selected="s.first_bar <= first && first < s.first_bar + s.bars">{{ s.name }}</option>
        </select>
      </label>
      <p class="line">Bars
        <input class="plain number" type="number" min="1" :max="clock.bars" :value="first" aria-label="First bar" @change="span(Number(($event.target as HTMLInputElement).value), last)">
        to
        <input class="plain number" type="number" min="1" :max="clock.bars" :value="last" aria-label="Last bar" @change="span(first, Number(($event.target as HTMLInputElement).value))">
      </p>
      <label>In which order
        <select v-model="school" class="plain" aria-label="Order of the stages"><option v-for="[key, label] in SCHOOLS" :key="key" :value="key">{{ label }}</option></select>
      </label>
      <p v-if="plan" class="soft">Hardest: beat {{ plan.hardest[1] }} of bar {{ plan.hardest[0] }}.</p>
      <ol aria-label="Stages">
        <li v-for="(s, n) in plan?.stages ?? []" :key="s.title">
          <button :class="['plain', 'stage', { on: n === at }]" :aria-current="n === at ? 'step' : undefined" @click="at = n">
            <span class="figure">{{ n + 1 }}</span> {{ s.title }}
            <i v-if="rungOf(s).isLearned" class="pi pi-check" aria-label="learned" />
            <span v-else class="figure soft">{{ Math.round(rungOf(s).tempo) }}</span>
          </button>
        </li>
      </ol>
      <p class="soft"><KeyCap scope="practice" action="step" :which="0" /> <KeyCap scope="practice" action="step" :which="1" /> stage before, next</p>
    </section>
    <section class="card room" aria-label="The stage">
      <p v-if="found.complaint.value" class="wrong" role="alert">{{ found.complaint.value }}</p>
      <p v-else-if="!stage || !rung" class="soft">Making the stages …</p>
      <template v-else>
        <h2>{{ stage.title }} <span class="soft">{{ stage.plays }}</span></h2>
        <p>{{ stage.says }} <span class="soft">{{ stage.with_song ? "From here on you can play along with the recording." : "" }}</span></p>
        <div class="bars">
          <div v-for="b in bars.slice(0, 4)" :key="b"><p class="soft figure">bar {{ b }}</p><SpineBar :bar="b" :strokes="ofBar(b)" :clock="clock" :width="560" :height="170" :grid="4" :playing="clock.within(b, playback.now)" class="bar" /></div>
        </div>
        <p v-if="bars.length > 4" class="soft">and {{ bars.length - 4 }} more bars</p>
        <div class="ladder">
          <span class="tempo figure">{{ Math.round(rung.tempo) }}<small> bpm</small></span>
          <ol class="rungs" aria-label="Tempo ladder"><li v-for="t in rungs" :key="t" :class="{ done: t < rung.tempo || rung.isLearned, now: Math.abs(t - rung.tempo) < 0.5 }"><span class="figure">{{ Math.round(t) }}</span></li></ol>
          <span class="soft">{{ rung.isLearned ? "Learned: at the song's tempo and a little above." : `${rung.clean} of ${stage.run} clean loops` }}</span>
        </div>
        <div class="line acts">
          <button class="plain big" @click="playback.isPlaying ? playback.pause() : play()"><i :class="playback.isPlaying ? 'pi pi-pause' : 'pi pi-play'" /> {{ playback.isPlaying ? "Stop" : "Play the stage" }} <KeyCap scope="practice" action="hear" /></button>
          <span class="grow" />
          <button class="plain big" @click="judged('relaxed')">Relaxed <KeyCap scope="practice" action="relaxed" /></button>
          <button class="plain big" @click="judged('tense')">Right, but tense <KeyCap scope="practice" action="tense" /></button>
          <button class="plain big" @click="judged('not yet')">Not yet <KeyCap scope="practice" action="notYet" /></button>
        </div>
        <p class="soft">Three relaxed loops go up a step, trouble goes down one. Half an hour at most without a break; stop when it hurts, and protect your ears: a teacher, a physician or a hearing professional knows more than this page.</p>
      </template>
    </section>
  </div>
</template>

<style scoped>
.practice { height: 100%; overflow: auto; padding: 0.6rem 0.8rem; display: grid; grid-template-columns: 19rem minmax(0, 1fr); gap: 0.7rem; align-items: start; }
.card { padding: 0.7rem 0.9rem; display: grid; gap: 0.6rem; align-content: start; }
label { display: grid; gap: 0.15rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.number { width: 4.5rem; }
ol { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.25rem; }
.stage { width: 100%; text-align: left; display: grid; grid-template-columns: 1.4rem 1fr auto; gap: 0.4rem; }
.stage.on .soft { color: inherit; }
.bars { display: grid; grid-template-columns: repeat(auto-fit, minmax(min(100%, 24rem), 1fr)); gap: 0.3rem 0.8rem; }
.bar { width: 100%; height: auto; pointer-events: none; }
.ladder { display: flex; gap: 1.2rem; align-items: center; flex-wrap: wrap; }
.tempo { font-size: 2.6rem; font-weight: 700; line-height: 1; }
.tempo small { font-size: 1rem; font-weight: 400; }
.rungs { display: flex; gap: 3px; align-items: end; }
.rungs li { padding: 0.15rem 0.45rem; border: 1px solid var(--line-strong); border-radius: 5px; }
.rungs li.done { background: var(--well); color: var(--ink-faint); }
.rungs li.now { background: var(--ink); color: var(--paper); font-weight: 700; }
.big { padding: 0.5rem 0.9rem; }
.grow { flex: 1; }
.wrong { color: var(--warn); }
@media (max-width: 900px) { .practice { grid-template-columns: 1fr; } }
</style>
