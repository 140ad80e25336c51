<script setup lang="ts">
/** The one transport: the same in every view. */
import Popover from "primevue/popover";
import { computed, ref } from "vue";
import { LAYERS, LIMBS } from "@/kit";
import { row, shown, withKey, type Action } from "@/keys/table";
import { clockText } from "@/score/time";
import { CLICKS, FEELS, SPEEDS, usePlayback, type Sounding } from "@/stores/playback";
import { useShelf } from "@/stores/shelf";
import { useSong } from "@/stores/song";
import { follow } from "./follow";
import { usable } from "./takes";

const playback = usePlayback();
const desk = useSong();
const shelf = useShelf();
const layers = ref<InstanceType<typeof Popover> | null>(null);
const SOUNDS: { key: Sounding; label: string; at: Action<"desk"> }[] = [
  { key: "recording", label: "Recording", at: "recording" },
  { key: "written", label: "Written", at: "written" },
  { key: "both", label: "Both", at: "nextSound" },
  { key: "alternate", label: "In turn", at: "inTurn" },
];
const DRUM_NAMES = { recorded: "Drums as is", forward: "Drums forward", back: "Drums back" };
const bar = computed(() => desk.clock?.barAt(playback.now) ?? 0);
const section = computed(() =>
  desk.score?.sections.find((s) => s.first_bar <= bar.value && bar.value < s.first_bar + s.bars),
);
const others = computed(() => usable(shelf.get(desk.id)?.takes ?? []));
const share = computed(() => playback.now / (desk.shown?.duration || 1));

function loopBar(): void {
  const b = Math.max(1, bar.value);
  if (desk.clock) playback.setLoop(desk.clock.barStart(b), desk.clock.barEnd(b));
}
function loopSection(): void {
  const s = section.value;
  if (s && desk.clock) playback.setLoop(desk.clock.barStart(s.first_bar), desk.clock.barEnd(s.first_bar + s.bars - 1));
}
/** A press on the track goes there, a drag along it; a cancelled touch goes back. */
function slide(event: PointerEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  const before = playback.now;
  const to = (e: PointerEvent) => {
    const share = Math.min(Math.max(0, (e.clientX - box.left) / box.width), 1);
    playback.seek(share * (desk.shown?.duration ?? 0));
  };
  to(event);
  follow(event, { move: to, end: () => {}, cancel: () => playback.seek(before) });
}
function percent(seconds: number): string {
  return `${(seconds / (desk.shown?.duration || 1)) * 100}%`;
}
</script>

