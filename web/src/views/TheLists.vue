<script setup lang="ts">
/** Lists and lessons: what is played in which order, what is learned by when. */
import Button from "primevue/button";
import { onMounted, ref, shallowRef } from "vue";
import { brought, server, type Schemas } from "@/api/client";
import TopBar from "@/desk/TopBar.vue";
import AddressLine from "@/house/AddressLine.vue";
import HouseNav from "@/house/HouseNav.vue";
import SetListCard from "@/house/SetListCard.vue";
import { useActing } from "@/house/acting";

type List = Schemas["SetListTold"];
const lists = shallowRef<List[] | null>(null);
const lessons = shallowRef<Schemas["Lesson"][]>([]);
const groups = shallowRef<Schemas["GroupTold"][]>([]);
const songs = shallowRef<{ id: number; title: string }[]>([]);
const title = ref("");
const kind = ref<List["kind"]>("set list");
const { complaint, act } = useActing();
const find = () => act(async () => {
  const [l, k, g, s] = await Promise.all([
    brought(server.GET("/api/set-lists")), brought(server.GET("/api/lessons")), brought(server.GET("/api/groups")),
    brought(server.GET("/api/songs", { params: { query: { size: 300, order: ["title"] } } })),
  ]);
  [lists.value, lessons.value, groups.value, songs.value] = [l.lists, k.lessons, g.groups, s.results];
});
onMounted(find);
const make = () => act(async () => {
  const made = await brought(server.POST("/api/set-lists", { body: { title: title.value.trim(), kind: kind.value } }));
  lists.value = [made, ...(lists.value ?? [])];
  title.value = "";
});
const put = (list: List) => (lists.value = lists.value!.map((l) => (l.id === list.id ? list : l)));
</script>

<template>
  <TopBar><HouseNav /></TopBar>
  <main>
    <header>
      <h1>Lists</h1>
      <form class="line" @submit.prevent="make">
        <input v-model="title" class="plain" maxlength="120" placeholder="Friday at the harbour, spring term …" aria-label="Title of a new list">
        <select v-model="kind" class="plain" aria-label="Kind of list"><option>set list</option><option>class plan</option></select>
        <Button type="submit" label="New list" icon="pi pi-plus" size="small" :disabled="!title.trim() || !lists" />
      </form>
    </header>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <SetListCard v-for="l in lists ?? []" :key="l.id" :list="l" :groups="groups" :songs="songs" :lessons="lessons" @changed="put" @gone="find" />
    <p v-if="lists && !lists.length" class="soft">No list yet. A set list is a run of songs for an evening, with its time and all road maps on one paper; a class plan is a run of lessons with dates.</p>
    <header><h1>Lessons</h1></header>
    <p v-if="lists && !lessons.length" class="soft">No lesson yet. Lessons are made in a song's Practice room, under Players: chosen passages in stages, with your words.</p>
    <table v-if="lessons.length" class="card lessons">
      <thead><tr><th>Lesson</th><th>Song</th><th>Passages</th><th>Players</th><th>Address</th></tr></thead>
      <tbody>
        <tr v-for="l in lessons" :key="l.id">
          <td><strong>{{ l.title }}</strong><div class="soft short">{{ l.words }}</div></td>
          <td><RouterLink :to="{ name: 'practice', params: { id: l.song } }">{{ l.song_title }}</RouterLink></td>
          <td class="figure">{{ l.passages }}</td><td class="figure">{{ l.players || "none yet" }}</td>
          <td><AddressLine :address="l.address" :says="`Address of ${l.title}`" /></td>
        </tr>
      </tbody>
    </table>
  </main>
</template>

<style scoped>
main { max-width: 1240px; margin: 0 auto; padding: 1.4rem; display: grid; gap: 0.8rem; }
header, .line { display: flex; gap: 0.6rem; align-items: center; flex-wrap: wrap; }
header form { margin-left: auto; }
header form input { width: 18rem; max-width: 60vw; }
header + header { margin-top: 1rem; }
.lessons { border-spacing: 0; width: 100%; }
.lessons th, .lessons td { text-align: left; padding: 0.5rem 0.9rem; border-bottom: 1px solid var(--line); vertical-align: top; }
.short { max-width: 22rem; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.wrong { color: var(--warn); }
</style>
