<script setup lang="ts">
/** What is known of the chosen strokes, and changing everything of them. */
import TypedField from "@/controls/TypedField.vue";
import KeyCap from "@/keys/KeyCap.vue";
import { computed } from "vue";
import type { Stroke, StrokeEdit } from "@/api/client";
import { LIMBS, ORNAMENTS, part } from "@/kit";
import type { Clock } from "@/score/time";

const props = defineProps<{ strokes: Stroke[]; clock: Clock }>();
/** An edit without the stroke that it is of. */
type Wanted = StrokeEdit extends infer E ? (E extends StrokeEdit ? Omit<E, "id"> : never) : never;
const emit = defineEmits<{ edit: [wanted: Wanted]; remove: [] }>();
const DYNAMICS = ["ghost", "normal", "accent"] as const;
const DOUBTS = [
  { key: "", label: "sure" },
  { key: "doubtful", label: "doubtful" },
  { key: "assumed", label: "assumed" },
  { key: "left_out", label: "left out" },
  { key: "layer", label: "a layer" },
] as const;
const stroke = computed(() => props.strokes[0] ?? null);
const offset = computed(() =>
  stroke.value?.measured ? Math.round((stroke.value.measured.time - props.clock.played(stroke.value)) * 1000) : null,
);
const evidence = computed(() => {
  const s = stroke.value;
  if (!s) return "";
  if (!s.measured) return "written by you";
  const sure = s.placed_by === "person" ? "heard, changed by you" : `heard, ${Math.round(s.confidence * 100)} % sure`;
  const late = !offset.value ? "on its place" : `${Math.abs(offset.value)} ms ${offset.value > 0 ? "late" : "early"}`;
  return `${sure}; ${late}`;
});
const same = (key: keyof Stroke, value: unknown) => props.strokes.every((s) => (s[key] ?? "") === (value ?? ""));
</script>

<template>
  <section class="stroke-card" aria-live="polite">
    <template v-if="stroke">
      <p><strong>{{ strokes.length > 1 ? `${strokes.length} strokes` : part(stroke.part).label }}</strong> <span v-if="strokes.length === 1" class="soft figure">{{ evidence }}</span></p>
      <div class="group" role="group" aria-label="Limb">
        <button v-for="l in LIMBS" :key="l" :class="['plain', l, { on: same('limb', l) }]" @click="emit('edit', { operation: 'set_limb', limb: l })">{{ l }}</button>
      </div>
      <div class="group" role="group" aria-label="Loudness">
        <button v-for="d in DYNAMICS" :key="d" :class="['plain', { on: same('dynamic', d) }]" @click="emit('edit', { operation: 'set_dynamic', dynamic: d })">{{ d }}</button>
      </div>
      <label class="loud">Loudness
        <input type="range" min="8" max="100" :value="Math.round(stroke.loudness * 100)" aria-label="Loudness in per cent" @change="emit('edit', { operation: 'set_loudness', loudness: Number(($event.target as HTMLInputElement).value) / 100 })">
        <span class="figure">{{ Math.round(stroke.loudness * 100) }}</span>
      </label>
      <label>Ornament
        <select class="plain" aria-label="Ornament" :value="stroke.ornament ?? ''" @change="emit('edit', { operation: 'set_ornament', ornament: (($event.target as HTMLSelectElement).value || null) as Stroke['ornament'] })">
          <option value="">none</option>
          <option v-for="o in ORNAMENTS" :key="o" :value="o">{{ o === "drop" ? "accent, then its ghost" : o }}</option>
        </select>
      </label>
      <label class="check"><input type="checkbox" :checked="stroke.choked" @change="emit('edit', { operation: 'set_choked', choked: ($event.target as HTMLInputElement).checked })"> {{ part(stroke.part).family === "hat" ? "shut at once (bark)" : "choked" }}</label>
      <div class="group" role="group" aria-label="How sure you are">
        <button v-for="d in DOUBTS" :key="d.key" :title="d.key === 'layer' ? 'A layer of the recording (a loop, a sampled shaker): it sounds, but nobody plays it' : undefined" :class="['plain', 'small', { on: same('doubt', d.key) }]" @click="emit('edit', { operation: 'set_doubt', doubt: d.key, reason: d.key ? stroke.reason : '' })">{{ d.label }}</button>
      </div>
      <TypedField v-if="stroke.doubt" class="reason" placeholder="why?" aria-label="Reason" :value="stroke.reason" maxlength="120" @set="emit('edit', { operation: 'set_doubt', doubt: stroke.doubt, reason: $event })" />
      <button class="plain" @click="emit('remove')"><i class="pi pi-trash" /> Remove <KeyCap scope="bench" action="remove" /></button>
    </template>
    <p v-else class="soft">
      Choose a stroke to change it, drag it along or up, or box several in. A click on a free
      place of a lane, or a part's letter at the cursor, writes. <KeyCap scope="desk" action="help" /> lists all keys.
    </p>
  </section>
</template>

<style scoped>
.stroke-card { display: grid; gap: 0.5rem; font-size: 0.95rem; align-content: start; justify-items: start; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; padding: 0.3rem 0.55rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.small { font-size: 0.88rem; }
label { display: flex; align-items: center; gap: 0.5rem; }
.loud input { width: 8rem; accent-color: var(--ink); }
.reason { width: 100%; }
.RH { color: var(--rh); } .LH { color: var(--lh); } .RF { color: var(--rf); } .LF { color: var(--lf); }
.group .on { color: var(--paper); }
</style>
