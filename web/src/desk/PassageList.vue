<script setup lang="ts">
/** The song in a handful of passages: what to learn of it first, and how much of it each tells. */
import { useRouter } from "vue-router";
import type { Schemas } from "@/api/client";
import { clockText } from "@/score/time";
import SpineThumb from "@/spine/SpineThumb.vue";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

defineProps<{ passages: Schemas["Passage"][] }>();
const desk = useSong();
const playback = usePlayback();
const router = useRouter();

const last = (p: Schemas["Passage"]) => p.bar + p.bars - 1;
const told = (own: Schemas["Passage"][], n: number) => Math.round(100 * own.slice(0, n + 1).reduce((sum, p) => sum + p.share, 0));
function play(p: Schemas["Passage"]): void {
  const from = desk.clock!.barStart(p.bar);
  playback.loop = [from, desk.clock!.barEnd(last(p))];
  playback.play(from);
}
</script>

<template>
  <ol class="passages" aria-label="Passages that tell the song">
    <li v-for="(p, n) in passages" :key="p.bar" class="card">
      <strong class="number">{{ n + 1 }}</strong>
      <span class="thumbs"><SpineThumb v-for="k in p.bars" :key="k" :bar="p.bar + k - 1" :strokes="desk.byBar.get(p.bar + k - 1) ?? []" :clock="desk.clock!" /></span>
      <div class="tell">
        <strong>{{ p.bars > 1 ? `Bars ${p.bar}–${last(p)}` : `Bar ${p.bar}` }}, {{ clockText(desk.clock!.barStart(p.bar)) }}</strong>
        <span class="soft">{{ p.says }}</span>
        <span class="acts">
          <button class="plain tiny" :aria-label="`Play passage ${n + 1}`" @click="play(p)"><i class="pi pi-sync" /> Loop it</button>
          <button class="plain tiny" @click="router.push({ name: 'bench', query: { bar: p.bar } })">To the Bench</button>
        </span>
      </div>
      <span class="share" :title="`It tells ${Math.round(p.share * 100)} % of the bars; with those before it ${told(passages, n)} %`"><span class="figure">{{ Math.round(p.share * 100) }} %</span><i><b :style="{ width: `${told(passages, n)}%` }" /><u :style="{ width: `${p.share * 100}%`, left: `${told(passages, n) - p.share * 100}%` }" /></i><span class="soft figure">in all {{ told(passages, n) }} %</span></span>
    </li>
  </ol>
</template>

<style scoped>
.passages { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.5rem; }
li { display: grid; grid-template-columns: 2rem minmax(9rem, 16rem) minmax(0, 1fr) 11rem; gap: 0.9rem; align-items: center; padding: 0.5rem 0.8rem; }
.number { font-size: 1.3rem; text-align: center; }
.thumbs { display: grid; grid-auto-flow: column; grid-auto-columns: minmax(0, 1fr); gap: 3px; height: 52px; }
.tell { display: grid; gap: 0.15rem; }
.acts { display: flex; gap: 0.35rem; }
.tiny { padding: 0.05rem 0.5rem; }
.share { display: grid; gap: 0.15rem; text-align: right; }
.share i { position: relative; height: 10px; border-radius: 5px; background: var(--line); overflow: hidden; }
.share b, .share u { position: absolute; top: 0; bottom: 0; left: 0; background: color-mix(in srgb, var(--rh) 35%, transparent); }
.share u { background: var(--rh); }
@media (max-width: 900px) { li { grid-template-columns: 2rem 1fr; } }
</style>
