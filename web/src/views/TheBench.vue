<script setup lang="ts">
/** Bench: what exactly is played in this bar, by which limb, how loud, how sure. */
import { useElementSize } from "@vueuse/core";
import { computed, nextTick, onMounted, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import PartTray from "@/desk/PartTray.vue";
import StrokeCard from "@/desk/StrokeCard.vue";
import WaveForm from "@/desk/WaveForm.vue";
import { useStrokeKeys } from "@/desk/strokeKeys";
import { useWriting } from "@/desk/writing";
import { phraseRows } from "@/spine/layout";
import SpineBar from "@/spine/SpineBar.vue";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const route = useRoute();
const router = useRouter();
const frame = ref<HTMLElement | null>(null);
const { width, height } = useElementSize(frame);
const perView = ref(1);

const bar = computed(() => {
  const asked = Number(route.query.bar);
  const fallback = desk.clock!.barAt(playback.now) || 1;
  return Math.min(Math.max(1, asked || fallback), desk.clock!.bars);
});
const writing = useWriting(bar);
const bars = computed(() =>
  Array.from({ length: perView.value }, (_, i) => bar.value + i).filter((b) => b <= desk.clock!.bars),
);
const barWidth = computed(() => width.value / perView.value);
const section = computed(() => desk.score!.sections.find((s) => s.first_bar <= bar.value && bar.value < s.first_bar + s.bars));
const neighbours = computed(() => {
  const s = section.value;
  return s ? phraseRows(s.first_bar, s.bars).find((r) => r.includes(bar.value)) ?? [] : [];
});
const onsets = computed(() =>
  bars.value.flatMap((b) => desk.byBar.get(b) ?? []).filter((s) => s.time !== null).map((s) => ({ time: s.time!, limb: s.limb })),
);

function go(to: number): void {
  const next = Math.min(Math.max(1, to), desk.clock!.bars);
  void router.replace({ query: { bar: next } });
  writing.leave();
  if (!playback.isPlaying) playback.seek(desk.clock!.barStart(next));
}
watch(
  () => desk.clock!.barAt(playback.now),
  (sounding) => {
    if (playback.isPlaying && !playback.loop && sounding > 0 && !bars.value.includes(sounding)) {
      void router.replace({ query: { bar: sounding } });
    }
  },
);
const isConfirmed = computed(() => desk.score!.confirmed.includes(bar.value));
function confirm(): void {
  desk.edit("confirm_bars", { bar: bar.value, last: bar.value, confirmed: !isConfirmed.value });
}
useStrokeKeys(writing, { bar, go, confirm });
onMounted(() => {
  if (!playback.isPlaying && desk.clock!.barAt(playback.now) !== bar.value) {
    playback.seek(desk.clock!.barStart(bar.value));
  }
});
watch(bar, () => nextTick(() => document.querySelector(".strip .on")?.scrollIntoView({ block: "nearest" })));
</script>

<template>
  <div class="bench">
    <div class="strip">
      <button class="plain" aria-label="Bar before" @click="go(bar - 1)"><i class="pi pi-angle-left" /></button>
      <div class="what"><strong>Bar {{ bar }}</strong><span class="soft">{{ section?.name }}</span></div>
      <button class="plain" aria-label="Next bar" @click="go(bar + 1)"><i class="pi pi-angle-right" /></button>
      <button v-for="b in neighbours" :key="b" :class="['thumb', { on: bars.includes(b) }]" :aria-label="`Bar ${b}`" @click="go(b)">
        <SpineThumb :bar="b" :strokes="desk.byBar.get(b) ?? []" :clock="desk.clock!" :different="null" />
      </button>
      <button :class="['plain', { on: isConfirmed }]" :aria-pressed="isConfirmed" @click="confirm"><i class="pi pi-check" /> {{ isConfirmed ? "Confirmed" : "Is right" }} <span class="key">=</span></button>
      <span class="grow" />
      <div class="group" role="group" aria-label="Bars side by side">
        <button v-for="n in [1, 2]" :key="n" :class="['plain', { on: perView === n }]" @click="perView = n">{{ n === 1 ? "1 bar" : "2 bars" }}</button>
      </div>
      <div class="group" role="group" aria-label="Grid">
        <button v-for="g in writing.GRIDS" :key="g.parts" :class="['plain', { on: writing.grid.value === g.parts }]" :title="`${g.label} (${g.key})`" @click="writing.grid.value = g.parts">{{ g.label }}</button>
      </div>
    </div>
    <div class="work">
      <div class="limbs" aria-hidden="true"><span class="RH">RH</span><span class="LH">LH</span><span class="mid" /><span class="RF">RF</span><span class="LF">LF</span></div>
      <div ref="frame" class="spines">
        <SpineBar
          v-for="b in bars"
          :key="b"
          :bar="b"
          :strokes="desk.byBar.get(b) ?? []"
          :clock="desk.clock!"
          :width="barWidth"
          :height="Math.max(260, height)"
          :grid="writing.grid.value"
          :selected="writing.selected.value"
          :cursor="b === bar ? writing.cursor.value : null"
          :playing="desk.clock!.barAt(playback.now) === b ? desk.clock!.within(b, playback.now) : null"
          @pick="(s, e) => writing.grab(s, e, barWidth, desk.clock!.meters[b - 1]!.beats)"
          @place="(limb, at) => writing.click(b, limb, at)"
        />
      </div>
    </div>
    <div class="waves">
      <WaveForm v-for="b in bars" :key="b" :from="desk.clock!.barStart(b)" :to="desk.clock!.barEnd(b)" :now="playback.now" :height="76" :inset="26" :strokes="onsets" @seek="playback.seek" />
    </div>
    <div class="tools">
      <PartTray :current="writing.part.value" @choose="writing.takePart" />
      <StrokeCard :stroke="writing.stroke.value" :clock="desk.clock!" @edit="desk.edit" @remove="writing.remove()" />
    </div>
  </div>
</template>

<style scoped>
.bench { height: 100%; display: grid; grid-template-rows: auto 1fr auto auto; min-height: 590px; }
.strip { display: flex; align-items: center; gap: 0.5rem; padding: 0.45rem 0.8rem; }
.what { display: flex; flex-direction: column; line-height: 1.1; min-width: 5.5rem; text-align: center; }
.thumb { width: 92px; height: 40px; padding: 1px; border: 1px solid var(--line-strong); border-radius: 6px; background: var(--sheet); cursor: pointer; }
.thumb.on { border: 2px solid var(--ink); }
.grow { flex: 1; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.work { display: grid; grid-template-columns: 44px 1fr; min-height: 0; background: var(--sheet); border-block: 1px solid var(--line); }
.limbs { display: grid; grid-template-rows: 1fr 1fr 8.5% 1fr 1fr; align-items: center; justify-items: center; font-weight: 700; background: var(--well); }
.limbs .RH { color: var(--rh); } .limbs .LH { color: var(--lh); } .limbs .RF { color: var(--rf); } .limbs .LF { color: var(--lf); }
.spines { display: flex; min-width: 0; min-height: 0; overflow: hidden; }
.waves { margin-left: 44px; border-bottom: 1px solid var(--line); display: grid; grid-auto-flow: column; grid-auto-columns: 1fr; }
.tools { display: grid; grid-template-columns: 1fr 22rem; gap: 1rem; padding: 0.5rem 0.8rem; align-items: start; }
</style>
