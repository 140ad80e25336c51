<script setup lang="ts">
/** Lessons for students without an account: put together, given by a link, updated, and what students tell of their practice. */
import { onMounted, ref, shallowRef } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import { useActing, whole } from "@/house/acting";
import { useSong } from "@/stores/song";
import LessonEditor from "./LessonEditor.vue";
import { useLessonDraft } from "./lessonDraft";
import TakeAlong from "./TakeAlong.vue";

type Link = Schemas["Link"];
defineProps<{ first: number; last: number; order: Schemas["Stages"]["order"] }>();
const desk = useSong();
const links = shallowRef<Link[]>([]);
const { complaint, act: attempt } = useActing();
const own = useLessonDraft(desk.id);
const isBusy = ref(false);
const copied = ref(0);
/** The lesson that is asked about: whether to stop sharing it. */
const ending = ref(0);
/** The lesson of which the changes are shown. */
const looking = ref(0);

const find = () => attempt(async () => {
  links.value = (await brought(server.GET("/api/songs/{id}/player-links", { params: of(desk.id) }))).links;
});
const put = (link: Link) => (links.value = links.value.some((l) => l.id === link.id) ? links.value.map((l) => (l.id === link.id ? link : l)) : [link, ...links.value]);
const byId = (id: number) => ({ path: { id } });
const give = () => attempt(async () => {
  isBusy.value = true;
  try {
    const { id } = own.draft.value;
    const body = own.body(desk.score!.title);
    put(await brought(id ? server.PUT("/api/player-links/{id}", { params: byId(id), body }) : server.POST("/api/songs/{id}/player-links", { params: of(desk.id), body })));
    own.clear();
  } finally {
    isBusy.value = false;
  }
});
const update = (link: Link) => attempt(async () => {
  put(await brought(server.POST("/api/player-links/{id}/update", { params: byId(link.id) })));
  looking.value = 0;
});
const revoke = (link: Link) => attempt(async () => {
  await server.DELETE("/api/player-links/{id}", { params: byId(link.id) });
  links.value = links.value.filter((l) => l.id !== link.id);
  ending.value = 0;
  if (own.draft.value.id === link.id) own.clear();
});
async function copy(link: Link): Promise<void> {
  await navigator.clipboard?.writeText(whole(link.address)).catch(() => {});
  copied.value = link.id;
}
const holds = (link: Link) => (link.whole ? "the whole song" : `${link.passages.length} ${link.passages.length === 1 ? "passage" : "passages"}`);
onMounted(() => void find());
</script>

<template>
  <div class="links">
    <LessonEditor :own="own" :is-busy="isBusy" @give="give" @cancel="own.clear()" />
    <section class="card" aria-label="Lessons given">
      <h2>Lessons given</h2>
      <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
      <p v-if="!links.length" class="soft">None yet.</p>
      <article v-for="link in links" :key="link.id" class="link" :aria-label="link.title">
        <p class="line"><strong>{{ link.title }}</strong><span class="soft">{{ holds(link) }}{{ link.with_recording ? ", with the recording" : "" }}</span></p>
        <p class="line"><a :href="link.address" target="_blank" rel="noopener">{{ whole(link.address) }}</a></p>
        <div v-if="link.is_old" class="old">
          <p v-if="link.changes.length">You changed the part since. Students still see it as it was.</p>
          <p v-else>You changed the song since, but nothing in this lesson.</p>
          <ul v-if="looking === link.id"><li v-for="says in link.changes" :key="says">{{ says }}</li></ul>
          <p class="line">
            <button v-if="link.changes.length" class="plain" :aria-expanded="looking === link.id" @click="looking = looking === link.id ? 0 : link.id">{{ looking === link.id ? "Hide the changes" : `Show the changes (${link.changes.length})` }}</button>
            <button class="plain" @click="update(link)">Update for students</button>
          </p>
        </div>
        <p v-if="ending === link.id" class="line ask" role="alertdialog" :aria-label="`Stop sharing ${link.title}?`">
          <span>Stop sharing? Nobody can open this link any more.</span>
          <button class="plain" @click="revoke(link)">Stop sharing</button><button class="plain" @click="ending = 0">Keep it</button>
        </p>
        <p v-else class="line">
          <button class="plain" @click="copy(link)">{{ copied === link.id ? "Copied" : "Copy the link" }}</button>
          <button class="plain" @click="own.open(link)">Change</button>
          <button class="plain" @click="own.duplicate(link)">Duplicate</button>
          <a class="plain" :href="`/api/player-links/${link.id}/sheet`" download>Print</a>
          <button class="plain" @click="ending = link.id">Stop sharing …</button>
        </p>
        <table v-if="link.progress.length"><tbody><tr v-for="p in link.progress" :key="p.name + p.at"><th>{{ p.name }}</th><td class="figure">{{ Math.round(p.minutes) }} min</td><td>{{ p.stages.filter((s) => s.is_learned).length }} steps learned</td><td class="soft">{{ p.at.slice(0, 10) }}</td></tr></tbody></table>
        <p v-else class="soft">No student has shared anything yet.</p>
      </article>
    </section>
    <TakeAlong :first="first" :last="last" :order="order" />
  </div>
</template>

<style scoped>
.links { display: grid; grid-template-columns: repeat(auto-fit, minmax(22rem, 1fr)); gap: 0.7rem; align-items: start; }
.card { padding: 0.8rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
h2, p { margin: 0; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.line a { overflow-wrap: anywhere; }
.link { display: grid; gap: 0.4rem; border-top: 1px solid var(--line); padding-top: 0.6rem; }
.old { background: var(--well); border-radius: 8px; padding: 0.5rem 0.7rem; display: grid; gap: 0.4rem; }
.old ul { margin: 0; padding-left: 1.2rem; }
.ask { background: var(--warn-well); color: var(--warn); border-radius: 8px; padding: 0.4rem 0.6rem; }
td, th { padding: 0.1rem 0.7rem 0.1rem 0; text-align: left; }
.wrong { color: var(--warn); }
</style>
