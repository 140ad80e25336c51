<script setup lang="ts">
/** Kit and hands: who plays, how the part is given to the limbs, and what no limb is left for. */
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";
import { of, server } from "@/api/client";
import KitPlan from "@/desk/KitPlan.vue";
import { LIMBS, part, type Limb } from "@/kit";
import SpineBar from "@/spine/SpineBar.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const found = useFinding((id) => server.GET("/api/songs/{id}/hands", { params: of(id) }));

const HANDS = [["right", "Right-handed"], ["left", "Left-handed"]] as const;
const SCHOOLS = [
  ["natural", "Natural", "the hand that would have played that 16th"],
  ["alternating", "Alternating", "hand to hand, whatever the place"],
  ["lead", "Lead hand", "accents and time with the hand that leads"],
  ["fewest", "Fewest moves", "as little way between the drums as can be"],
  ["open", "Open-handed", "the hat by the hand on its side, nothing crosses"],
] as const;
const PEDALS = [[1, "Single pedal"], [2, "Double pedal"]] as const;
type Said = { hand?: "right" | "left"; school?: (typeof SCHOOLS)[number][0]; pedals?: 1 | 2 };
const player = computed(() => desk.score!.player);
const say = (said: Said) => desk.edit({ operation: "set_player", ...said });

const NAMES: Record<Limb, string> = { RH: "Right hand", LH: "Left hand", RF: "Right foot", LF: "Left foot" };
const bar = computed(() => Math.min(Math.max(1, desk.clock!.barAt(playback.now)), desk.clock!.bars));
const strokes = computed(() => desk.byBar.get(bar.value) ?? []);
const parts = computed(() => new Set(desk.score!.strokes.map((s) => s.part)));
/** What each limb plays in the bar, its parts with how often. */
const shares = computed(() =>
  LIMBS.map((limb) => {
    const own = strokes.value.filter((s) => s.limb === limb);
    const parts = new Map<string, number>();
    for (const s of own) parts.set(s.part, (parts.get(s.part) ?? 0) + 1);
    return { limb, name: NAMES[limb], text: [...parts].map(([p, n]) => `${part(p).label.toLowerCase()} ${n}`).join(", ") || "rests" };
  }),
);
const unplayable = computed(() => found.value.value?.unplayable ?? []);
const MOST = 12;
const showsAll = ref(false);
watch(() => desk.id, () => (showsAll.value = false));
const shown = computed(() => (showsAll.value ? unplayable.value : unplayable.value.slice(0, MOST)));
function open(at: number): void {
  playback.seek(desk.clock!.barStart(at));
  void router.push({ name: "bench", query: { bar: at } });
}
</script>

<template>
  <div class="hands">
    <section class="card who" aria-label="Who plays">
      <h1>Who plays</h1>
      <div class="group" role="group" aria-label="The hand that leads">
        <button v-for="[key, label] in HANDS" :key="key" :class="['plain', { on: player.hand === key }]" :aria-pressed="player.hand === key" @click="say({ hand: key })">{{ label }}</button>
      </div>
      <div class="group" role="group" aria-label="Pedals">
        <button v-for="[key, label] in PEDALS" :key="key" :class="['plain', { on: player.pedals === key }]" :aria-pressed="player.pedals === key" @click="say({ pedals: key })">{{ label }}</button>
      </div>
      <h2>School</h2>
      <div class="schools" role="radiogroup" aria-label="School">
        <button v-for="[key, label, says] in SCHOOLS" :key="key" role="radio" :class="['plain', 'school', { on: player.school === key }]" :aria-checked="player.school === key" @click="say({ school: key })"><strong>{{ label }}</strong><span>{{ says }}</span></button>
      </div>
      <p class="soft">{{ found.value.value?.chosen ? `${found.value.value.chosen} limbs were chosen by you and stay; all others` : "All limbs" }} are solved anew at once. On the Bench <span class="key">Tab</span> gives a stroke to the other hand or foot.</p>
    </section>
    <section class="card plan" aria-label="The kit">
      <h2>Bar {{ bar }} <span class="soft">what sounds is in the colour of its limb</span></h2>
      <KitPlan :strokes="strokes" :clock="desk.clock!" :now="playback.now" :is-left="player.hand === 'left'" :parts="parts" />
      <SpineBar :bar="bar" :strokes="strokes" :clock="desk.clock!" :width="560" :height="150" :grid="4" :playing="desk.clock!.within(bar, playback.now)" class="bar" />
      <dl><template v-for="s in shares" :key="s.limb"><dt :class="s.limb">{{ s.name }}</dt><dd>{{ s.text }}</dd></template></dl>
    </section>
    <section class="card cant" aria-label="What can't be played">
      <h2>What can't be played</h2>
      <p v-if="found.complaint.value" class="wrong" role="alert">{{ found.complaint.value }}</p>
      <p v-else-if="!found.value.value" class="soft">Looking …</p>
      <p v-else-if="!unplayable.length">Every stroke has a limb that can play it.</p>
      <template v-else>
        <p class="soft">{{ unplayable.length }} stroke{{ unplayable.length > 1 ? "s" : "" }}: an overdub, a layer of the recording, or heard wrongly.</p>
        <ol>
          <li v-for="u in shown" :key="u.stroke"><button class="plain tiny" @click="open(u.bar)">bar {{ u.bar }}</button> {{ u.says }}</li>
        </ol>
        <button v-if="unplayable.length > MOST" class="plain" @click="showsAll = !showsAll">{{ showsAll ? "Fewer" : `All ${unplayable.length}` }}</button>
      </template>
    </section>
  </div>
</template>

<style scoped>
.hands { height: 100%; overflow: auto; padding: 0.7rem 1rem; display: grid; grid-template-columns: 19rem minmax(0, 1fr) 19rem; gap: 0.8rem; align-items: start; }
.card { padding: 0.7rem 0.9rem; display: grid; gap: 0.55rem; align-content: start; }
.group { display: flex; }
.group .plain { flex: 1; border-radius: 0; margin-left: -1px; padding: 0.35rem 0.5rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.schools { display: grid; gap: 0.3rem; }
.school { display: grid; gap: 0; text-align: left; padding: 0.3rem 0.6rem; line-height: 1.25; }
.school span { font-size: 0.88rem; }
.plan { justify-items: center; }
.plan h2 { justify-self: start; }
.bar { max-width: 100%; pointer-events: none; }
dl { display: grid; grid-template-columns: auto auto; gap: 0.1rem 0.8rem; margin: 0; justify-self: start; }
dt { font-weight: 700; }
dd { margin: 0; }
.RH { color: var(--rh); } .LH { color: var(--lh); } .RF { color: var(--rf); } .LF { color: var(--lf); }
ol { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.35rem; }
.tiny { padding: 0.02rem 0.4rem; }
.wrong { color: var(--warn); }
@media (max-width: 1100px) { .hands { grid-template-columns: 1fr; } }
</style>
