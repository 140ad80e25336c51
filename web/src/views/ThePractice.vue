<script setup lang="ts">
/** Practice room: a passage as stages up the tempo ladder, played in and judged; a listening game; my practice. */
import { computed, onUnmounted, ref, shallowRef, watch } from "vue";
import { useRoute } from "vue-router";
import { useLocalStorage } from "@vueuse/core";
import { brought, inArrangement, of, server, type Schemas, type Stroke } from "@/api/client";
import { taught, partOfPad, listenToPads } from "@/audio/pads";
import TypedField from "@/controls/TypedField.vue";
import { LIMBS, ORDERS, part } from "@/kit";
import KeyCap from "@/keys/KeyCap.vue";
import { useKeys } from "@/keys/useKeys";
import MyPractice from "@/practice/MyPractice.vue";
import PlayerLinks from "@/practice/PlayerLinks.vue";
import RhythmWords from "@/practice/RhythmWords.vue";
import SongBySections from "@/practice/SongBySections.vue";
import StageClips from "@/practice/StageClips.vue";
import StageLadder from "@/practice/StageLadder.vue";
import StageNotes from "@/practice/StageNotes.vue";
import PlayedStrip from "@/practice/PlayedStrip.vue";
import TapTest from "@/practice/TapTest.vue";
import WhichWasIt from "@/practice/WhichWasIt.vue";
import { exact } from "@/practice/ladder";
import { loopBeats } from "@/practice/loopTime";
import { usePlayIn } from "@/practice/playIn";
import SpineBar from "@/spine/SpineBar.vue";
import { useFinding } from "@/stores/finding";
import { CLICKS, usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

type Stage = Schemas["Stages"]["stages"][number];
type Rung = Schemas["Rung"];
const desk = useSong();
const playback = usePlayback();
const route = useRoute();
const ROOMS = [["stages", "Stages"], ["which", "Which was it?"], ["mine", "My practice"], ["players", "Players"]] as const;
type School = Schemas["Stages"]["order"];
const MOST = 32;
const room = ref<(typeof ROOMS)[number][0]>("stages");
const asked = (name: string, otherwise: number) => Number(route.query[name]) || otherwise;
const schoolOf = (name: unknown): School | null => (String(name) in ORDERS ? (String(name) as School) : null);
const school = ref<School>(schoolOf(route.query.order) ?? "computed");
const first = ref(asked("first", 1));
const last = ref(asked("last", Math.max(2, first.value)));
const at = ref(0);
const clock = computed(() => desk.clock!);
const bars = computed(() => Array.from({ length: last.value - first.value + 1 }, (_, k) => first.value + k));
const edited = ref(0);
const found = useFinding(
  (id) => server.GET("/api/songs/{id}/stages", { params: { ...of(id), query: { first: first.value, last: last.value, order: school.value } } }),
  () => `${first.value} ${last.value} ${school.value} ${edited.value}`,
);
const plan = computed(() => found.value.value);
const stage = computed<Stage | null>(() => plan.value?.stages[Math.min(at.value, plan.value.stages.length - 1)] ?? null);
watch([first, last, school], () => (at.value = 0));
watch(() => route.query, (q) => {
  if (!q.first) return;
  room.value = "stages";
  span(Number(q.first), Number(q.last));
  school.value = schoolOf(q.order) ?? school.value;
});

/** The ways to choose a section: its first two bars that are played, or all of it; both say which bars. */
const sections = computed(() => desk.score!.sections.flatMap((s) => {
  const end = s.first_bar + s.bars - 1;
  let from = s.first_bar;
  while (from < end && !desk.byBar.get(from)?.length) from++;
  const two = [from, Math.min(from + 1, end)] as const;
  const all = [s.first_bar, Math.min(end, s.first_bar + MOST - 1)] as const;
  const name = ([a, b]: readonly [number, number], which: string) => ({ key: `${a} ${b}`, says: `${s.name}, ${which}${b > a ? `bars ${a}–${b}` : `bar ${a}`}` });
  return two[0] === all[0] && two[1] === all[1] ? [name(all, "")] : [name(two, "its groove: "), name(all, "all of it: ")];
}));
const spanKey = computed(() => `${first.value} ${last.value}`);
function choose(key: string): void {
  const [from, to] = key.split(" ").map(Number);
  if (from) span(from, to!);
}
function span(from: number, to: number): void {
  first.value = Math.min(Math.max(1, Math.round(from) || 1), clock.value.bars);
  last.value = Math.min(Math.max(first.value, Math.round(to) || first.value), first.value + MOST - 1, clock.value.bars);
}

/** Where each stage's ladder stands: as the log had it, and what was judged since. */
const climbed = shallowRef<Record<string, Rung>>({});
watch(plan, () => (climbed.value = {}));
const rungOf = (s: Stage): Rung => climbed.value[s.title] ?? s.rung;
const rung = computed(() => (stage.value ? rungOf(stage.value) : null));
const share = computed(() => (rung.value && plan.value ? Math.min(1.2, rung.value.tempo / plan.value.tempo) : 1));
const calm = ref<string[]>([]);
const complaint = ref("");
let since = 0; // milliseconds at which what is judged next began

/** A loop, or some, judged by the player or by what was played in; the core moves the ladder. */
let queue = Promise.resolve();
function judged(judgement: "relaxed" | "tense" | "not yet", seconds?: number, beside: Schemas["LoopRequest"]["beside"] = ""): void {
  const s = stage.value;
  if (!s || !plan.value) return;
  const lasted = seconds ?? Math.min(600, since ? (performance.now() - since) / 1000 : 0);
  since = playback.isPlaying ? performance.now() : 0;
  const body = { first: first.value, last: last.value, order: school.value, stage: plan.value.stages.indexOf(s), judgement, seconds: lasted, tempo: rungOf(s).tempo, note: "", beside };
  queue = queue.then(async () => {
    try {
      const told = await brought(server.POST("/api/songs/{id}/loops", { params: of(desk.id), body }));
      climbed.value = { ...climbed.value, [s.title]: told.rung };
      if (beside) passed.value = { ...passed.value, [s.title]: [...checksOf(s), beside] };
      calm.value = told.says;
      complaint.value = "";
    } catch (problem) {
      complaint.value = (problem as Error).message;
    }
  });
}

/** What was done beside a learned stage, and it ran all the same. */
const passed = shallowRef<Record<string, string[]>>({});
watch(plan, () => (passed.value = {}));
const checksOf = (s: Stage): string[] => passed.value[s.title] ?? s.checks;
function ranBeside(beside: string): void {
  if (!checksOf(stage.value!).includes(beside)) judged("relaxed", 0, beside as "count");
}
/** The song as it is played: a section or a join at once. */
function chooseWhole(from: number, to: number): void {
  school.value = "whole";
  span(from, to);
}
const asNotes = useLocalStorage("orchesis.stages", { notes: false }, { mergeDefaults: true });
const stageRoom = ref<HTMLElement | null>(null);
/** The stage alone, as large as the screen: to be read from the stool. */
const large = () => void stageRoom.value?.requestFullscreen?.().catch(() => {});
const sheet = computed(() => inArrangement(`/api/songs/${desk.id}/stages/sheet?first=${first.value}&last=${last.value}&order=${school.value}`));

/** The plan as its teacher wants it: order, what is left out, own words. */
const isEditing = ref(false);
async function keepPlan(stages: Stage[], dropped: string[], words: Record<string, string> = {}): Promise<void> {
  const body = { first: first.value, last: last.value, order: school.value, dropped, stages: stages.map((s) => ({ title: s.title, words: words[s.title] ?? s.words })) };
  try {
    await server.PUT("/api/songs/{id}/stages", { params: of(desk.id), body });
    edited.value++;
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
function moveStage(by: number): void {
  const stages = [...plan.value!.stages];
  const [one] = stages.splice(at.value, 1);
  stages.splice(at.value + by, 0, one!);
  at.value += by;
  void keepPlan(stages, plan.value!.dropped);
}
const dropStage = () => void keepPlan(plan.value!.stages.filter((_, n) => n !== at.value), [...plan.value!.dropped, stage.value!.title]);

/** What of the stage one plays oneself: these limbs fall silent. */
const mine = ref<string[]>([]);
const sounding = computed(() => (stage.value?.strokes as Stroke[] | undefined)?.filter((s) => !mine.value.includes(s.limb)) ?? null);
watch([sounding, room], () => (playback.sketch = room.value === "stages" ? sounding.value : null), { immediate: true });
watch(share, (now) => (playback.speed = exact(now)));
onUnmounted(() => {
  playback.sketch = null;
  playback.speed = 1;
  playback.fades = playback.breathes = false;
  playback.rhyme = [];
});
function play(): void {
  const { start, beats } = loopBeats(clock.value, first.value, last.value, stage.value);
  const [from, to] = [clock.value.seconds(start), clock.value.seconds(start + beats)];
  playback.speed = exact(share.value);
  if (playback.sounding === "recording" && !withSong.value) playback.sounding = "written";
  playback.loop = [from, to];
  since = performance.now();
  playback.play(from);
}
const withSong = ref(false);
watch(withSong, (on) => {
  playback.sounding = on ? "both" : "written";
  playback.drums = on ? "back" : "recorded";
});
const byPlaying = ref(true);
const playIn = usePlayIn(
  () => (stage.value && plan.value && rung.value ? { first: first.value, last: last.value, order: school.value, stage: plan.value.stages.indexOf(stage.value), share: exact(share.value), period: plan.value.period, loop: loopBeats(clock.value, first.value, last.value, stage.value) } : null),
  (told, seconds) => byPlaying.value && judged(told.judgement as "tense", seconds),
);
function turnPlayIn(): void {
  if (playIn.isOn.value) playIn.end();
  else {
    if (playback.sounding === "recording" && !withSong.value) playback.sounding = "written";
    void playIn.start();
  }
}
function judgeFile(event: Event): void {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  input.value = "";
  if (file) void playIn.hear(file);
}
/** The pad that is struck next is taught as this part. */
const teaching = ref<string | null>(null);
let unteach: (() => void) | null = null;
watch(teaching, async (name) => {
  unteach?.();
  unteach = name ? await listenToPads((key) => {
    taught.value = { ...taught.value, [String(key)]: name as Stroke["part"] };
    teaching.value = null;
  }) : null;
});
onUnmounted(() => unteach?.());
const parts = computed(() => [...new Set((stage.value?.strokes ?? []).map((s) => s.part))]);
const padOf = (name: string) => Object.keys(taught.value).find((key) => partOfPad(Number(key)) === name);

const step = (by: number) => (at.value = Math.min(Math.max(0, at.value + by), (plan.value?.stages.length ?? 1) - 1));
useKeys("practice", {
  step: (_, which) => step(which ? 1 : -1),
  hear: () => (playback.isPlaying ? playback.pause() : play()),
  playIn: turnPlayIn,
  relaxed: () => judged("relaxed"),
  tense: () => judged("tense"),
  notYet: () => judged("not yet"),
}, { isOn: () => room.value === "stages" });
/** How far a bar has sounded; null while another one does. */
function playingIn(bar: number): number | null {
  const share = clock.value.within(bar, playback.now);
  return share >= 0 && share <= 1 ? share : null;
}
const ofBar = (bar: number) => (stage.value?.strokes as Stroke[] | undefined)?.filter((s) => s.bar === bar) ?? [];
const SIGNED = (ms: number) => (Math.abs(ms) < 2 ? "on it" : `${Math.abs(Math.round(ms))} ms ${ms > 0 ? "late" : "early"}`);
const result = computed(() => playIn.judged.value);
</script>

<template>
  <div class="practice">
    <nav class="rooms" aria-label="Practice">
      <h1>Practice</h1>
      <button v-for="[key, label] in ROOMS" :key="key" :class="['plain', { on: room === key }]" :aria-pressed="room === key" @click="room = key">{{ label }}</button>
      <p v-for="s in calm" :key="s" class="calm" role="status"><i class="pi pi-info-circle" /> {{ s }}</p>
    </nav>
    <WhichWasIt v-if="room === 'which'" />
    <MyPractice v-else-if="room === 'mine'" />
    <PlayerLinks v-else-if="room === 'players'" :first="first" :last="last" :order="school" />
    <div v-else class="two">
      <section class="card left" aria-label="What is learned">
        <label>Section
          <select class="plain" aria-label="Section" :value="sections.some((s) => s.key === spanKey) ? spanKey : ''" @change="choose(($event.target as HTMLSelectElement).value)">
            <option value="" disabled>{{ last > first ? `bars ${first}–${last}` : `bar ${first}` }}</option>
            <option v-for="s in sections" :key="s.key + s.says" :value="s.key">{{ s.says }}</option>
          </select>
        </label>
        <p class="line">Bars
          <TypedField class="number" type="number" min="1" :max="clock.bars" :value="first" aria-label="First bar" @set="span(Number($event), last)" />
          to
          <TypedField class="number" type="number" min="1" :max="clock.bars" :value="last" aria-label="Last bar" @set="span(first, Number($event))" />
        </p>
        <SongBySections :first="first" :last="last" @chosen="chooseWhole" />
        <label>In which order
          <select v-model="school" class="plain" aria-label="Order of the stages"><option v-for="(label, key) in ORDERS" :key="key" :value="key">{{ label }}</option></select>
        </label>
        <p v-if="plan" class="soft">Hardest: beat {{ plan.hardest[1] }} of bar {{ plan.hardest[0] }}.</p>
        <p v-for="says in plan?.recurs ?? []" :key="says" class="soft">{{ says }}</p>
        <p v-if="plan?.why" class="soft" role="status">{{ plan.why }}</p>
        <ol aria-label="Stages">
          <li v-for="(s, n) in plan?.stages ?? []" :key="s.title">
            <button :class="['plain', 'stage', { on: n === at }]" :aria-current="n === at ? 'step' : undefined" @click="at = n">
              <span class="figure">{{ n + 1 }}</span> {{ s.title }}
              <i v-if="rungOf(s).is_learned" class="pi pi-check" aria-label="learned" />
              <span v-else class="figure soft">{{ Math.round(rungOf(s).tempo) }}</span>
            </button>
          </li>
        </ol>
        <p v-if="plan" class="line">
          <a class="plain" :href="sheet" :download="true"><i class="pi pi-download" aria-hidden="true" /> Sheet</a>
          <button class="plain" :aria-pressed="isEditing" :class="{ on: isEditing }" @click="isEditing = !isEditing">Change the plan</button>
        </p>
        <div v-if="isEditing && stage && plan" class="edit" role="group" aria-label="Change the plan">
          <div class="line"><button class="plain" :disabled="at === 0" @click="moveStage(-1)">Earlier</button><button class="plain" :disabled="at >= plan.stages.length - 1" @click="moveStage(1)">Later</button><button class="plain" :disabled="plan.stages.length < 2" @click="dropStage">Leave out</button></div>
          <label>My words for this stage <TypedField is-tall rows="3" maxlength="1000" :value="stage.words" aria-label="My words for this stage" @set="keepPlan(plan!.stages, plan!.dropped, { [stage!.title]: $event })" /></label>
          <button v-for="t in plan.dropped" :key="t" class="plain" @click="keepPlan(plan!.stages, plan!.dropped.filter((d) => d !== t))"><i class="pi pi-plus" /> {{ t }}</button>
        </div>
        <p class="soft"><KeyCap scope="practice" action="step" :which="0" /> <KeyCap scope="practice" action="step" :which="1" /> stage before, next</p>
      </section>
      <section ref="stageRoom" class="card room" aria-label="The stage">
        <p v-if="found.complaint.value || complaint || playIn.complaint.value" class="wrong" role="alert">{{ found.complaint.value || complaint || playIn.complaint.value }}</p>
        <p v-if="!stage || !rung" class="soft">{{ found.complaint.value ? "" : "Making the stages …" }}</p>
        <template v-else>
          <div class="line">
            <h2>{{ stage.title }} <span class="soft">{{ stage.plays }}</span></h2>
            <span class="grow" />
            <div class="group" role="group" aria-label="How the stage is shown">
              <button :class="['plain', { on: !asNotes.notes }]" :aria-pressed="!asNotes.notes" @click="asNotes = { notes: false }">Spine</button>
              <button :class="['plain', { on: asNotes.notes }]" :aria-pressed="asNotes.notes" @click="asNotes = { notes: true }">Notes</button>
            </div>
            <button class="plain" title="The stage alone, as large as the screen; Esc comes back" @click="large"><i class="pi pi-window-maximize" aria-hidden="true" /> Large</button>
          </div>
          <p v-if="stage.words" class="words">{{ stage.words }}</p>
          <StageClips :clips="stage.clips" :song="desk.id" :where="{ first, last, order: school, stage: stage.title }" :is-editing="isEditing" @changed="edited++" />
          <p>{{ stage.says }} <span class="soft">{{ stage.with_song ? "From here on you can play along with the recording." : "" }}</span></p>
          <StageNotes v-if="asNotes.notes" :song="desk.id" :first="first" :last="last" :order="school" :stage="at" :version="`${desk.state} ${edited}`" />
          <div v-if="!asNotes.notes || result" class="bars">
            <div v-for="b in bars.slice(0, 4)" :key="b">
              <p class="soft figure">bar {{ b }}</p>
              <SpineBar :bar="b" :strokes="ofBar(b)" :clock="clock" :width="560" :height="160" :grid="4" :playing="playingIn(b)" class="bar" />
              <PlayedStrip v-if="result" :bar="b" :judged="result" :clock="clock" :width="560" />
            </div>
          </div>
          <p v-if="bars.length > 4" class="soft">and {{ bars.length - 4 }} more bars</p>
          <RhythmWords :first="first" :last="last" />
          <div v-if="result" class="result" aria-label="What was played in">
            <p role="status" class="advice">{{ result.advice }}</p>
            <p v-if="result.tempo" class="soft">{{ result.tempo }} How late all limbs are together cannot be told from a recording; each is measured against the others.</p>
            <table>
              <thead><tr><th>limb</th><th>where</th><th>spread</th><th>missed</th><th>extra</th><th>level</th></tr></thead>
              <tbody><tr v-for="(x, limb) in result.limbs" :key="limb"><th>{{ limb }}</th><td>{{ SIGNED(x.offset_ms) }}</td><td>{{ Math.round(x.spread_ms) }} ms</td><td>{{ Math.round(100 * x.missed) }} %</td><td>{{ Math.round(100 * x.extra) }} %</td><td>{{ x.level_db > 0 ? "+" : "" }}{{ x.level_db.toFixed(1) }} dB</td></tr></tbody>
            </table>
          </div>
          <StageLadder :stage="stage" :rung="rung" :checks="checksOf(stage)" @ran="ranBeside" />
          <div class="line acts">
            <button class="plain big" @click="playback.isPlaying ? playback.pause() : play()"><i :class="playback.isPlaying ? 'pi pi-pause' : 'pi pi-play'" /> {{ playback.isPlaying ? "Stop" : "Play the stage" }} <KeyCap scope="practice" action="hear" /></button>
            <button :class="['plain', 'big', { on: playIn.isOn.value }]" :aria-pressed="playIn.isOn.value" @click="turnPlayIn"><i class="pi pi-bullseye" /> {{ playIn.isOn.value ? `Listening, loop ${playIn.loopNow.value} of ${playIn.LOOPS}` : "Play it in" }} <KeyCap scope="practice" action="playIn" /></button>
            <span class="grow" />
            <button class="plain big" @click="judged('relaxed')">Relaxed <KeyCap scope="practice" action="relaxed" /></button>
            <button class="plain big" @click="judged('tense')">Right, but tense <KeyCap scope="practice" action="tense" /></button>
            <button class="plain big" @click="judged('not yet')">Not yet <KeyCap scope="practice" action="notYet" /></button>
          </div>
          <div class="how">
            <div class="line" role="group" aria-label="I play myself">I play myself: <button v-for="limb in LIMBS" :key="limb" :class="['plain', { on: mine.includes(limb) }]" :aria-pressed="mine.includes(limb)" @click="mine = mine.includes(limb) ? mine.filter((l) => l !== limb) : [...mine, limb]">{{ limb }}</button></div>
            <div class="line">
              <label>Click <select v-model.number="playback.click" class="plain" aria-label="Click of the stage"><option v-for="(c, n) in CLICKS" :key="n" :value="n" :disabled="c.parts === -2 && !playback.rhyme.length">{{ c.label.toLowerCase() }}</option></select></label>
              <label><input v-model="playback.countsIn" type="checkbox"> count in</label>
              <label><input v-model="playback.fades" type="checkbox"> click rests 4 bars in 8</label>
              <label><input v-model="playback.breathes" type="checkbox"> a bar to breathe</label>
              <label :class="{ soft: !stage.with_song }"><input v-model="withSong" type="checkbox"> with the recording, its drums back</label>
            </div>
            <div class="line">
              <label>Played in by <select v-model="playIn.source.value" class="plain" aria-label="Played in by" :disabled="playIn.isOn.value"><option value="played">me: keys or pads</option><option value="simulated">the simulated kit</option></select></label>
              <label><input v-model="byPlaying" type="checkbox"> the ladder goes by it</label>
              <TapTest v-if="playIn.source.value === 'played'" />
              <label class="plain">{{ playIn.isHearing.value ? `${playIn.isHearing.value} …` : "Judge a recording of mine" }}<input type="file" accept="audio/*,video/*" class="unseen" aria-label="Judge a recording of mine" :disabled="!!playIn.isHearing.value" @change="judgeFile"></label>
            </div>
            <div v-if="playIn.source.value === 'simulated'" class="line faults" role="group" aria-label="Habits of the simulated kit">
              <label>Its <select v-model="playIn.faults.value.limb" class="plain" aria-label="Limb of the simulated kit"><option v-for="limb in LIMBS" :key="limb">{{ limb }}</option></select></label>
              <label>late <input v-model.number="playIn.faults.value.late" class="plain number" type="number" min="-80" max="80" aria-label="Late by"> ms</label>
              <label>uneven <input v-model.number="playIn.faults.value.spread" class="plain number" type="number" min="0" max="60" aria-label="Uneven by"> ms</label>
              <label>misses <input v-model.number="playIn.faults.value.missed" class="plain number" type="number" min="0" max="1" step="0.05" aria-label="Share missed"></label>
              <label>rushes <input v-model.number="playIn.faults.value.rush" class="plain number" type="number" min="-4" max="4" step="0.2" aria-label="Rushes by"> %</label>
              <label>ghosts <input v-model.number="playIn.faults.value.ghosts" class="plain number" type="number" min="-12" max="18" aria-label="Ghosts too loud by"> dB</label>
            </div>
            <details v-else>
              <summary>Teach my pads</summary>
              <p class="line"><button v-for="name in parts" :key="name" :class="['plain', { on: teaching === name }]" @click="teaching = teaching === name ? null : name">{{ part(name).label }}<span class="soft"> {{ teaching === name ? "strike it now" : padOf(name) ? `note ${padOf(name)}` : "as usual" }}</span></button></p>
            </details>
          </div>
          <p class="soft room-says">Three relaxed loops go up a step, trouble goes down one. Half an hour at most without a break; stop when it hurts, and protect your ears: a teacher, a physician or a hearing professional knows more than this page.</p>
        </template>
      </section>
    </div>
  </div>
</template>

<style scoped>
.practice { height: 100%; overflow: auto; padding: 0.6rem 0.8rem; display: grid; gap: 0.6rem; align-content: start; }
.rooms { display: flex; gap: 0.4rem; align-items: center; flex-wrap: wrap; }
.rooms h1 { margin: 0 0.6rem 0 0; }
.two { display: grid; grid-template-columns: 19rem minmax(0, 1fr); gap: 0.7rem; align-items: start; }
.card { padding: 0.7rem 0.9rem; display: grid; grid-template-columns: minmax(0, 1fr); gap: 0.6rem; align-content: start; }
.left select { width: 100%; }
.left label { display: grid; gap: 0.15rem; }
.line { display: flex; gap: 0.5rem 0.8rem; align-items: center; flex-wrap: wrap; margin: 0; }
.line label { display: flex; gap: 0.35rem; align-items: center; }
.number { width: 4.3rem; }
ol { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.25rem; }
.stage { width: 100%; text-align: left; display: grid; grid-template-columns: 1.4rem 1fr auto; gap: 0.4rem; }
.stage.on .soft { color: inherit; }
.bars { display: grid; grid-template-columns: repeat(auto-fit, minmax(min(100%, 24rem), 1fr)); gap: 0.3rem 0.8rem; }
.bar { width: 100%; height: auto; pointer-events: none; }
.result { display: flex; gap: 1rem 1.6rem; flex-wrap: wrap; align-items: center; background: var(--well); border-radius: 8px; padding: 0.5rem 0.8rem; }
.advice { flex: 1 1 16rem; margin: 0; font-size: 1.2rem; font-weight: 600; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
th, td { padding: 0.1rem 0.6rem; text-align: right; }
thead th { font-weight: 400; color: var(--ink-soft); }
.room:fullscreen { background: var(--paper); border: 0; border-radius: 0; overflow: auto; padding: 1.5vh 2vw; align-content: space-between; font-size: 2.4vh; }
.room:fullscreen h2 { font-size: 5vh; }
.room:fullscreen .bars { grid-template-columns: 1fr; gap: 0; }
.room:fullscreen .bar { height: calc(54vh / min(v-bind("Math.min(4, bars.length)"), 4)); }
.room:fullscreen :deep(.tempo) { font-size: 11vh; }
.room:fullscreen :deep(.rhythm), .room:fullscreen .how, .room:fullscreen .room-says, .room:fullscreen .bars p, .room:fullscreen :deep(.climb) { display: none; }
.group { display: flex; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; margin-left: -1px; }
.line h2 { margin: 0; }
.left .line a.plain { text-decoration: none; }
.how { display: grid; gap: 0.5rem; border-top: 1px solid var(--line); padding-top: 0.6rem; }
.big { padding: 0.5rem 0.9rem; }
.grow { flex: 1; }
.unseen { position: absolute; width: 1px; height: 1px; opacity: 0; }
.edit { display: grid; gap: 0.4rem; }
.words { background: var(--well); border-radius: 8px; padding: 0.4rem 0.7rem; margin: 0; white-space: pre-line; }
.calm { margin: 0; background: var(--well); border-radius: 8px; padding: 0.3rem 0.6rem; }
.wrong { color: var(--warn); }
@media (max-width: 900px) { .two { grid-template-columns: 1fr; } }
</style>
