<script setup lang="ts">
/** What is known of the chosen stroke, and changing it. */
import { computed } from "vue";
import type { Stroke } from "@/api/client";
import { LIMBS, part } from "@/kit";
import type { Clock } from "@/score/time";

const props = defineProps<{ stroke: Stroke | null; clock: Clock }>();
const emit = defineEmits<{ edit: [operation: string, args: Record<string, unknown>]; remove: [] }>();
const DYNAMICS = ["ghost", "normal", "accent"] as const;
const offset = computed(() =>
  props.stroke?.time == null ? null : Math.round((props.stroke.time - props.clock.played(props.stroke)) * 1000),
);
const evidence = computed(() => {
  const s = props.stroke;
  if (!s) return "";
  if (s.origin === "written") return "written by you";
  const sure = `${Math.round(s.confidence * 100)} % sure`;
  if (offset.value === null) return `heard, ${sure}`;
  const late = offset.value === 0 ? "on its place" : `${Math.abs(offset.value)} ms ${offset.value > 0 ? "late" : "early"}`;
  return `heard, ${sure}; ${late}`;
});
</script>

<template>
  <aside class="stroke-card" aria-live="polite">
    <template v-if="stroke">
      <p><strong>{{ part(stroke.part).label }}</strong> <span class="soft figure">{{ evidence }}</span></p>
      <div class="line">
        <div class="group" role="group" aria-label="Limb">
          <button v-for="l in LIMBS" :key="l" :class="['plain', { on: stroke.limb === l }]" @click="emit('edit', 'set_limb', { id: stroke.id, limb: l })">{{ l }}</button>
        </div>
        <div class="group" role="group" aria-label="Loudness">
          <button v-for="d in DYNAMICS" :key="d" :class="['plain', { on: stroke.dynamic === d }]" @click="emit('edit', 'set_dynamic', { id: stroke.id, dynamic: d })">{{ d }}</button>
        </div>
        <button class="plain" aria-label="Remove the stroke" title="Remove (Delete)" @click="emit('remove')"><i class="pi pi-trash" /></button>
      </div>
      <p class="soft">Choose another part to change it; drag it along the bar to move it.</p>
    </template>
    <p v-else class="soft">
      Click a stroke to change it, or a free place in a limb's lane to write the chosen part there.
      With the keys: arrows move the cursor, a part's letter writes it. <span class="key">?</span> lists all.
    </p>
  </aside>
</template>

<style scoped>
.stroke-card { display: grid; gap: 0.4rem; font-size: 0.95rem; }
.line { display: flex; gap: 0.5rem; flex-wrap: wrap; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; padding: 0.3rem 0.55rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
</style>
