<script setup lang="ts">
/** Everything of a section that can be changed: name, borders, twins, notes, its sound. */
import Select from "primevue/select";
import Textarea from "primevue/textarea";
import { computed, ref, watch } from "vue";
import { useSong } from "@/stores/song";

const props = defineProps<{ id: string; bar: number }>();
const emit = defineEmits<{ done: [] }>();
const desk = useSong();
const NAMES = ["Intro", "Verse", "Pre-chorus", "Chorus", "Bridge", "Solo", "Breakdown", "Turn", "Outro"];
const SOUND: [string, string, string][] = [
  ["implement", "Played with", "sticks, butt end, brushes, rods, mallets"],
  ["wires", "Snare wires", "tight, loose, off"],
  ["damping", "Damping", "open, tape, cloth"],
  ["tuning", "Tuning", "low, high, dead"],
  ["room", "Room", "dry, live"],
  ["borrowed", "Borrowed sounds", "clap pad, loop, shaker from tape"],
];
const section = computed(() => desk.score!.sections.find((s) => s.id === props.id)!);
const index = computed(() => desk.score!.sections.indexOf(section.value));
const proposed = computed(() => desk.shown!.form.sections.find((f) => f.id === props.id)?.proposed);
const others = computed(() => desk.score!.sections.filter((s) => s.id !== props.id));
const twins = computed(() => others.value.filter((s) => s.label === section.value.label));
const canSplit = computed(() => props.bar > section.value.first_bar && props.bar < section.value.first_bar + section.value.bars);
const name = ref("");
const note = ref("");
watch(section, (s) => ((name.value = s.name), (note.value = s.note)), { immediate: true });

function rename(to: string): void {
  const wanted = to.trim();
  if (wanted && wanted !== section.value.name) desk.edit("rename_section", { id: props.id, name: wanted });
}
/** "Verse" becomes "Verse 3" where there are two already. */
function numbered(kind: string): string {
  const taken = others.value.map((s) => s.name);
  if (!taken.some((n) => n === kind || n.startsWith(`${kind} `))) return kind;
  for (let n = 1; ; n++) if (!taken.includes(`${kind} ${n}`)) return `${kind} ${n}`;
}
function move(by: number): void {
  desk.edit("move_border", { id: props.id, first_bar: section.value.first_bar + by });
}
function split(): void {
  desk.edit("split_section", { id: props.id, bar: props.bar, new: `sec-${crypto.randomUUID().slice(0, 8)}` });
  emit("done");
}
function merge(): void {
  desk.edit("merge_section", { id: props.id });
  emit("done");
}
function keepNote(): void {
  if (note.value.trim() !== section.value.note) desk.edit("note_section", { id: props.id, note: note.value.trim() });
}
function keepSound(key: string, event: Event): void {
  const text = (event.target as HTMLInputElement).value.trim();
  if (text !== (section.value.sound[key] ?? "")) desk.edit("note_sound", { id: props.id, key, note: text });
}
</script>

<template>
  <div class="section-card">
    <label>Name <input v-model="name" class="plain" maxlength="60" aria-label="Name of the section" @keydown.enter="rename(name)" @blur="rename(name)" /></label>
    <div class="chips">
      <button v-if="proposed && proposed !== section.name" class="plain proposed" @click="rename(proposed)">{{ proposed }} (proposed)</button>
      <button v-for="n in NAMES" :key="n" class="plain" @click="rename(numbered(n))">{{ n }}</button>
    </div>
    <div class="line">
      <span>Begins at bar {{ section.first_bar }}</span>
      <template v-if="index > 0">
        <button class="plain" :aria-label="`${section.name} begins a bar earlier`" @click="move(-1)"><i class="pi pi-angle-left" /></button>
        <button class="plain" :aria-label="`${section.name} begins a bar later`" @click="move(1)"><i class="pi pi-angle-right" /></button>
        <button class="plain" @click="merge">Join to {{ desk.score!.sections[index - 1]!.name }}</button>
      </template>
      <button class="plain" :disabled="!canSplit" @click="split">Split at bar {{ bar }}</button>
    </div>
    <div class="line">
      <span v-if="twins.length">Same as {{ twins.map((t) => t.name).join(", ") }}</span>
      <span v-else class="soft">Music of its own</span>
      <button v-if="twins.length" class="plain" @click="desk.edit('unlink_section', { id })">Unlink</button>
      <Select v-else :model-value="null" :options="others" option-label="name" option-value="id" placeholder="Same as …" aria-label="Same as" @update:model-value="(like: string) => desk.edit('link_section', { id, like })" />
    </div>
    <Textarea v-model="note" rows="2" maxlength="400" placeholder="Note for whoever plays it" aria-label="Note on the section" @blur="keepNote" />
    <details>
      <summary>Sound of this section</summary>
      <label v-for="[key, label, hint] in SOUND" :key="key" class="sound">{{ label }}
        <input class="plain" maxlength="120" :value="section.sound[key] ?? ''" :placeholder="desk.score!.sound[key] || hint" @change="keepSound(key, $event)" />
      </label>
    </details>
  </div>
</template>

<style scoped>
.section-card { display: grid; gap: 0.7rem; width: 27rem; max-width: 90vw; }
label { display: flex; gap: 0.6rem; align-items: center; }
label input { flex: 1; min-width: 0; }
.chips { display: flex; flex-wrap: wrap; gap: 0.3rem; }
.chips .plain { padding: 0.2rem 0.6rem; }
.proposed { border-color: var(--focus); }
.line { display: flex; gap: 0.4rem; align-items: center; flex-wrap: wrap; }
.sound { margin-top: 0.4rem; }
</style>
