<script setup lang="ts">
/** How a sound sounds: low to high upwards, time to the right, the louder the darker. */
import { computed } from "vue";
import { PICTURE } from "@/kit";

const props = defineProps<{ picture: string }>();
const CELL = { width: 6, height: 3 };
/** One path a loudness: few elements for many cells. */
const shades = computed(() => {
  const paths = new Map<number, string>();
  [...props.picture].forEach((digit, n) => {
    const level = Number(digit);
    const [row, column] = [Math.floor(n / PICTURE.columns), n % PICTURE.columns];
    const y = (PICTURE.rows - 1 - row) * CELL.height;
    if (level) paths.set(level, `${paths.get(level) ?? ""}M${column * CELL.width} ${y}h${CELL.width}v${CELL.height}h-${CELL.width}z`);
  });
  return [...paths];
});
</script>

<template>
  <svg class="picture" :viewBox="`0 0 ${PICTURE.columns * CELL.width} ${PICTURE.rows * CELL.height}`" aria-hidden="true">
    <path v-for="[level, d] in shades" :key="level" :d="d" :opacity="level / 9" />
  </svg>
</template>

<style scoped>
.picture { width: 78px; height: 40px; border-radius: 5px; background: var(--well); fill: currentColor; shape-rendering: crispEdges; }
</style>
