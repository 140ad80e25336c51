<script setup lang="ts">
/** A place to drop a recording on, or to choose one. */
import { ref } from "vue";

defineProps<{ file: File | null; sent: number | null }>();
const emit = defineEmits<{ chosen: [file: File] }>();
const isOver = ref(false);
const input = ref<HTMLInputElement | null>(null);

function dropped(event: DragEvent): void {
  isOver.value = false;
  const file = event.dataTransfer?.files[0];
  if (file) emit("chosen", file);
}
function picked(): void {
  const file = input.value?.files?.[0];
  if (file) emit("chosen", file);
}
</script>

<template>
  <button
    type="button"
    :class="['drop', { over: isOver, has: file }]"
    @click="input?.click()"
    @dragover.prevent="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent="dropped"
  >
    <i class="pi pi-headphones" />
    <template v-if="file">
      <strong>{{ file.name }}</strong>
      <span v-if="sent !== null" class="bar"><i :style="{ width: `${sent * 100}%` }" /></span>
      <span v-else class="soft">{{ (file.size / 2 ** 20).toFixed(1) }} MB; drop another to change it</span>
    </template>
    <template v-else>
      <strong>Drop the recording here, or click to choose it</strong>
      <span class="soft">WAV, FLAC, OGG, MP3, M4A or a video with sound; up to 20 minutes and 200 MB</span>
    </template>
    <input ref="input" type="file" accept="audio/*,video/*" hidden aria-label="Recording" @change="picked" />
  </button>
</template>

<style scoped>
.drop {
  width: 100%; display: grid; justify-items: center; gap: 0.35rem; padding: 1.5rem; cursor: pointer;
  border: 2px dashed var(--line-strong); border-radius: 12px; background: var(--well); color: var(--ink);
}
.drop .pi { font-size: 1.6rem; color: var(--rh); }
.over { border-color: var(--rh); }
.has { border-style: solid; }
.bar { width: 80%; height: 8px; border-radius: 4px; background: var(--line); overflow: hidden; }
.bar i { display: block; height: 100%; background: var(--rh); }
</style>
