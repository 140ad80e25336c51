<script setup lang="ts">
/** The bar as count text: shown, copied, typed or pasted; errors point at the character. */
import KeyCap from "@/keys/KeyCap.vue";
import { useKeys } from "@/keys/useKeys";
import { nextTick, onBeforeUnmount, ref, watch } from "vue";
import { brought, of, server } from "@/api/client";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { freshId } from "./clipboard";

const props = defineProps<{ bar: number; bars: number }>();
const desk = useSong();
const playback = usePlayback();
const text = ref("");
const shown = ref("");
const complaint = ref("");
const isCopied = ref(false);
const isTyped = ref(false);
const field = ref<HTMLTextAreaElement | null>(null);

async function fetchText(): Promise<void> {
  const last = props.bar + props.bars - 1;
  const asked = [props.bar, last];
  const found = await brought(
    server.GET("/api/songs/{id}/transcription/text", { params: { ...of(desk.id), query: { first: props.bar, last } } }),
  ).catch(() => null);
  if (!found || asked[0] !== props.bar) return;
  if (!isTyped.value) text.value = found.text; // what is being typed stays
  shown.value = found.text;
}
watch(
  () => [props.bar, props.bars],
  () => {
    text.value = shown.value = complaint.value = "";
    isTyped.value = false;
    void fetchText();
  },
  { immediate: true },
);
watch(() => desk.state, () => void fetchText());

async function write(): Promise<void> {
  complaint.value = "";
  const wrong = await desk.tryEdit({ operation: "write_bars", bar: props.bar, bars: props.bars, text: text.value, new: freshId() });
  if (!wrong) {
    isTyped.value = false;
    await fetchText();
    return;
  }
  complaint.value = wrong;
  point(wrong);
}
/** What the band plays in the bar becomes its cue lane. */
async function takeCue(): Promise<void> {
  complaint.value = "";
  try {
    const found = await brought(
      server.GET("/api/songs/{id}/transcription/band", { params: { ...of(desk.id), query: { bar: props.bar } } }),
    );
    if (found.text) desk.edit({ operation: "set_cue", bar: props.bar, text: found.text });
    else complaint.value = "Beside the drums nothing begins in this bar.";
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
/** The band's rhythm tapped along: each press of t, or of the button, is a note of the cue. */
const taps = ref<number[] | null>(null);
function startTaps(): void {
  taps.value = [];
  playback.play(desk.clock!.barStart(props.bar));
}
function tap(event: Event): void {
  if (taps.value && playback.isPlaying) taps.value = [...taps.value, +playback.moment(event).toFixed(4)];
}
function endTaps(isKept: boolean): void {
  playback.pause();
  if (isKept && taps.value?.length) desk.edit({ operation: "tap_cue", moments: taps.value });
  taps.value = null;
}
useKeys(
  "tapping",
  { tap: (e) => void (e.repeat || tap(e)), take: () => endTaps(true), drop: () => endTaps(false) },
  { isOn: () => taps.value !== null, whereTyped: true },
);
useKeys("text", { write: () => void write() }, { isOn: () => document.activeElement === field.value, whereTyped: true });
onBeforeUnmount(() => taps.value && endTaps(false));

/** Puts the caret on the character that a complaint names. */
function point(said: string): void {
  const at = /Line (\d+), column (\d+)/.exec(said);
  if (!at || !field.value) return;
  const lines = text.value.split("\n");
  const start = lines.slice(0, Number(at[1]) - 1).reduce((n, l) => n + l.length + 1, 0) + Number(at[2]) - 1;
  const word = /^\S+/.exec(text.value.slice(start))?.[0].length ?? 1;
  void nextTick(() => {
    field.value!.focus();
    field.value!.setSelectionRange(start, start + word);
  });
}
async function copy(): Promise<void> {
  await navigator.clipboard?.writeText(text.value).catch(() => {});
  isCopied.value = true;
  setTimeout(() => (isCopied.value = false), 1500);
}
defineExpose({ focus: () => field.value?.focus() });
</script>

<template>
  <section class="count">
    <label for="count-text">{{ bars > 1 ? `Bars ${bar} to ${bar + bars - 1}` : `Bar ${bar}` }} as count text</label>
    <textarea id="count-text" ref="field" v-model="text" rows="9" spellcheck="false" wrap="off" @input="isTyped = true" :aria-invalid="!!complaint" aria-describedby="count-says" placeholder="hat: 8ths&#10;snare: 2.> (2a) 4.>&#10;kick: 1 3" @keydown.esc="field?.blur()" />
    <p id="count-says" :class="['says', { wrong: complaint }]" role="status">{{ complaint || "cue: \"horns\" 1 2& · 2 beat · 2& 8th · 2e 2a 16ths · 2t 2l triplets · 2:5/6 · (2e) ghost · .> accent · .o open · .f flam" }}</p>
    <div class="line">
      <button class="plain" :disabled="text === shown" @click="write">Write {{ bars > 1 ? "the bars" : "the bar" }} <KeyCap scope="text" action="write" /></button>
      <button v-if="bars === 1" class="plain" title="The rhythm of the rest of the band becomes the bar's cue" @click="takeCue">Cue from the band</button>
      <button v-if="bars === 1 && !taps" class="plain" title="Tap another instrument's rhythm along with the recording" @click="startTaps">Tap a cue</button>
      <template v-if="taps">
        <button class="plain on" @pointerdown.prevent="tap">Tap <KeyCap scope="tapping" action="tap" /> {{ taps.length }}</button>
        <button class="plain" @click="endTaps(true)">Take it <KeyCap scope="tapping" action="take" /></button>
      </template>
      <button class="plain" @click="copy"><i :class="isCopied ? 'pi pi-check' : 'pi pi-copy'" /> {{ isCopied ? "Copied" : "Copy" }}</button>
    </div>
  </section>
</template>

<style scoped>
.count { display: grid; gap: 0.5rem; }
textarea { font: 14px/1.5 ui-monospace, "DejaVu Sans Mono", monospace; width: 100%; resize: vertical; border: 1px solid var(--line-strong); border-radius: 8px; padding: 0.5rem; background: var(--paper); color: var(--ink); }
textarea[aria-invalid="true"] { border-color: var(--warn); }
.says { font-size: 0.88rem; color: var(--ink-soft); }
.wrong { color: var(--warn); font-weight: 700; }
.line { display: flex; gap: 0.5rem; flex-wrap: wrap; }
</style>
