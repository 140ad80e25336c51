<script setup lang="ts">
/** Shelf: which songs are asked for, by whom, by when, how far is each, what next. */
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable, { type DataTableRowClickEvent, type DataTableSortEvent } from "primevue/datatable";
import InputText from "primevue/inputtext";
import SelectButton from "primevue/selectbutton";
import { useToast } from "primevue/usetoast";
import { refDebounced } from "@vueuse/core";
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from "vue";
import { useRouter } from "vue-router";
import { brought, retryWhileAway, server, type Schemas, type Song } from "@/api/client";
import NewSong from "@/desk/NewSong.vue";
import TopBar from "@/desk/TopBar.vue";
import HouseNav from "@/house/HouseNav.vue";
import SongSheet from "@/house/SongSheet.vue";
import { hasPart, useShelf, type Wanted } from "@/stores/shelf";

const shelf = useShelf();
const router = useRouter();
let isHere = true;
const toast = useToast();
const typed = ref("");
const search = refDebounced(typed, 200);
const group = ref<Wanted["group"]>(undefined);
const order = ref<NonNullable<Wanted["order"]>[number]>("due");
/** Which song of all that are wanted stands at the top. */
const first = ref(0);
const isAdding = ref(false);
const complaint = ref("");
const removed = ref<Song | null>(null);
const tag = ref("");
const tags = shallowRef<string[]>([]);
const forecast = shallowRef<Schemas["Forecasts"] | null>(null);
const shownId = ref<number | null>(null);
const shown = computed(() => (shownId.value === null ? null : (shelf.get(shownId.value) ?? null)));
const chooser = ref<HTMLInputElement | null>(null);
const broughtIn = ref<Schemas["BroughtIn"] | null>(null);

const STAGES: Record<Song["stage"], { label: string; step: number }> = {
  asked: { label: "No recording yet", step: 0 },
  hearing: { label: "Being heard", step: 1 },
  refused: { label: "Recording refused", step: 1 },
  heard: { label: "Heard, to be corrected", step: 2 },
  corrected: { label: "Being corrected", step: 3 },
  confirmed: { label: "Confirmed", step: 4 },
};
const GROUPS = [
  { label: "All", value: undefined },
  { label: "Asked for", value: "asked" },
  { label: "On the desk", value: "desk" },
  { label: "Bin", value: "bin" },
] as const;
const PAGE = 50;

const wanted = computed<Wanted>(() => ({
  search: search.value.trim() || undefined,
  group: group.value,
  tag: tag.value || undefined,
  order: [order.value],
  page: 1 + first.value / PAGE,
}));
const rows = computed(() => (shelf.page?.ids ?? []).map((id) => shelf.get(id)).filter((s) => s !== undefined));
const isNarrowed = computed(() => !!(wanted.value.search || wanted.value.group || wanted.value.tag));

let timer: ReturnType<typeof setInterval>;
const load = () => retryWhileAway(() => shelf.load(wanted.value), (why) => (complaint.value = why), () => isHere);
/** What stands beside the list; without it the list is as good. */
async function findMore(): Promise<void> {
  tags.value = await brought(server.GET("/api/songs/tags")).then((t) => t.tags, () => []);
  forecast.value = await brought(server.GET("/api/forecast")).catch(() => null);
}
onMounted(() => {
  void findMore();
  timer = setInterval(() => {
    const waiting = rows.value.filter((s) => s.stage === "hearing").length;
    if (!waiting) return;
    void shelf.load(wanted.value).then(() => {
      // What is left to do is known once a song was heard.
      if (rows.value.filter((s) => s.stage === "hearing").length < waiting) void findMore();
    }, () => {});
  }, 1500);
});
watch([search, group, tag], () => (first.value = 0));
watch(group, () => (removed.value = null));
watch(wanted, () => load().catch((problem: Error) => (complaint.value = problem.message)), { immediate: true });
onUnmounted(() => {
  isHere = false;
  clearInterval(timer);
});

function sort(e: DataTableSortEvent): void {
  order.value = `${e.sortOrder === -1 ? "-" : ""}${e.sortField as "title"}`;
}

/** What of a song's bars (of an outline: of its passages) is confirmed, and how many questions the review still asks. */
function left(song: Song): string {
  if (!song.bars || song.stage === "confirmed") return "";
  const isOutline = song.depth === "outline" && song.wanted;
  const share = Math.round(isOutline ? (100 * (song.wanted_confirmed ?? 0)) / song.wanted! : (100 * (song.confirmed ?? 0)) / song.bars);
  const doubts = song.doubts ? `${song.doubts} doubt${song.doubts > 1 ? "s" : ""} open` : "no doubt open";
  return share ? `${share} % confirmed, ${doubts}` : doubts;
}

/** Minutes of work that are left at one's own pace, in words. */
function minutesLeft(song: Song): string {
  const told = forecast.value?.songs.find((f) => f.song === song.id);
  if (!told) return "";
  const half = Math.round(told.likely / 30) / 2;
  return told.likely < 55 ? `about ${Math.max(5, 5 * Math.round(told.likely / 5))} min left` : `about ${half} ${half === 1 ? "hour" : "hours"} left`;
}

