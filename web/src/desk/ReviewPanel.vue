<script setup lang="ts">
/** The review queue: what is asked now, its evidence, the keys that answer it. */
import KeyCap from "@/keys/KeyCap.vue";
import { computed, onMounted } from "vue";
import { part } from "@/kit";
import { useSong } from "@/stores/song";
import type { Reviewing } from "./reviewing";

const props = defineProps<{ review: Reviewing }>();
const desk = useSong();
const r = props.review;
const states = computed(() => {
  const all = desk.shown?.form.states ?? [];
  return { all: all.length, confirmed: all.filter((s) => s === "confirmed").length, review: all.filter((s) => s === "review").length };
});
const RIGHT: Record<string, string> = {
  sound: "It is what it is called",
  perhaps: "It is played: write it",
  missing: "Right: nothing is there", echo: "No echo: all were played", hands: "All were played: keep them",
};
const WRONG: Record<string, string> = { sound: "It is not a drum", perhaps: "Nothing is there" };
const LEFT_OUT: Record<string, string> = { echo: "An echo: leave them out", hands: "Layered: leave it out" };
const time = computed(() => (r.minutes.value < 1.5 ? "about a minute" : `about ${Math.round(r.minutes.value)} minutes`));
onMounted(() => void r.fetchQueue());
</script>

<template>
  <section class="review">
    <p v-if="r.left.value" class="left"><strong class="figure">{{ r.left.value }} left</strong>, {{ time }}</p>
    <p v-else><strong>Nothing is in doubt.</strong></p>
    <div class="meter" role="img" :aria-label="`${states.confirmed} of ${states.all} bars confirmed, ${states.review} in review`">
      <i class="confirmed" :style="{ flex: states.confirmed }" /><i class="touched" :style="{ flex: states.review }" /><i :style="{ flex: states.all - states.confirmed - states.review }" />
    </div>
    <p class="soft figure">{{ states.confirmed }} bars confirmed, {{ states.review }} in review, {{ states.all - states.confirmed - states.review }} as heard</p>
    <button v-if="!r.isOn.value && r.left.value" class="plain go" @click="r.start()"><i class="pi pi-play" /> Begin with what settles most</button>
    <template v-if="r.isOn.value && r.doubt.value">
      <p class="ask"><strong>{{ r.doubt.value.says }}</strong></p>
      <p v-if="r.doubt.value.kind === 'sound'" class="soft">Five of them are played out of the record; one answer names all. <button class="plain" @click="r.nextBar(0)"><i class="pi pi-play" /> Again</button> <KeyCap scope="review" action="occurrence" :which="1" /></p>
      <p v-else-if="r.doubt.value.bars.length > 1" class="soft figure">Heard now: bar {{ r.doubt.value.bars[r.at.value] }}, {{ r.at.value + 1 }} of {{ r.doubt.value.bars.length }}. One answer settles all. <KeyCap scope="review" action="occurrence" :which="0" /> <KeyCap scope="review" action="occurrence" :which="1" /></p>
      <div class="answers">
        <button class="plain" @click="r.right()"><KeyCap scope="review" action="right" /> {{ RIGHT[r.doubt.value.kind] ?? "Right" }}</button>
        <button class="plain" @click="r.wrong()"><KeyCap scope="review" action="wrong" /> {{ r.doubt.value.kind === "missing" ? `Wrong: write the ${part(r.doubt.value.part).label.toLowerCase()}` : (WRONG[r.doubt.value.kind] ?? "Wrong: take it away") }}</button>
        <p v-if="r.doubt.value.kind === 'sound'" class="soft"><span class="key">a part's letter</span> it is that part</p>
        <button v-if="r.doubt.value.can_split" class="plain" @click="r.split()"><KeyCap scope="review" action="split" /> Two sounds: split it</button>
        <template v-if="r.doubt.value.strokes.length">
          <p class="soft"><span class="key">a part's letter</span> it is that part</p>
          <button class="plain" @click="r.leaveOut()"><KeyCap scope="review" action="leaveOut" /> {{ LEFT_OUT[r.doubt.value.kind] ?? "There, but left out" }}</button>
          <button class="plain" @click="r.keepDoubtful()"><KeyCap scope="review" action="assume" /> Can't be told: assumed</button>
        </template>
        <button class="plain" @click="r.skip()"><KeyCap scope="review" action="skip" /> Later</button>
        <button class="plain" @click="r.stop()"><KeyCap scope="review" action="stop" /> Stop here</button>
      </div>
    </template>
    <ol v-else-if="r.left.value" class="soft">
      <li v-for="d in r.open.value.slice(0, 6)" :key="d.key">{{ d.says }}</li>
    </ol>
  </section>
</template>

<style scoped>
.review { display: grid; gap: 0.55rem; align-content: start; }
.left { font-size: 1.05rem; }
.meter { display: flex; height: 10px; border-radius: 5px; overflow: hidden; background: var(--well); }
.meter .confirmed { background: var(--rh); }
.meter .touched { background: color-mix(in srgb, var(--rh) 45%, var(--well)); }
.go { justify-self: start; }
.ask { background: var(--warn-well); border-radius: 8px; padding: 0.55rem 0.7rem; }
.answers { display: grid; gap: 0.35rem; justify-items: start; }
.answers .plain { padding: 0.3rem 0.6rem; }
ol { margin: 0; padding-left: 1.2rem; display: grid; gap: 0.35rem; font-size: 0.92rem; }
</style>
