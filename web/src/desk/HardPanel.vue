<script setup lang="ts">
/** How hard the part is, bar by bar and by cause, and what no limb is left for. */
import { computed, ref, watch } from "vue";
import type { Schemas } from "@/api/client";
import { useSong } from "@/stores/song";
import { part, PARTS } from "@/kit";

const props = defineProps<{ told: Schemas["Hands"]; bar: number }>();
const emit = defineEmits<{ go: [bar: number]; open: [bar: number] }>();
const desk = useSong();
const CAUSES = [["speed", "Speed of one limb"], ["independence", "Independence"], ["moves", "Moves"], ["dynamics", "Soft beside loud"], ["changes", "Subdivision"]] as const;
const MOST = 8, WIDTH = 272, HEIGHT = 46;
const showsAll = ref(false);
watch(() => desk.id, () => (showsAll.value = false));
const shown = computed(() => (showsAll.value ? props.told.unplayable : props.told.unplayable.slice(0, MOST)));
const last = computed(() => desk.clock!.bars);
const w = computed(() => WIDTH / last.value);
const SCHOOLS = [["", "as the song"], ["natural", "natural"], ["alternating", "alternating"], ["lead", "lead hand"], ["fewest", "fewest moves"], ["open", "open-handed"]] as const;
const setSchool = (id: string, school: string) => desk.edit({ operation: "set_school", id, school: school as "" });
/** Parts of auxiliary sounds that the song plays: they may be a layer of the recording. */
const sampled = computed(() => PARTS.filter((p) => p.family === "auxiliary" && desk.score!.strokes.some((s) => s.part === p.name)).map((p) => p.name));
const layer = (name: string) => desk.edit({ operation: "set_layer", part: name as "clap", first: 1, last: last.value, is_layer: !props.told.layers.includes(name) });
</script>

<template>
  <section class="hard" aria-label="How hard it is">
    <p><strong class="big figure">{{ told.song.total.toFixed(1) }}</strong> of 10, by {{ told.song.hard_by }} first</p>
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" aria-label="How hard each bar is" @click="emit('go', Math.min(last, 1 + Math.floor((($event as MouseEvent).offsetX / ($event.currentTarget as SVGElement).clientWidth) * last)))">
      <line v-for="y in [0.5, 1]" :key="y" x1="0" :x2="WIDTH" :y1="HEIGHT - y * 44" :y2="HEIGHT - y * 44" class="level" />
      <rect v-for="b in told.bars" :key="b.bar" :x="(b.bar - 1) * w" :y="HEIGHT - b.total * 4.4" :width="Math.max(1, w - 0.6)" :height="b.total * 4.4" :class="{ on: b.bar === bar }"><title>bar {{ b.bar }}: {{ b.total }}</title></rect>
    </svg>
    <dl class="causes">
      <template v-for="[key, label] in CAUSES" :key="key"><dt>{{ label }}</dt><dd><i :style="{ width: `${Math.min(100, told.song.causes[key] * 16)}%` }" /><span class="figure">{{ told.song.causes[key].toFixed(1) }}</span></dd></template>
    </dl>
    <h2>By section</h2>
    <ol>
      <li v-for="s in told.sections" :key="s.id" class="section">
        <button class="plain tiny" :title="`By ${s.hard_by} first`" @click="emit('go', s.first_bar)">{{ s.name }}</button>
        <span class="figure">{{ s.total.toFixed(1) }}</span>
        <select class="plain tiny" :aria-label="`School of ${s.name}`" :value="s.school" @change="setSchool(s.id, ($event.target as HTMLSelectElement).value)">
          <option v-for="[key, label] in SCHOOLS" :key="key" :value="key">{{ label }}</option>
        </select>
      </li>
    </ol>
    <template v-if="sampled.length">
      <h2>Not the drummer's</h2>
      <p class="soft">A sampled shaker, a loop, a machine: it sounds, but nobody plays it.</p>
      <p class="line"><button v-for="name in sampled" :key="name" :class="['plain', { on: told.layers.includes(name) }]" :aria-pressed="told.layers.includes(name)" @click="layer(name)">{{ part(name).label.toLowerCase() }}{{ told.layers.includes(name) ? ": a layer" : "" }}</button></p>
    </template>
    <h2>What can't be played</h2>
    <p v-if="!told.unplayable.length">Every stroke has a limb that can play it.</p>
    <template v-else>
      <p class="soft">{{ told.unplayable.length }} stroke{{ told.unplayable.length > 1 ? "s" : "" }}: an overdub, a layer, a piece you lack, or heard wrongly.</p>
      <ol>
        <li v-for="u in shown" :key="u.stroke + u.reason"><button class="plain tiny" @click="emit('open', u.bar)">bar {{ u.bar }}</button> {{ u.says }}</li>
      </ol>
      <button v-if="told.unplayable.length > MOST" class="plain" @click="showsAll = !showsAll">{{ showsAll ? "Fewer" : `All ${told.unplayable.length}` }}</button>
    </template>
  </section>
</template>

<style scoped>
.hard { display: grid; gap: 0.45rem; align-content: start; }
.big { font-size: 1.5rem; }
svg { width: 100%; cursor: pointer; background: var(--well); border-radius: 6px; }
rect { fill: var(--ink-faint); }
rect.on { fill: var(--now); }
.level { stroke: var(--line); stroke-dasharray: 2 3; }
.causes { display: grid; grid-template-columns: auto 1fr; gap: 0.15rem 0.7rem; margin: 0; }
dd { margin: 0; display: flex; align-items: center; gap: 0.4rem; }
dd i { display: block; height: 0.55rem; min-width: 2px; background: var(--ink-soft); border-radius: 3px; }
ol { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.3rem; }
.section { display: grid; grid-template-columns: 1fr auto auto; gap: 0.5rem; align-items: center; }
.section button { justify-self: start; max-width: 8rem; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.tiny { padding: 0.02rem 0.4rem; }
.line { display: flex; flex-wrap: wrap; gap: 0.3rem; }
</style>