<template>
  <footer class="dock" aria-label="Transport">
    <div class="track" role="slider" tabindex="-1" aria-label="Position" :aria-valuenow="Math.round(playback.now)" aria-valuemin="0" :aria-valuemax="Math.round(desk.shown?.duration ?? 0)" @pointerdown="slide">
      <i
        v-for="(s, n) in desk.score?.sections"
        :key="s.id"
        :class="['part', { odd: n % 2 }]"
        :style="{ left: percent(desk.clock!.barStart(s.first_bar)), width: percent(desk.clock!.barEnd(s.first_bar + s.bars - 1) - desk.clock!.barStart(s.first_bar)) }"
      ><span>{{ s.name }}</span></i>
      <i v-if="playback.loop && !playback.isHidden" class="loop" :style="{ left: percent(playback.loop[0]), width: percent(playback.loop[1] - playback.loop[0]) }" />
      <i v-if="!playback.isHidden" class="now" :style="{ left: `${share * 100}%` }" />
    </div>
    <div class="row">
      <button class="go" :aria-label="playback.isPlaying ? 'Pause' : 'Play'" @click="playback.toggle()">
        <i :class="playback.isWaiting ? 'pi pi-spin pi-spinner' : playback.isPlaying ? 'pi pi-pause' : 'pi pi-play'" />
      </button>
      <div class="where figure">
        <strong>{{ playback.isHidden ? "?" : clockText(playback.now) }}</strong>
        <span v-if="playback.isHidden" class="soft">listen</span>
        <span v-else class="soft">{{ bar ? `bar ${bar}` : "before bar 1" }}<template v-if="section">, {{ section.name }}</template></span>
      </div>
      <div class="group" role="group" aria-label="What sounds">
        <button v-for="s in SOUNDS" :key="s.key" :class="['plain', { on: playback.sounding === s.key }]" :aria-pressed="playback.sounding === s.key" :title="withKey(s.label, 'desk', s.at)" @click="playback.sounding = s.key">{{ s.label }}</button>
      </div>
      <button class="plain drums" :class="{ on: playback.drums !== 'recorded' }" :title="withKey('Drums in the recording: as recorded, forward, back', 'desk', 'drums')" @click="playback.turnDrums()">{{ DRUM_NAMES[playback.drums] }}</button>
      <select v-if="others.length" v-model="playback.take" class="plain takes" aria-label="Take that sounds" :title="withKey('Take that sounds', 'desk', 'nextTake')">
        <option :value="null">the recording</option>
        <option v-for="t in others" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select>
      <div class="group" role="group" aria-label="Loop">
        <button :class="['plain', { on: playback.loop }]" :title="withKey('Loop this bar', 'desk', 'loopBar')" @click="loopBar"><i class="pi pi-sync" /> Bar</button>
        <button class="plain" :disabled="!section" @click="loopSection">Section</button>
        <button class="plain" :disabled="!playback.loop" aria-label="No loop" @click="playback.loop = null"><i class="pi pi-times" /></button>
      </div>
      <select v-model.number="playback.speed" class="plain" aria-label="Speed" :title="`Speed (${shown(row('desk', 'slower'))} ${shown(row('desk', 'faster'))})`">
        <option v-for="s in SPEEDS.includes(playback.speed) ? SPEEDS : [playback.speed, ...SPEEDS]" :key="s" :value="s">{{ Math.round(s * 100) }} %</option>
      </select>
      <button class="plain click" :class="{ on: playback.click }" :title="withKey('Click', 'desk', 'click')" @click="playback.nextClick()">{{ CLICKS[playback.click]!.label }}</button>
      <button class="plain" :class="{ on: playback.countsIn }" :aria-pressed="playback.countsIn" :title="withKey('A bar is counted in', 'desk', 'countIn')" @click="playback.countsIn = !playback.countsIn">Count in</button>
      <div class="group" role="group" aria-label="Limbs of the written part">
        <button
          v-for="l in LIMBS"
          :key="l"
          :class="['plain', 'limb', l, { muted: playback.muted.has(l) }]"
          :aria-pressed="!playback.muted.has(l)"
          :title="`${l}: ${playback.muted.has(l) ? 'muted' : 'sounds'} when the written part plays`"
          @click="playback.mute(l)"
        >{{ l }}</button>
      </div>
      <button class="plain" :class="{ on: LAYERS.some((l) => playback.muted.has(l)) }" @click="layers?.toggle($event)">Layers</button>
      <Popover ref="layers">
        <div class="layers">
          <button v-for="l in LAYERS" :key="l" :class="['plain', { muted: playback.muted.has(l) }]" :aria-pressed="!playback.muted.has(l)" @click="playback.mute(l)">
            {{ l.replace("_", " ") }}
          </button>
          <button :class="['plain', { muted: playback.muted.has('cue') }]" :aria-pressed="!playback.muted.has('cue')" @click="playback.mute('cue')">cues</button>
          <button class="plain wide" @click="playback.only(['kick', 'backbeat'])">Only kick and backbeat</button>
          <label class="wide">Written part
            <select v-model="playback.feel" class="plain" aria-label="Feel of the written part">
              <option v-for="f in FEELS" :key="f.key" :value="f.key">{{ f.label }}</option>
            </select>
          </label>
        </div>
      </Popover>
    </div>
  </footer>
</template>

<style scoped>
.dock { background: var(--sheet); border-top: 1px solid var(--line-strong); }
.track { position: relative; height: 20px; background: var(--well); cursor: pointer; overflow: hidden; touch-action: none; }
.track i { position: absolute; top: 0; bottom: 0; font-style: normal; }
.part { border-left: 1px solid var(--line-strong); overflow: hidden; }
.part.odd { background: color-mix(in srgb, var(--ink) 5%, transparent); }
.part span { font-size: 12px; padding-left: 5px; color: var(--ink-soft); white-space: nowrap; }
.loop { background: color-mix(in srgb, var(--focus) 26%, transparent); border-inline: 2px solid var(--focus); }
.now { width: 2px; background: var(--now); }
.row { display: flex; align-items: center; gap: 0.5rem; padding: 0.4rem 0.7rem; flex-wrap: wrap; }
.row .plain { padding: 0.35rem 0.55rem; }
.go { width: 44px; height: 44px; border-radius: 50%; border: 0; background: var(--ink); color: var(--paper); cursor: pointer; }
.where { display: flex; flex-direction: column; width: 8.6rem; line-height: 1.2; white-space: nowrap; overflow: hidden; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.drums { min-width: 6.4rem; }
.takes { max-width: 8rem; }
.click { min-width: 5rem; }
.limb { font-weight: 700; }
.limb.RH { color: var(--rh); } .limb.LH { color: var(--lh); } .limb.RF { color: var(--rf); } .limb.LF { color: var(--lf); }
.muted { text-decoration: line-through; background: var(--well); color: var(--ink-faint) !important; }
.layers { display: grid; grid-template-columns: 1fr 1fr; gap: 5px; }
.wide { grid-column: 1 / -1; }
</style>
