<script setup lang="ts">
/** Kit and hands: who plays, how the part is given to the limbs, how hard it is, and what else
 *  could be played. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";
import { of, server } from "@/api/client";
import ArrangingPanel from "@/desk/ArrangingPanel.vue";
import BarStickings from "@/desk/BarStickings.vue";
import HardPanel from "@/desk/HardPanel.vue";
import KitPlan from "@/desk/KitPlan.vue";
import WhoPlays from "@/desk/WhoPlays.vue";
import { LIMBS, part, type Limb } from "@/kit";
import SpineBar from "@/spine/SpineBar.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const found = useFinding((id) => server.GET("/api/songs/{id}/hands", { params: of(id) }));
const NAMES: Record<Limb, string> = { RH: "Right hand", LH: "Left hand", RF: "Right foot", LF: "Left foot" };
const TABS = [["hard", "How hard"], ["arrange", "Arrange"]] as const;
const tab = ref<"hard" | "arrange">("hard");
const bar = computed(() => Math.min(Math.max(1, desk.clock!.barAt(playback.now)), desk.clock!.bars));
const strokes = computed(() => desk.byBar.get(bar.value) ?? []);
const parts = computed(() => new Set<string>(desk.score!.strokes.map((s) => s.part)));
/** What each limb plays in the bar, its parts with how often. */
const shares = computed(() =>
  LIMBS.map((limb) => {
    const own = strokes.value.filter((s) => s.limb === limb && s.doubt !== "left_out" && s.doubt !== "layer");
    const counts = new Map<string, number>();
    for (const s of own) counts.set(s.part, (counts.get(s.part) ?? 0) + 1);
    return { limb, name: NAMES[limb], text: [...counts].map(([p, n]) => `${part(p).label.toLowerCase()} ${n}`).join(", ") || "rests" };
  }),
);
const go = (at: number) => playback.seek(desk.clock!.barStart(Math.min(Math.max(1, at), desk.clock!.bars)) + 1e-4);
function open(at: number): void {
  go(at);
  void router.push({ name: "bench", query: { bar: at } });
}
const move = (plan: [string, number, number][]) => desk.edit({ operation: "set_player", plan });
</script>

<template>
  <div class="hands">
    <WhoPlays />
    <section class="card plan" aria-label="The kit">
      <p class="line">
        <button class="plain" aria-label="The bar before" :disabled="bar === 1" @click="go(bar - 1)"><i class="pi pi-chevron-left" /></button>
        <strong class="figure">Bar {{ bar }}</strong>
        <button class="plain" aria-label="The next bar" :disabled="bar === desk.clock!.bars" @click="go(bar + 1)"><i class="pi pi-chevron-right" /></button>
        <span class="soft">what sounds is in the colour of its limb; drag a piece to where it stands</span>
      </p>
      <div class="both">
        <KitPlan :strokes="strokes" :clock="desk.clock!" :now="playback.now" :player="desk.score!.player" :parts="parts" @move="move" />
        <dl><template v-for="s in shares" :key="s.limb"><dt :class="s.limb">{{ s.name }}</dt><dd>{{ s.text }}</dd></template></dl>
      </div>
      <SpineBar :bar="bar" :strokes="strokes" :clock="desk.clock!" :width="640" :height="140" :grid="4" :playing="desk.clock!.within(bar, playback.now)" class="bar" />
      <BarStickings :bar="bar" :strokes="strokes" />
    </section>
    <section class="card side" aria-label="How hard, and arranging">
      <div class="group" role="tablist">
        <button v-for="[key, label] in TABS" :key="key" role="tab" :class="['plain', { on: tab === key }]" :aria-selected="tab === key" @click="tab = key">{{ label }}</button>
      </div>
      <template v-if="tab === 'hard'">
        <p v-if="found.complaint.value" class="wrong" role="alert">{{ found.complaint.value }}</p>
        <p v-else-if="!found.value.value" class="soft">Looking …</p>
        <HardPanel v-else :told="found.value.value" :bar="bar" @go="go" @open="open" />
      </template>
      <ArrangingPanel v-else :bar="bar" @go="go" />
    </section>
  </div>
</template>

<style scoped>
.hands { height: 100%; overflow: auto; padding: 0.6rem 0.8rem; display: grid; grid-template-columns: 17.5rem minmax(0, 1fr) 19rem; gap: 0.7rem; align-items: start; }
.card { padding: 0.6rem 0.8rem; display: grid; gap: 0.5rem; align-content: start; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.line .plain { padding: 0.15rem 0.5rem; }
.both { display: grid; grid-template-columns: minmax(0, 1.5fr) minmax(9rem, 1fr); gap: 0.8rem; align-items: center; }
.bar { width: 100%; height: auto; pointer-events: none; }
.group { display: flex; }
.group .plain { flex: 1; border-radius: 0; margin-left: -1px; padding: 0.3rem 0.4rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
dl { display: grid; gap: 0 0.6rem; margin: 0; }
dt { font-weight: 700; }
dd { margin: 0 0 0.25rem; }
.RH { color: var(--rh); } .LH { color: var(--lh); } .RF { color: var(--rf); } .LF { color: var(--lf); }
.wrong { color: var(--warn); }
@media (max-width: 1100px) { .hands { grid-template-columns: 1fr; } }
</style>
