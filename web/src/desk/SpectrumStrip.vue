<script setup lang="ts">
/** What sounds in a stretch: frequencies upward, and over them every onset that was heard. */
import { useElementSize } from "@vueuse/core";
import { nextTick, onMounted, ref, shallowRef, watch } from "vue";
import { askBytes } from "@/api/client";
import { ink, useDarkness } from "@/inks";

const props = defineProps<{
  take: number;
  from: number;
  to: number;
  height: number;
  inset: number;
  /** Heard onsets; those of which no stroke is left are drawn as open. */
  onsets: { time: number; isWritten: boolean; says: string }[];
}>();
const BANDS = 84;
const KEPT = 24;
const kept = new Map<string, Uint8Array>();
const frame = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const { width } = useElementSize(frame);
const bytes = shallowRef<Uint8Array | null>(null);
const isDark = useDarkness();

async function fetchPicture(): Promise<void> {
  const key = `${props.take} ${props.from.toFixed(2)} ${props.to.toFixed(2)}`;
  let found = kept.get(key);
  if (!found) {
    const query = `start=${Math.max(0, props.from).toFixed(3)}&end=${props.to.toFixed(3)}`;
    const answer = await askBytes(`takes/${props.take}/picture?${query}`).catch(() => null);
    if (!answer) return;
    found = new Uint8Array(answer);
    kept.set(key, found);
    if (kept.size > KEPT) kept.delete(kept.keys().next().value!);
  }
  if (key === `${props.take} ${props.from.toFixed(2)} ${props.to.toFixed(2)}`) bytes.value = found;
}

function draw(): void {
  const c = canvas.value;
  const b = bytes.value;
  if (!c || !b || !width.value) return;
  const columns = Math.max(1, Math.floor(b.length / BANDS));
  const [r, g, bl] = [1, 3, 5].map((i) => parseInt(ink("--ink").slice(i, i + 2), 16));
  // Each of the 256 levels as one pixel (little endian, as all browsers' machines are).
  const pixels = Uint32Array.from({ length: 256 }, (_, v) => ((Math.round((v * v) / 255) << 24) | (bl! << 16) | (g! << 8) | r!) >>> 0);
  const picture = new ImageData(columns, BANDS);
  const out = new Uint32Array(picture.data.buffer);
  for (let x = 0; x < columns; x++) {
    for (let y = 0; y < BANDS; y++) out[x + (BANDS - 1 - y) * columns] = pixels[b[x * BANDS + y]!]!;
  }
  c.width = columns;
  c.height = BANDS;
  c.getContext("2d")!.putImageData(picture, 0, 0);
}

watch(() => [props.take, props.from, props.to], () => void fetchPicture(), { immediate: true });
watch([bytes, width, isDark], () => nextTick(draw));
onMounted(draw);

const place = (t: number) =>
  `calc(${props.inset}px + (100% - ${2 * props.inset}px) * ${((t - props.from) / (props.to - props.from)).toFixed(5)})`;
</script>

<template>
  <div ref="frame" class="strip" :style="{ height: `${height}px` }" role="img" :aria-label="`Spectrum, ${onsets.length} onsets heard`">
    <canvas ref="canvas" :style="{ left: `${inset}px`, width: `calc(100% - ${2 * inset}px)` }" />
    <i v-for="(o, n) in onsets" :key="n" :class="['onset', { open: !o.isWritten }]" :style="{ left: place(o.time) }" :title="o.says" />
  </div>
</template>

<style scoped>
.strip { position: relative; overflow: hidden; background: var(--sheet); }
canvas { position: absolute; inset: 0 auto 0 0; height: 100%; image-rendering: auto; }
.onset { position: absolute; top: 0; width: 0; height: 9px; border-left: 2px solid var(--now); }
.onset.open { width: 8px; height: 8px; margin-left: -4px; border: 2px solid var(--now); border-radius: 50%; background: var(--sheet); }
</style>
