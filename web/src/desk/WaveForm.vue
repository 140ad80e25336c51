<script setup lang="ts">
/** A stretch of the recording with its beats, bar numbers and the moving cursor. */
import { follow } from "./follow";
import { useElementSize } from "@vueuse/core";
import { computed, nextTick, onMounted, ref, watch } from "vue";
import { ink, useDarkness } from "@/inks";
import { OUTLINE_RATE, useOutline } from "@/stores/outline";
import { useSong } from "@/stores/song";

const props = defineProps<{
  from: number;
  to: number;
  now: number;
  height: number;
  inset?: number;
  numbers?: boolean;
  strokes?: { time: number; limb: string }[];
  /** Whether a stretch may be drawn; a click seeks all the same. */
  stretches?: boolean;
  loop?: [number, number] | null;
}>();
const emit = defineEmits<{
  seek: [seconds: number];
  zoom: [factor: number, around: number];
  /** A stretch was drawn over the sound. */
  stretch: [from: number, to: number];
}>();
const DRAWN = 8; // pixels from which a click is a stretch

const outline = useOutline();
const desk = useSong();
const canvas = ref<HTMLCanvasElement | null>(null);
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);
const isDark = useDarkness();
const pad = computed(() => props.inset ?? 0);
const scale = computed(() => (width.value - 2 * pad.value) / (props.to - props.from));
const cursor = computed(() => pad.value + (props.now - props.from) * scale.value);

function draw(): void {
  const c = canvas.value;
  if (!c || !width.value) return;
  const ratio = window.devicePixelRatio || 1;
  const h = props.height;
  c.width = width.value * ratio;
  c.height = h * ratio;
  const g = c.getContext("2d")!;
  g.scale(ratio, ratio);
  drawSound(g, h, ink("--ink-faint"));
  drawBeats(g, h, ink("--line-strong"), ink("--ink"), ink("--paper"));
  for (const s of props.strokes ?? []) {
    const x = pad.value + (s.time - props.from) * scale.value;
    g.fillStyle = ink(`--${s.limb.toLowerCase()}`);
    g.fillRect(x - 1, h - 12, 2, 12);
  }
}

function drawSound(g: CanvasRenderingContext2D, h: number, colour: string): void {
  const peaks = outline.peaks;
  if (!peaks) return;
  g.fillStyle = colour;
  const middle = h / 2;
  g.beginPath();
  for (let x = 0; x < width.value; x++) {
    const a = (props.from + (x - pad.value) / scale.value) * OUTLINE_RATE;
    const b = a + OUTLINE_RATE / scale.value;
    let top = 0;
    for (let i = Math.max(0, Math.floor(a)); i < Math.max(b, Math.floor(a) + 1); i++) {
      top = Math.max(top, peaks[i] ?? 0);
    }
    const half = (top / 255) * (middle - 8);
    g.rect(x, middle - half, 1, 2 * half || 1);
  }
  g.fill();
}

function drawBeats(g: CanvasRenderingContext2D, h: number, line: string, strong: string, paper: string): void {
  const clock = desk.clock;
  if (!clock) return;
  g.font = "13px 'Atkinson Hyperlegible'";
  const perBar = (clock.end - clock.barStart(1)) / clock.bars;
  const beatsToo = (perBar / 4) * scale.value > 9;
  const every = [1, 2, 4, 8, 16].find((n) => n * perBar * scale.value > 26) ?? 32;
  const lines = perBar * scale.value > 16 ? 1 : every;
  for (let bar = Math.max(1, clock.barAt(props.from)); bar <= clock.bars; bar++) {
    const start = clock.barStart(bar);
    if (start > props.to) break;
    if ((bar - 1) % lines) continue;
    const meter = clock.meters[bar - 1]!;
    for (let beat = 0; beat < meter.beats; beat++) {
      if (beat > 0 && !beatsToo) continue;
      const x = pad.value + (clock.seconds(clock.starts[bar - 1]! + beat) - props.from) * scale.value;
      g.globalAlpha = beat ? 0.8 : 1;
      g.fillStyle = beat ? line : strong;
      g.fillRect(x - 0.5, beat ? 14 : 0, beat ? 1 : 1.6, h);
    }
    if (props.numbers && (bar - 1) % every === 0) {
      const x = pad.value + (start - props.from) * scale.value;
      g.fillStyle = paper;
      g.globalAlpha = 0.85;
      g.fillRect(x + 2, 1, 9 * `${bar}`.length + 4, 15);
      g.globalAlpha = 1;
      g.fillStyle = strong;
      g.fillText(`${bar}`, x + 4, 13);
    }
  }
  g.globalAlpha = 1;
}

watch(
  [width, () => props.from, () => props.to, () => outline.peaks, () => desk.score, isDark, () => props.strokes],
  () => nextTick(draw),
);
onMounted(draw);

function secondsAt(event: MouseEvent): number {
  const box = frame.value!.getBoundingClientRect();
  return props.from + (event.clientX - box.left - pad.value) / scale.value;
}
function press(event: PointerEvent): void {
  const from = secondsAt(event);
  const x = event.clientX;
  if (!props.stretches) {
    emit("seek", from);
    return;
  }
  follow(event, {
    end: (e) => {
      const to = secondsAt(e);
      if (Math.abs(e.clientX - x) < DRAWN) emit("seek", from);
      else emit("stretch", Math.min(from, to), Math.max(from, to));
    },
  });
}
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey && !event.shiftKey) return;
  event.preventDefault();
  emit("zoom", event.deltaY > 0 ? 1.25 : 0.8, secondsAt(event));
}
</script>

<template>
  <div ref="frame" class="wave" :style="{ height: `${height}px` }" role="img" aria-label="Waveform with beats" @pointerdown="press" @wheel="wheel">
    <canvas ref="canvas" :style="{ height: `${height}px` }" />
    <i v-if="loop && loop[1] > from && loop[0] < to" class="loop" :style="{ left: `${pad + (Math.max(loop[0], from) - from) * scale}px`, width: `${(Math.min(loop[1], to) - Math.max(loop[0], from)) * scale}px` }" />
    <i v-if="cursor >= 0 && cursor <= width" class="now" :style="{ transform: `translateX(${cursor}px)` }" />
  </div>
</template>

<style scoped>
.wave { position: relative; overflow: hidden; cursor: pointer; }
.loop { position: absolute; inset: 0 auto 0 auto; background: color-mix(in srgb, var(--focus) 16%, transparent); border-inline: 2px solid var(--focus); pointer-events: none; }
canvas { width: 100%; display: block; }
.now { position: absolute; inset: 0 auto 0 0; width: 2px; background: var(--now); pointer-events: none; }
</style>