function due(song: Song): { text: string; isNear: boolean } {
  if (!song.due) return { text: "no date", isNear: false };
  const today = new Date().toISOString().slice(0, 10);
  const days = Math.round((Date.parse(song.due) - Date.parse(today)) / 86_400_000);
  if (days < 0) return { text: `${-days} day${days === -1 ? "" : "s"} late`, isNear: true };
  if (days === 0) return { text: "today", isNear: true };
  return { text: days === 1 ? "tomorrow" : `in ${days} days`, isNear: days <= 3 };
}

function open(song: Song): void {
  if (song.removed) return;
  void router.push({ name: hasPart(song) ? "map" : "take-in", params: { id: song.id } });
}

async function bringIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  input.value = "";
  if (!file) return;
  try {
    broughtIn.value = await shelf.bringIn(file);
    await load();
  } catch (problem) {
    toast.add({ severity: "error", summary: (problem as Error).message, life: 8000 });
  }
}

async function outOfTheBin(song: Song, forGood: boolean): Promise<void> {
  try {
    await (forGood ? shelf.erase(song.id) : shelf.restore(song.id));
    if (removed.value?.id === song.id) removed.value = null;
    await load();
  } catch (problem) {
    toast.add({ severity: "error", summary: (problem as Error).message, life: 6000 });
  }
}
/** Days until a song of the bin is gone for good. */
const daysLeft = (song: Song) => Math.max(0, 30 - Math.floor((Date.now() - Date.parse(song.removed!)) / 86_400_000));

async function remove(song: Song): Promise<void> {
  const from = group.value;
  try {
    await shelf.remove(song.id);
    // Whoever went on to another list meanwhile sees the song there, not an offer to bring it back.
    if (group.value === from) removed.value = song;
    else await load();
  } catch (problem) {
    toast.add({ severity: "error", summary: (problem as Error).message, life: 6000 });
  }
}

async function takeBack(song: Song): Promise<void> {
  try {
    await shelf.takeBack(song.id);
  } catch (problem) {
    toast.add({ severity: "error", summary: (problem as Error).message, life: 6000 });
  }
}

async function bringBack(): Promise<void> {
  if (removed.value) await shelf.restore(removed.value.id);
  removed.value = null;
  await load();
}
</script>

