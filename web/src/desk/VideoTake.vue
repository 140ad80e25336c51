<script setup lang="ts">
/** The picture of a video take, in step with the song at any speed, and frame by frame. */
import { computed, onUnmounted, ref, watch } from "vue";
import { askBytes, type Take } from "@/api/client";
import { usePlayback } from "@/stores/playback";
import { laidOver } from "./takes";

const props = defineProps<{ take: Take }>();
const playback = usePlayback();
const picture = ref<HTMLVideoElement | null>(null);
const source = ref("");
const complaint = ref("");
const FRAME = 1 / 25;
const APART = 0.06; // seconds that picture and sound may drift before the picture jumps
const places = computed(() => (props.take.anchors.length ? props.take.anchors : [[0, 0]]));

watch(
  () => props.take.id,
  async (id) => {
    drop();
    try {
      const bytes = await askBytes(`takes/${id}/original`);
      if (id === props.take.id) source.value = URL.createObjectURL(new Blob([bytes]));
    } catch (problem) {
      complaint.value = (problem as Error).message;
    }
  },
  { immediate: true },
);
function drop(): void {
  if (source.value) URL.revokeObjectURL(source.value);
  source.value = "";
}
onUnmounted(drop);

function follow(): void {
  const video = picture.value;
  if (!video?.duration) return;
  const [at, pace] = laidOver(places.value, playback.now);
  video.playbackRate = Math.min(4, Math.max(0.1, playback.speed * pace));
  if (playback.isPlaying && video.paused) void video.play().catch(() => {});
  if (!playback.isPlaying && !video.paused) video.pause();
  const limit = playback.isPlaying ? APART : FRAME / 2;
  if (Math.abs(video.currentTime - at) > limit) video.currentTime = Math.min(Math.max(0, at), video.duration - 0.01);
}
watch([() => playback.now, () => playback.isPlaying, source], follow);
function step(frames: number): void {
  playback.pause();
  playback.seek(playback.now + frames * FRAME);
}
</script>

<template>
  <figure class="video">
    <p v-if="complaint" role="alert">{{ complaint }}</p>
    <video v-else ref="picture" :src="source || undefined" muted playsinline preload="auto" :aria-label="`Picture of ${take.name}`" @loadedmetadata="follow" />
    <figcaption>
      <button class="plain" aria-label="A frame back" @click="step(-1)"><i class="pi pi-step-backward" /></button>
      <span class="soft">{{ take.name }}</span>
      <button class="plain" aria-label="A frame on" @click="step(1)"><i class="pi pi-step-forward" /></button>
    </figcaption>
  </figure>
</template>

<style scoped>
.video { margin: 0; border-top: 1px solid var(--line-strong); background: var(--well); }
video { width: 100%; max-height: 180px; display: block; background: #000; object-fit: contain; }
figcaption { display: flex; justify-content: space-between; align-items: center; gap: 0.4rem; padding: 3px 6px; }
figcaption span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.plain { padding: 0.15rem 0.5rem; }
</style>
