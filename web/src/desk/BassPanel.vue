<script setup lang="ts">
/** The bass of a groove's bars, out of the recording without its drums: how the kick goes with it,
 *  and its rhythm as a cue lane. */
import { computed, ref, shallowRef, watch } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import { placeValue } from "@/score/time";
import { NOTE_NAMES } from "@/kit";
import { useKitOfMine } from "@/stores/kitOfMine";
import { useSong } from "@/stores/song";

const props = defineProps<{ first: number; bars: number }>();
const MOST = 8; // bars that are listened to
const desk = useSong();
const own = useKitOfMine();
const found = shallowRef<Schemas["KickAndBass"] | null>(null);
const complaint = ref("");
const isListening = ref(false);
const isWritten = ref(false);
const last = computed(() => props.first + Math.min(MOST, props.bars) - 1);
watch(() => props.first, () => ([found.value, complaint.value, isWritten.value] = [null, "", false]));

async function listen(): Promise<void> {
  const asked = props.first;
  isListening.value = true;
  complaint.value = "";
  try {
    const told = await brought(server.GET("/api/songs/{id}/bass", { params: { ...of(desk.id), query: { first: asked, last: last.value } } }));
    if (asked === props.first) found.value = told;
  } catch (problem) {
    complaint.value = (problem as Error).message;
  } finally {
    isListening.value = false;
  }
}
function write(): void {
  desk.edit({ operation: "set_cues", cues: found.value!.cues });
  isWritten.value = true;
}
/** The contour: a step a note, bars side by side. */
const WIDTH = 520, HEIGHT = 84;
const contour = computed(() => {
  const notes = found.value?.notes ?? [];
  const [low, high] = [Math.min(...notes.map((n) => n.pitch)), Math.max(...notes.map((n) => n.pitch))];
  const clock = desk.clock!;
  const from = clock.starts[props.first - 1]!;
  const beats = clock.starts[last.value]! - from;
  const x = (beat: number) => (WIDTH * (beat - from)) / beats;
  const kicks = new Set(Array.from({ length: last.value - props.first + 1 }, (_, k) => props.first + k).flatMap((b) => (desk.byBar.get(b) ?? []).filter((s) => s.part === "kick").map((s) => `${b} ${placeValue(s.place)}`)));
  const drawn = notes.map((n, i) => {
    const at = clock.starts[n.bar - 1]! + placeValue(n.place);
    const next = notes[i + 1];
    const end = Math.min(next ? clock.starts[next.bar - 1]! + placeValue(next.place) : from + beats, at + 1.5);
    return { x: x(at), width: Math.max(4, x(end) - x(at) - 2), y: 14 + (HEIGHT - 34) * (1 - (n.pitch - low) / Math.max(1, high - low)), name: n.pitch === notes[i - 1]?.pitch ? "" : NOTE_NAMES[own.read.names][n.pitch % 12], withKick: kicks.has(`${n.bar} ${placeValue(n.place)}`) };
  });
  return { drawn, lines: Array.from({ length: last.value - props.first + 2 }, (_, k) => ({ bar: props.first + k, x: x(clock.starts[props.first - 1 + k]!) })) };
});
</script>

<template>
  <section class="bass">
    <h2>Kick and bass</h2>
    <button v-if="!found" class="plain" :disabled="isListening" @click="listen"><i :class="isListening ? 'pi pi-spin pi-spinner' : 'pi pi-volume-down'" /> {{ isListening ? "Listening …" : `Listen for the bass in bars ${first}–${last}` }}</button>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <template v-if="found">
      <svg v-if="found.notes.length" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" aria-label="The bass line; filled where the kick is with it">
        <g v-for="l in contour.lines" :key="l.bar"><line :x1="l.x" :x2="l.x" y1="0" :y2="HEIGHT - 12" class="bar" /><text v-if="l.bar <= last" :x="l.x + 3" :y="HEIGHT - 1">{{ l.bar }}</text></g>
        <g v-for="(n, k) in contour.drawn" :key="k"><rect :x="n.x" :y="n.y" :width="n.width" height="7" rx="2" :class="{ with: n.withKick }" /><text :x="n.x" :y="n.y - 1.5">{{ n.name }}</text></g>
      </svg>
      <ul class="says"><li v-for="s in found.says" :key="s">{{ s }}</li></ul>
      <button v-if="found.cues.length" class="plain" :disabled="isWritten" @click="write"><i class="pi pi-pencil" /> {{ isWritten ? "Written into the cue lane" : "Its rhythm into the cue lane" }}</button>
    </template>
  </section>
</template>

<style scoped>
.bass { display: grid; gap: 0.35rem; align-content: start; justify-items: start; }
svg { width: 100%; max-width: 520px; }
.bar { stroke: var(--line-strong); }
text { font-size: 10px; fill: var(--ink-soft); }
rect { fill: var(--sheet); stroke: var(--rf); stroke-width: 1.4; }
rect.with { fill: var(--rf); }
.says { margin: 0; padding-left: 1.1rem; display: grid; gap: 0.2rem; }
.wrong { color: var(--warn); }
</style>
