<script setup lang="ts">
/** Beats over a waveform, each with a handle to drag; unsure beats and locks are shaded. */
import { follow } from "./follow";
import { useElementSize } from "@vueuse/core";
import { computed, ref } from "vue";
import { useSong } from "@/stores/song";

const props = defineProps<{ from: number; to: number; chosen: { bar: number; beat: number } | null }>();
const emit = defineEmits<{ drag: [bar: number, beat: number, seconds: number]; choose: [seconds: number] }>();

const desk = useSong();
const frame = ref<HTMLElement | null>(null);
const { width } = useElementSize(frame);
const scale = computed(() => width.value / (props.to - props.from));
const x = (seconds: number) => (seconds - props.from) * scale.value;
const held = ref<{ bar: number; beat: number; seconds: number } | null>(null);

const beats = computed(() => {
  const clock = desk.clock!;
  const made = [];
  for (let bar = 1; bar <= clock.bars; bar++) {
    if (clock.barEnd(bar) < props.from || clock.barStart(bar) > props.to) continue;
    for (let beat = 1; beat <= clock.meters[bar - 1]!.beats; beat++) {
      const at = clock.seconds(clock.starts[bar - 1]! + beat - 1);
      if (at >= props.from && at <= props.to) made.push({ bar, beat, at });
    }
  }
  return made;
});
/** Too close together, handles would only hide the sound. */
const shown = computed(() => beats.value.length * 16 < width.value);
const locks = computed(() =>
  (desk.score?.locked ?? []).filter(([a, b]) => b! > props.from && a! < props.to).map(([a, b]) => ({ left: x(a!), width: x(b!) - x(a!) })),
);
const doubts = computed(() => {
  const clock = desk.clock!;
  return (desk.shown?.form.confidence ?? []).flatMap((t, i) => {
    const a = clock.barStart(i + 1);
    const b = clock.barEnd(i + 1);
    return t < 0.5 && b > props.from && a < props.to ? [{ bar: i + 1, left: x(a), width: x(b) - x(a) }] : [];
  });
});

function secondsAt(event: PointerEvent): number {
  return props.from + (event.clientX - frame.value!.getBoundingClientRect().left) / scale.value;
}
function take(event: PointerEvent, bar: number, beat: number, at: number): void {
  const to = (e: PointerEvent) => (held.value = { bar, beat, seconds: secondsAt(e) });
  to(event);
  follow(event, { move: to, end: () => drop(at), cancel: () => (held.value = null) });
}
function drop(at: number): void {
  const h = held.value;
  held.value = null;
  if (!h) return;
  if (Math.abs(h.seconds - at) * scale.value < 3) emit("choose", at);
  else emit("drag", h.bar, h.beat, +h.seconds.toFixed(4));
}
</script>

<template>
  <div ref="frame" class="handles">
    <i v-for="d in doubts" :key="`d${d.bar}`" class="doubt" :style="{ left: `${d.left}px`, width: `${d.width}px` }" :title="`Bar ${d.bar}: the strokes fit these beats badly`" />
    <i v-for="(l, n) in locks" :key="`l${n}`" class="lock" :style="{ left: `${l.left}px`, width: `${l.width}px` }" title="Locked" />
    <template v-if="shown">
      <button
        v-for="b in beats"
        :key="`${b.bar}.${b.beat}`"
        :class="['beat', { one: b.beat === 1, chosen: chosen?.bar === b.bar && chosen?.beat === b.beat, held: held?.bar === b.bar && held?.beat === b.beat }]"
        :style="{ transform: `translateX(${x(held?.bar === b.bar && held?.beat === b.beat ? held.seconds : b.at)}px)` }"
        :aria-label="`Beat ${b.beat} of bar ${b.bar}`"
        :data-beat="`${b.bar}.${b.beat}`"
        tabindex="-1"
        @pointerdown.stop.prevent="take($event, b.bar, b.beat, b.at)"
      >{{ b.beat }}</button>
    </template>
  </div>
</template>

<style scoped>
.handles { position: relative; height: 26px; overflow: hidden; background: var(--well); touch-action: none; }
.handles i { position: absolute; top: 0; bottom: 0; }
.doubt { background: repeating-linear-gradient(135deg, var(--warn-well) 0 6px, transparent 6px 11px); }
.lock { background: color-mix(in srgb, var(--ink) 22%, transparent); border-inline: 2px solid var(--ink); }
.beat { position: absolute; left: -9px; top: 2px; width: 18px; height: 22px; padding: 0; border: 1px solid var(--line-strong); border-radius: 5px; background: var(--sheet); color: var(--ink-soft); font-size: 12px; cursor: ew-resize; }
.beat.one { background: var(--ink); color: var(--paper); border-color: var(--ink); font-weight: 700; }
.beat.chosen { outline: 3px solid var(--focus); outline-offset: -1px; }
.beat.held { z-index: 2; border-color: var(--now); color: var(--now); }
</style>
