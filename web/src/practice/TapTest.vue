<script setup lang="ts">
/** How late strokes come in on this device: tap with twelve clicks; the middle of the differences counts. */
import { onScopeDispose, ref } from "vue";
import { listenToPads } from "@/audio/pads";
import { latency } from "./playIn";

const CLICKS = 12, SKIPPED = 3, PERIOD = 0.6, LOST = 0.25;
const isOn = ref(false);
const says = ref("");
let leave: (() => void) | null = null;
let context: AudioContext | null = null;
let offsets: number[] = [];
let start = 0;

function tapped(at: number): void {
  const since = at / 1000 - start;
  const off = since - Math.round(since / PERIOD) * PERIOD;
  if (Math.round(since / PERIOD) >= SKIPPED && Math.abs(off) < LOST) offsets.push(off);
}
const key = (e: KeyboardEvent) => {
  if (e.repeat || e.key === "Tab" || e.key === "Escape") return;
  e.preventDefault();
  e.stopPropagation();
  tapped(e.timeStamp);
};
async function run(): Promise<void> {
  context = new AudioContext({ latencyHint: "interactive" });
  await context.resume();
  offsets = [];
  isOn.value = true;
  says.value = "Tap any key, or a pad, with the clicks.";
  const first = context.currentTime + 0.4;
  start = performance.now() / 1000 + 0.4 + (context.outputLatency || 0);
  for (let k = 0; k < CLICKS; k++) {
    const gain = new GainNode(context, { gain: 0 });
    const tone = new OscillatorNode(context, { frequency: k % 4 ? 1100 : 1500 });
    const at = first + k * PERIOD;
    gain.gain.setValueAtTime(0.5, at);
    gain.gain.exponentialRampToValueAtTime(0.001, at + 0.05);
    tone.connect(gain).connect(context.destination);
    tone.start(at);
    tone.stop(at + 0.06);
    if (k === CLICKS - 1) tone.onended = () => setTimeout(finish, 400);
  }
  window.addEventListener("keydown", key, true);
  leave = await listenToPads((_, __, event) => tapped(event.timeStamp));
}
function finish(): void {
  stop();
  const sorted = [...offsets].sort((a, b) => a - b);
  if (sorted.length < 5) {
    says.value = "Too few taps to tell. Try it once more.";
    return;
  }
  latency.value = Math.round(sorted[sorted.length >> 1]! * 1000) / 1000;
  says.value = `What you strike comes in ${Math.round(latency.value * 1000)} ms late here; that is taken off from now on.`;
}
function stop(): void {
  window.removeEventListener("keydown", key, true);
  leave?.();
  leave = null;
  void context?.close();
  context = null;
  isOn.value = false;
}
onScopeDispose(() => isOn.value && stop());
</script>

<template>
  <p class="tap">
    <button class="plain" :disabled="isOn" @click="run">Tap test</button>
    <span class="soft">{{ says || (latency ? `${Math.round(latency * 1000)} ms are taken off what you strike.` : "Tells how late strokes come in on this device.") }}</span>
  </p>
</template>

<style scoped>
.tap { margin: 0; display: flex; gap: 0.5rem; align-items: center; }
</style>
