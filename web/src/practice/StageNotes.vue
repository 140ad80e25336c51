<script setup lang="ts">
/** A stage as notes on the staff, with its hands and counts: engraved by the house. */
import { ref, watch } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";

const props = defineProps<{ song: number; first: number; last: number; order: Schemas["Stages"]["order"]; stage: number; version: string }>();
const svg = ref("");
const complaint = ref("");
let run = 0;
watch(() => [props.song, props.first, props.last, props.order, props.stage, props.version], async () => {
  const own = ++run;
  try {
    const { first, last, order, stage } = props;
    const found = await brought(server.GET("/api/songs/{id}/stages/staff", { params: { ...of(props.song), query: { first, last, order, stage } } }));
    if (own === run) [svg.value, complaint.value] = [found.svg, ""];
  } catch (problem) {
    if (own === run) complaint.value = (problem as Error).message;
  }
}, { immediate: true });
</script>

<template>
  <p v-if="complaint" role="alert">{{ complaint }}</p>
  <!-- eslint-disable-next-line vue/no-v-html -- engraved by our own server -->
  <div v-else class="staff" role="img" aria-label="The stage as notes" v-html="svg" />
</template>

<style scoped>
.staff { background: #fff; color: #000; border-radius: 8px; padding: 0.6rem 0.8rem; }
.staff :deep(svg) { display: block; width: 100%; height: auto; max-height: 60vh; }
:root.dark .staff { filter: invert(0.93) hue-rotate(180deg); }
</style>
