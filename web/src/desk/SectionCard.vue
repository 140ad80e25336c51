<script setup lang="ts">
/** Everything of a section that can be changed: name, borders, twins, notes, its sound. */
import type { Schemas } from "@/api/client";
import Textarea from "primevue/textarea";
import { computed, ref, watch } from "vue";
import { useSong } from "@/stores/song";

const props = defineProps<{ id: string; bar: number }>();
const emit = defineEmits<{ done: [] }>();
const desk = useSong();
const NAMES = ["Intro", "Verse", "Pre-chorus", "Chorus", "Bridge", "Solo", "Breakdown", "Turn", "Outro"];
type SoundKey = Schemas["NoteSound"]["key"];
const SOUND: [SoundKey, string, string][] = [
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
const barNote = ref("");
// Only what changed itself is taken over: what is being typed is not wiped by a save that settles.
watch(() => section.value.name, (now) => (name.value = now), { immediate: true });
watch(() => section.value.note, (now) => (note.value = now), { immediate: true });
const sounds = ref<Record<string, string>>({ ...section.value.sound });
watch(() => desk.score!.notes[props.bar], (words) => (barNote.value = words ?? ""), { immediate: true });
const fades = computed(() => desk.shown!.form.events.some((e) => e.kind === "fade" && e.bar >= section.value.first_bar && e.bar < section.value.first_bar + section.value.bars));

/** What was just done here and could be done in the sections that are the same music too. */
const offer = ref<{ says: string; act: (id: string) => void } | null>(null);
const shared = computed(() => twins.value.map((t) => t.name).join(", "));
function offerTwins(says: string, act: (id: string) => void): void {
  offer.value = twins.value.length ? { says, act } : null;
}
function takeOffer(): void {
  for (const t of twins.value) offer.value?.act(t.id);
  offer.value = null;
}

function rename(to: string): void {
  const wanted = to.trim();
  if (wanted && wanted !== section.value.name) desk.edit({ operation: "rename_section", id: props.id, name: wanted });
}
/** "Verse" becomes "Verse 3" where there are two already. */
function numbered(kind: string): string {
  const taken = others.value.map((s) => s.name);
  if (!taken.some((n) => n === kind || n.startsWith(`${kind} `))) return kind;
  for (let n = 1; ; n++) if (!taken.includes(`${kind} ${n}`)) return `${kind} ${n}`;
}
function move(by: number): void {
  desk.edit({ operation: "move_border", id: props.id, first_bar: section.value.first_bar + by });
}
function splitAt(id: string, bar: number): void {
  desk.edit({ operation: "split_section", id, bar, new: `sec-${crypto.randomUUID().slice(0, 8)}` });
}
function split(): void {
  const inside = props.bar - section.value.first_bar;
  splitAt(props.id, props.bar);
  offerTwins("Split them at the same bar", (id) => {
    const own = desk.score!.sections.find((s) => s.id === id);
    if (own && inside < own.bars) splitAt(id, own.first_bar + inside);
  });
  if (!offer.value) emit("done");
}
function merge(): void {
  desk.edit({ operation: "merge_section", id: props.id });
  emit("done");
}
function keepNote(): void {
  const words = note.value.trim();
  if (words === section.value.note) return;
  desk.edit({ operation: "note_section", id: props.id, note: words });
  offerTwins("Note the same there", (id) => desk.edit({ operation: "note_section", id, note: words }));
}
function keepBarNote(): void {
  const words = barNote.value.trim();
  if (words !== (desk.score!.notes[props.bar] ?? "")) desk.edit({ operation: "note_bar", bar: props.bar, note: words });
}
function keepSound(key: SoundKey): void {
  const text = (sounds.value[key] ?? "").trim();
  if (text === (section.value.sound[key] ?? "")) return;
  desk.edit({ operation: "note_sound", id: props.id, key, note: text });
  offerTwins("The same sound there", (id) => desk.edit({ operation: "note_sound", id, key, note: text }));
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
      <button v-if="twins.length" class="plain" @click="desk.edit({ operation: 'unlink_section', id })">Unlink</button>
      <select v-else class="plain" aria-label="Same as" @change="desk.edit({ operation: 'link_section', id, like: ($event.target as HTMLSelectElement).value })">
        <option value="">Same as …</option>
        <option v-for="s in others" :key="s.id" :value="s.id">{{ s.name }}</option>
      </select>
    </div>
    <Textarea v-model="note" rows="2" maxlength="400" placeholder="Note for whoever plays it" aria-label="Note on the section" @blur="keepNote" />
    <label>Note on bar {{ bar }} <input v-model="barNote" class="plain" maxlength="400" :placeholder="fades ? 'the record fades out: how does it end live?' : 'what to watch for in this bar'" @change="keepBarNote" /></label>
    <div v-if="offer && twins.length" class="line offer" role="status">
      <span>{{ shared }}: the same music.</span>
      <button class="plain" @click="takeOffer">{{ offer.says }}</button>
      <button class="plain" @click="offer = null">No</button>
    </div>
    <details>
      <summary>Sound of this section</summary>
      <label v-for="[key, label, hint] in SOUND" :key="key" class="sound">{{ label }}
        <input class="plain" maxlength="120" v-model="sounds[key]" :placeholder="desk.score!.sound[key] || hint" @change="keepSound(key)" />
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
.offer { border-left: 4px solid var(--focus); padding-left: 0.6rem; }
.sound { margin-top: 0.4rem; }
</style>
