<script setup lang="ts">
/** A request becomes a song: title, artist, who asked, by when, how deep, its recording. */
import Button from "primevue/button";
import DatePicker from "primevue/datepicker";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import SelectButton from "primevue/selectbutton";
import { ref, watch } from "vue";
import type { Song } from "@/api/client";
import { useShelf } from "@/stores/shelf";
import DropZone from "./DropZone.vue";

const visible = defineModel<boolean>("visible", { required: true });
const emit = defineEmits<{ made: [song: Song] }>();
const shelf = useShelf();
const title = ref("");
const artist = ref("");
const askedBy = ref("");
const due = ref<Date | null>(null);
const depth = ref<"outline" | "every_bar">("every_bar");
const file = ref<File | null>(null);
const made = ref<Song | null>(null);
const complaint = ref("");
const sent = ref<number | null>(null);
const DEPTHS = [
  { label: "Every bar", value: "every_bar" },
  { label: "The outline", value: "outline" },
];

watch(visible, (is) => {
  if (!is) return;
  title.value = artist.value = askedBy.value = complaint.value = "";
  due.value = null;
  depth.value = "every_bar";
  file.value = made.value = sent.value = null;
});

function chosen(f: File): void {
  file.value = f;
  if (!title.value) title.value = f.name.replace(/\.[^.]+$/, "").replace(/[_-]+/g, " ");
}

function isoDay(d: Date): string {
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;
}

async function add(): Promise<void> {
  complaint.value = "";
  try {
    const fields = {
      title: title.value,
      artist: artist.value,
      asked_by: askedBy.value,
      due: due.value ? isoDay(due.value) : null,
      depth: depth.value,
    };
    if (made.value) await shelf.change(made.value.id, fields);
    else made.value = await shelf.add(fields);
    if (file.value) {
      sent.value = 0;
      await shelf.takeIn(made.value.id, file.value, (s) => (sent.value = s));
    }
    visible.value = false;
    emit("made", made.value);
  } catch (problem) {
    complaint.value = (problem as Error).message;
    if (made.value && file.value) complaint.value += " The song itself is on the shelf.";
  } finally {
    sent.value = null;
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Add a song" :style="{ width: '40rem' }">
    <form @submit.prevent="add">
      <DropZone :file="file" :sent="sent" @chosen="chosen" />
      <div class="two">
        <label>Title <InputText v-model="title" required maxlength="200" /></label>
        <label>Artist <InputText v-model="artist" maxlength="200" /></label>
        <label>Asked by <InputText v-model="askedBy" maxlength="120" placeholder="a student, the band, yourself" /></label>
        <label>Due <DatePicker v-model="due" date-format="yy-mm-dd" show-icon icon-display="input" /></label>
      </div>
      <div class="depth"><span id="depth">How deep</span>
        <SelectButton v-model="depth" :options="DEPTHS" option-label="label" option-value="value" :allow-empty="false" aria-labelledby="depth" />
      </div>
      <p v-if="complaint" class="complaint" role="alert">{{ complaint }}</p>
      <footer>
        <Button type="button" label="Cancel" severity="secondary" text @click="visible = false" />
        <Button type="submit" :label="file ? 'Add and hear it' : 'Add without a recording'" :loading="sent !== null" :disabled="!title.trim()" />
      </footer>
    </form>
  </Dialog>
</template>

<style scoped>
form { display: grid; gap: 1rem; }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 0.8rem 1rem; }
label { display: grid; gap: 0.25rem; font-weight: 700; }
.depth { display: flex; gap: 1rem; align-items: center; font-weight: 700; }
footer { display: flex; justify-content: flex-end; gap: 0.5rem; }
.complaint { color: var(--lh); }
</style>
