<script setup lang="ts">
/** What a song is to others: with whom it is shared, its tags, its request, itself as a file. */
import Dialog from "primevue/dialog";
import { computed, ref, shallowRef, watch } from "vue";
import { brought, server, type Schemas, type Song } from "@/api/client";
import { useShelf } from "@/stores/shelf";
import { useActing } from "./acting";

const props = defineProps<{ song: Song | null }>();
const emit = defineEmits<{ close: [] }>();
const shelf = useShelf();
const groups = shallowRef<Schemas["GroupTold"][]>([]);
const tag = ref("");
const minutes = ref<number | null>(null);
const { complaint, act } = useActing();
const fields = ref({ title: "", artist: "", asked_by: "", due: "", depth: "every_bar" as Song["depth"] });
watch(() => props.song?.id, () => {
  const s = props.song;
  if (!s) return;
  complaint.value = "";
  fields.value = { title: s.title, artist: s.artist ?? "", asked_by: s.asked_by ?? "", due: s.due ?? "", depth: s.depth };
  if (s.may === "own") void act(async () => void (groups.value = (await brought(server.GET("/api/groups"))).groups));
});
const mayEdit = computed(() => props.song?.may !== "see");
const change = (what: Parameters<typeof shelf.change>[1]) => act(() => shelf.change(props.song!.id, what));
const keep = () => change({ ...fields.value, due: fields.value.due || null });
function share(group: number): void {
  const now = props.song!.groups ?? [];
  void change({ groups: now.includes(group) ? now.filter((g) => g !== group) : [...now, group] });
}
function addTag(): void {
  const word = tag.value.trim().toLowerCase().slice(0, 40);
  tag.value = "";
  if (word && !props.song!.tags?.includes(word)) void change({ tags: [...(props.song!.tags ?? []), word] });
}
const spend = () => act(async () => {
  await server.POST("/api/songs/{id}/minutes", { params: { path: { id: props.song!.id } }, body: { minutes: Number(minutes.value) } });
  minutes.value = null;
});
</script>

<template>
  <Dialog :visible="!!song" modal :header="song?.title ?? ''" :style="{ width: '38rem' }" @update:visible="emit('close')">
    <div v-if="song" class="sheet">
      <form v-if="mayEdit" class="two" @submit.prevent="keep">
        <label>Title <input v-model="fields.title" class="plain" maxlength="200" required></label>
        <label>Artist <input v-model="fields.artist" class="plain" maxlength="200"></label>
        <label>Asked by <input v-model="fields.asked_by" class="plain" maxlength="120"></label>
        <label>Due <input v-model="fields.due" class="plain" type="date"></label>
        <label>How deep <select v-model="fields.depth" class="plain"><option value="every_bar">every bar</option><option value="outline">the outline: its passages</option></select></label>
        <button class="plain end">Keep</button>
      </form>
      <section aria-label="Tags">
        <h3>Tags</h3>
        <p class="line"><span v-for="t in song.tags" :key="t" class="tag">{{ t }}<button v-if="mayEdit" class="bare" :aria-label="`Without ${t}`" @click="change({ tags: song.tags!.filter((x) => x !== t) })"><i class="pi pi-times" /></button></span><input v-if="mayEdit && (song.tags?.length ?? 0) < 12" v-model="tag" class="plain small" maxlength="40" placeholder="one more" aria-label="Another tag" @keydown.enter.prevent="addTag" @change="addTag"></p>
      </section>
      <section v-if="song.may === 'own'" aria-label="Shared with">
        <h3>Shared with</h3>
        <p v-if="groups.length" class="line"><button v-for="g in groups" :key="g.id" :class="['plain', { on: song.groups?.includes(g.id) }]" :aria-pressed="song.groups?.includes(g.id)" @click="share(g.id)">{{ g.name }}</button></p>
        <p v-else class="soft">Nobody. A band or a class is founded under <RouterLink :to="{ name: 'people' }">People and account</RouterLink>.</p>
        <p class="soft">Players of a group see, practise and comment; its editors change the song too.</p>
      </section>
      <p v-else class="soft">{{ song.of }} shares this song with you{{ song.may === "see" ? ", to play along" : "" }}.</p>
      <section v-if="mayEdit" aria-label="As a file">
        <h3>As a file</h3>
        <p class="line"><a class="plain" :href="`/api/songs/${song.id}/package`" download>Song package without sound</a><a v-if="song.may === 'own'" class="plain" :href="`/api/songs/${song.id}/package?sound=1`" download>with its recordings</a></p>
      </section>
      <form v-if="mayEdit && song.bars" class="line" @submit.prevent="spend">
        <label class="line">Worked away from the desk <input v-model.number="minutes" class="plain small" type="number" min="-600" max="600" aria-label="Minutes worked away from the desk"> minutes</label><button class="plain" :disabled="!minutes">Count them</button>
      </form>
      <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    </div>
  </Dialog>
</template>

<style scoped>
.sheet, section { display: grid; gap: 0.5rem; }
.sheet { gap: 1.1rem; }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 0.6rem 0.9rem; align-items: end; }
.two label { display: grid; gap: 0.15rem; }
.end { justify-self: end; }
h3 { font-size: 1rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.small { width: 7rem; padding: 0.2rem 0.5rem; }
.bare { border: 0; background: none; color: inherit; cursor: pointer; padding: 0 0 0 0.4rem; font-size: 0.75rem; }
.wrong { color: var(--warn); }
a.plain { text-decoration: none; }
</style>
