<script setup lang="ts">
/** Links that give a lesson, or the whole song, to players without an account; what they tell of their practice. */
import { onMounted, ref, shallowRef } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import { useActing } from "@/house/acting";
import TakeAlong from "./TakeAlong.vue";
import { useSong } from "@/stores/song";

type Link = Schemas["Link"];
const props = defineProps<{ first: number; last: number; order: Schemas["Stages"]["order"] }>();
const desk = useSong();
const links = shallowRef<Link[]>([]);
const { complaint, act: attempt } = useActing();
const title = ref("");
const words = ref("");
const isWhole = ref(false);
const withRecording = ref(false);
const passages = ref<Schemas["LessonPassage"][]>([]);
const copied = ref(0);

const find = () => attempt(async () => {
  links.value = (await brought(server.GET("/api/songs/{id}/player-links", { params: of(desk.id) }))).links;
});
const add = () => (passages.value = [...passages.value, { first: props.first, last: props.last, order: props.order, words: "" }]);
const make = () => attempt(async () => {
  if (!isWhole.value && !passages.value.length) add();
  const body = { title: title.value.trim() || desk.score!.title || "Lesson", words: words.value.trim(), passages: isWhole.value ? [] : passages.value, with_recording: withRecording.value };
  const made = await brought(server.POST("/api/songs/{id}/player-links", { params: of(desk.id), body }));
  links.value = [made, ...links.value];
  [title.value, words.value, passages.value] = ["", "", []];
});
const revoke = (link: Link) => attempt(async () => {
  await server.DELETE("/api/player-links/{id}", { params: { path: { id: link.id } } });
  links.value = links.value.filter((l) => l.id !== link.id);
});
const addressOf = (link: Link) => `${location.origin}${link.address}`;
async function copy(link: Link): Promise<void> {
  await navigator.clipboard?.writeText(addressOf(link)).catch(() => {});
  copied.value = link.id;
}
onMounted(() => void find());
</script>

<template>
  <div class="links">
    <section class="card" aria-label="A new link">
      <h2>Give it to a player</h2>
      <p class="soft">Whoever has the address can open it, on a phone too, without an account, until you revoke it.</p>
      <label>Title <input v-model="title" class="plain" maxlength="120" aria-label="Title of the link" :placeholder="desk.score!.title || 'Lesson'"></label>
      <label>My words <textarea v-model="words" class="plain" rows="3" maxlength="2000" aria-label="My words" /></label>
      <label class="line"><input v-model="isWhole" type="checkbox"> the whole song</label>
      <template v-if="!isWhole">
        <ol class="passages" aria-label="Passages of the lesson">
          <li v-for="(p, n) in passages" :key="n"><strong class="figure">{{ p.first }}–{{ p.last }}</strong><input v-model="p.words" class="plain" maxlength="1000" :aria-label="`Words for bars ${p.first} to ${p.last}`" placeholder="a word of mine"><button class="plain" aria-label="Leave it out" @click="passages = passages.filter((_, k) => k !== n)"><i class="pi pi-times" /></button></li>
        </ol>
        <button class="plain" @click="add"><i class="pi pi-plus" /> bars {{ first }}–{{ last }}, as under Stages</button>
      </template>
      <label class="line"><input v-model="withRecording" type="checkbox"> <span>the recording may sound there (you have the right to share it)</span></label>
      <button class="plain big" @click="make">Make the link</button>
      <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    </section>
    <section class="card" aria-label="Links given out">
      <h2>Given out</h2>
      <p v-if="!links.length" class="soft">None yet.</p>
      <article v-for="link in links" :key="link.id" class="link">
        <p class="line"><strong>{{ link.title }}</strong><span class="soft">{{ link.whole ? "the whole song" : `${link.passages.length} ${link.passages.length === 1 ? "passage" : "passages"}` }}{{ link.with_recording ? ", with the recording" : "" }}</span></p>
        <p class="line"><a :href="link.address" target="_blank" rel="noopener">{{ addressOf(link) }}</a></p>
        <p class="line"><button class="plain" @click="copy(link)">{{ copied === link.id ? "Copied" : "Copy" }}</button><a class="plain" :href="`/api/player-links/${link.id}/sheet`" download>On paper</a><button class="plain" @click="revoke(link)">Revoke</button></p>
        <table v-if="link.progress.length"><tbody><tr v-for="p in link.progress" :key="p.name + p.at"><th>{{ p.name }}</th><td class="figure">{{ Math.round(p.minutes) }} min</td><td>{{ p.stages.filter((s) => s.is_learned).length }} stages learned</td><td class="soft">{{ p.at.slice(0, 10) }}</td></tr></tbody></table>
        <p v-else class="soft">No player has told anything yet.</p>
      </article>
    </section>
    <TakeAlong :first="first" :last="last" :order="order" />
  </div>
</template>

<style scoped>
.links { display: grid; grid-template-columns: repeat(auto-fit, minmax(22rem, 1fr)); gap: 0.7rem; align-items: start; }
.card { padding: 0.8rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
h2, p { margin: 0; }
label { display: grid; gap: 0.15rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
label.line { flex-wrap: nowrap; }
.line a { overflow-wrap: anywhere; }
.passages { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.3rem; }
.passages li { display: grid; grid-template-columns: 4.5rem 1fr auto; gap: 0.4rem; align-items: center; }
.link { display: grid; gap: 0.4rem; border-top: 1px solid var(--line); padding-top: 0.6rem; }
.big { padding: 0.5rem 0.9rem; }
td, th { padding: 0.1rem 0.7rem 0.1rem 0; text-align: left; }
.wrong { color: var(--warn); }
</style>
