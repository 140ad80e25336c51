<script setup lang="ts">
/** Clips of the teacher's at a stage, heard or seen. */
defineProps<{ clips: { id: number; name: string; kind: string }[]; from: string }>();
</script>

<template>
  <div v-if="clips.length" class="clips">
    <figure v-for="c in clips" :key="c.id">
      <video v-if="c.kind.startsWith('video')" :src="`${from}/${c.id}`" controls preload="metadata" :aria-label="c.name" />
      <audio v-else :src="`${from}/${c.id}`" controls preload="metadata" :aria-label="c.name" />
      <figcaption class="soft">{{ c.name }} <slot :clip="c" /></figcaption>
    </figure>
  </div>
</template>

<style scoped>
.clips { display: flex; flex-wrap: wrap; gap: 0.6rem; align-items: end; }
figure { margin: 0; display: grid; gap: 0.2rem; max-width: 100%; }
video { max-width: min(100%, 22rem); max-height: 14rem; border-radius: 8px; background: #000; }
audio { max-width: 100%; }
</style>