<template>
  <TopBar><HouseNav /></TopBar>
  <main>
    <header>
      <h1>Shelf</h1>
      <SelectButton v-model="group" :options="[...GROUPS]" option-label="label" option-value="value" :allow-empty="false" aria-label="Show" />
      <select v-if="tags.length" v-model="tag" class="plain" aria-label="Tag"><option value="">every tag</option><option v-for="t in tags" :key="t">{{ t }}</option></select>
      <span class="grow" />
      <InputText v-model="typed" placeholder="Search title, artist, who asked" aria-label="Search" class="search" />
      <button class="plain" title="A song package, MusicXML, MIDI, text tab, count text or a table of strokes" @click="chooser?.click()"><i class="pi pi-download" /> Bring in a file</button>
      <input ref="chooser" type="file" hidden aria-label="File of a song" accept=".orchesis,.musicxml,.xml,.mid,.midi,.tab,.txt,.count,.csv" @change="bringIn">
      <Button label="Add a song" icon="pi pi-plus" @click="isAdding = true" />
    </header>
    <p v-if="forecast?.says && !isNarrowed" class="soft says">{{ forecast.says }}</p>
    <p v-if="broughtIn" class="notice" role="status"><RouterLink :to="{ name: broughtIn.has_part ? 'map' : 'take-in', params: { id: broughtIn.song } }">“{{ broughtIn.title }}”</RouterLink> is on the shelf.<template v-if="broughtIn.lost.length"> Not kept: {{ broughtIn.lost.join("; ") }}.</template></p>
    <p v-if="complaint" class="notice" role="alert">{{ complaint }}</p>
    <p v-if="removed" class="notice">
      “{{ removed.title }}” was taken off the shelf.
      <button class="plain" @click="bringBack">Bring it back</button>
    </p>
    <DataTable
      v-if="shelf.page"
      v-model:first="first"
      :value="rows"
      data-key="id"
      lazy
      :paginator="shelf.page.count > PAGE"
      :rows="PAGE"
      :total-records="shelf.page.count"
      :sort-field="order.replace('-', '')"
      :sort-order="order.startsWith('-') ? -1 : 1"
      row-hover
      @sort="sort"
      class="table"
      @row-click="(e: DataTableRowClickEvent) => open(e.data as Song)"
    >
      <template #empty>
        <div class="empty">
          <p v-if="isNarrowed">No song here matches “{{ search || GROUPS.find((g) => g.value === group)?.label }}”.</p>
          <template v-else>
            <p><strong>The shelf is empty.</strong> Add the first song that somebody asked you for.</p>
            <Button label="Add a song" icon="pi pi-plus" @click="isAdding = true" />
          </template>
        </div>
      </template>
      <Column field="title" header="Song" sortable>
        <template #body="{ data }">
          <RouterLink
            class="title"
            :to="{ name: hasPart(data) ? 'map' : 'take-in', params: { id: data.id } }"
            @click.stop
          >{{ data.title }}</RouterLink>
          <div class="soft">{{ data.artist }}<template v-if="data.may !== 'own'"> · {{ data.of }} shares it</template><span v-for="t in data.tags" :key="t" class="tag">{{ t }}</span></div>
          <div v-if="data.trouble" class="near" role="alert">
            {{ data.trouble }} <button class="plain" @click.stop="takeBack(data)">Undo the last change</button>
          </div>
        </template>
      </Column>
      <Column field="asked_by" header="Asked by" sortable>
        <template #body="{ data }">{{ data.asked_by }}<div v-if="data.votes" class="soft figure">{{ data.votes }} {{ data.votes === 1 ? "vote" : "votes" }}</div></template>
      </Column>
      <Column field="due" header="Due" sortable>
        <template #body="{ data }">
          <span :class="['figure', 'day', { near: due(data).isNear }]">{{ due(data).text }}</span>
          <div v-if="data.due" class="soft figure day">{{ data.due }}</div>
        </template>
      </Column>
      <Column field="depth" header="How deep">
        <template #body="{ data }">{{ data.depth === "outline" ? "Outline" : "Every bar" }}</template>
      </Column>
      <Column field="tempo" header="Tempo" sortable>
        <template #body="{ data }">
          <span v-if="data.tempo" class="figure">{{ Math.round(data.tempo) }} <span class="soft">bpm, {{ data.bars }} bars</span></span>
        </template>
      </Column>
      <Column header="How far">
        <template #body="{ data }">
          <div class="far" :title="STAGES[data.stage as Song['stage']].label">
            <i v-for="n in 4" :key="n" :class="{ done: n <= STAGES[data.stage as Song['stage']].step, bad: data.stage === 'refused' && n === 1 }" />
          </div>
          <span :class="{ near: data.stage === 'refused' }">{{ STAGES[data.stage as Song["stage"]].label }}</span>
          <div v-if="left(data)" class="soft figure">{{ left(data) }}</div>
          <div v-if="data.stage !== 'confirmed' && minutesLeft(data)" class="soft figure">{{ minutesLeft(data) }}</div>
        </template>
      </Column>
      <Column header="">
        <template #body="{ data }">
          <div v-if="data.removed" class="acts">
            <span class="soft figure">{{ daysLeft(data) }} days left</span>
            <button class="plain" @click.stop="outOfTheBin(data, false)">Bring back</button>
            <button class="plain" :aria-label="`Delete ${data.title} for good`" @click.stop="outOfTheBin(data, true)">Delete</button>
          </div>
          <div v-else class="acts">
            <button class="plain quiet" :aria-label="`Share and describe ${data.title}`" title="Share, tags, request, as a file" @click.stop="shownId = data.id">
              <i :class="data.groups.length ? 'pi pi-users' : 'pi pi-ellipsis-h'" />
            </button>
            <button v-if="data.may === 'own'" class="plain quiet" :aria-label="`Take ${data.title} off the shelf`" title="Take off the shelf" @click.stop="remove(data)">
              <i class="pi pi-times" />
            </button>
          </div>
        </template>
      </Column>
    </DataTable>
    <p v-else-if="!complaint" class="soft">Fetching the shelf …</p>
    <SongSheet :song="shown" @close="shownId = null" />
    <NewSong v-model:visible="isAdding" @made="open" />
  </main>
</template>

<style scoped>
main { max-width: 1240px; margin: 0 auto; padding: 1.4rem; }
header { display: flex; align-items: center; gap: 1rem; flex-wrap: wrap; margin-bottom: 1rem; }
.grow { flex: 1; }
.search { width: 15rem; }
.day { white-space: nowrap; }
.says { margin: -0.4rem 0 0.8rem; }
.acts { display: flex; gap: 0.2rem; justify-content: flex-end; align-items: center; white-space: nowrap; }
.table :deep(tr) { cursor: pointer; }
.title { font-weight: 700; font-size: 1.05rem; color: var(--ink); text-decoration: none; }
.title:hover { text-decoration: underline; }
.near { color: var(--warn); font-weight: 700; }
.far { display: flex; gap: 3px; margin-bottom: 3px; }
.far i { width: 1.5rem; height: 7px; border-radius: 3px; background: var(--line); }
.far i.done { background: var(--rh); }
.far i.bad { background: var(--lh); }
.quiet { border-color: transparent; background: none; color: var(--ink-faint); }
.empty { padding: 3rem; text-align: center; display: grid; gap: 1rem; justify-items: center; }
.notice { background: var(--warn-well); color: var(--warn); padding: 0.6rem 1rem; border-radius: 8px; margin-bottom: 1rem; }
</style>
