<script setup lang="ts">
/** How sure the ears are, part by part, and where to look first. */
import { computed } from "vue";
import type { Stroke } from "@/api/client";
import { confidenceByPart } from "./confidence";

const props = defineProps<{ strokes: Stroke[] }>();
const emit = defineEmits<{ open: [bar: number] }>();
const rows = computed(() => confidenceByPart(props.strokes));
const unsure = computed(() => rows.value.reduce((n, r) => n + r.unsure, 0));
</script>

<template>
  <section class="card confidence" aria-label="How sure the ears are">
    <h2>How sure the ears are</h2>
    <p class="soft">
      {{ unsure ? `${unsure} strokes are doubtful; the bench shows them with dotted stems.` : "No stroke is doubtful." }}
    </p>
    <ul>
      <li v-for="r in rows" :key="r.part">
        <span class="name">{{ r.label }}</span>
        <span class="figure">{{ r.count }}</span>
        <span class="gauge" :title="`${Math.round(r.sure * 100)} % sure on average`"><i :style="{ width: `${r.sure * 100}%` }" /></span>
        <span class="figure">{{ Math.round(r.sure * 100) }} %</span>
        <button v-if="r.unsure" class="plain" @click="emit('open', r.bar)">{{ r.unsure }} doubtful, from bar {{ r.bar }}</button>
        <span v-else class="soft">none doubtful</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.confidence { padding: 0.9rem 1.2rem; display: grid; gap: 0.5rem; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.35rem; }
li { display: grid; grid-template-columns: 7rem 3rem 1fr 3.4rem 12.5rem; gap: 0.7rem; align-items: center; min-height: 34px; }
.figure { text-align: right; }
.gauge { height: 10px; border-radius: 5px; background: var(--line); overflow: hidden; }
.gauge i { display: block; height: 100%; background: var(--rh); }
.plain { justify-self: start; white-space: nowrap; }
</style>
