<script setup lang="ts">
/** One set list or class plan: its run of songs and lessons, its time, its paper, its address. */
import { computed, nextTick, onUnmounted, ref, watch } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import TypedField from "@/controls/TypedField.vue";
import { clockText } from "@/score/time";
import AddressLine from "./AddressLine.vue";
import { useActing } from "./acting";

type List = Schemas["SetListTold"];
const props = defineProps<{ list: List; groups: Schemas["GroupTold"][]; songs: { id: number; title: string }[]; lessons: Schemas["Lesson"][] }>();
const emit = defineEmits<{ changed: [list: List]; gone: [] }>();
const { complaint, act } = useActing();
const isOpen = ref(false);
const adding = ref("");
const mayEdit = computed(() => props.list.may !== "see");
const isMaking = computed(() => ["queued", "running"].includes(props.list.job?.state ?? ""));

function wish(more: Partial<Schemas["SetListRequest"]> = {}): Schemas["SetListRequest"] {
  const { title, kind, words, due, group, items, address } = props.list;
  return { title, kind, words, due, group, is_given: !!address, items: items.map(({ song, lesson, due, note }) => ({ song, lesson, due, note })), ...more };
}
/** One change after the other, each made of the list as the one before left it. */
let before: Promise<unknown> = Promise.resolve();
type Items = Schemas["ItemRequest"][];
function put(more: (items: Items) => Partial<Schemas["SetListRequest"]>): void {
  before = before.then(() => act(async () => {
    emit("changed", await brought(server.PUT("/api/set-lists/{id}", { params: of(props.list.id), body: wish(more(wish().items!)) })));
    await nextTick();
  }));
}
function moved(from: number, by: number): void {
  put((items) => {
    const [one] = items.splice(from, 1);
    items.splice(from + by, 0, one!);
    return { items };
  });
}
const changed = (at: number, more: Partial<Schemas["ItemRequest"]>) => put((items) => ({ items: items.map((i, n) => (n === at ? { ...i, ...more } : i)) }));
const without = (at: number) => put((items) => ({ items: items.filter((_, n) => n !== at) }));
/** What is added: a song ("s12") or a lesson ("l7"). */
function add(): void {
  const id = Number(adding.value.slice(1));
  const lesson = adding.value.startsWith("l") ? props.lessons.find((l) => l.id === id) : undefined;
  adding.value = "";
  if (id) put((items) => ({ items: [...items, lesson ? { song: lesson.song, lesson: id } : { song: id }] }));
}
const setDue = (day: string) => put(() => ({ due: day || null }));
const share = (group: number) => put(() => ({ group: group || null }));
const give = () => put(() => ({ is_given: !props.list.address }));
const paper = () => act(async () => emit("changed", await brought(server.POST("/api/set-lists/{id}/paper", { params: of(props.list.id) }))));
const end = () => act(async () => {
  await server.DELETE("/api/set-lists/{id}", { params: of(props.list.id) });
  emit("gone");
});
let timer: ReturnType<typeof setInterval> | undefined;
watch(isMaking, (is) => {
  clearInterval(timer);
  if (is) timer = setInterval(() => void act(async () => emit("changed", await brought(server.GET("/api/set-lists/{id}", { params: of(props.list.id) })))), 1000);
}, { immediate: true });
onUnmounted(() => clearInterval(timer));
</script>

<template>
  <article class="card list" :aria-label="list.title">
    <header>
      <button class="plain open" :aria-expanded="isOpen" :aria-label="`Open ${list.title}`" @click="isOpen = !isOpen"><i :class="isOpen ? 'pi pi-chevron-down' : 'pi pi-chevron-right'" /></button>
      <h2>{{ list.title }}</h2><span class="tag">{{ list.kind }}</span>
      <span v-if="list.due" class="figure">{{ list.due }}</span>
      <span class="soft figure">{{ list.items.length }} {{ list.items.length === 1 ? "piece" : "pieces" }}<template v-if="list.seconds">, {{ clockText(list.seconds) }}</template></span>
      <span v-if="list.may !== 'own'" class="soft">of {{ list.of }}</span>
    </header>
    <p v-if="!isOpen" class="soft run">{{ list.items.map((i) => i.lesson_title || i.title).join(" · ") || "Nothing in it yet." }}</p>
    <template v-else>
      <p v-if="list.words" class="words">{{ list.words }}</p>
      <ol>
        <li v-for="(i, n) in list.items" :key="n">
          <span class="figure place">{{ n + 1 }}</span>
          <span class="what"><RouterLink :to="{ name: i.is_ready ? (i.lesson ? 'practice' : 'chart') : 'take-in', params: { id: i.song } }"><strong>{{ i.lesson_title || i.title }}</strong></RouterLink><span class="soft">{{ i.lesson_title ? `lesson on ${i.title}` : i.artist }}</span></span>
          <span class="figure soft">{{ i.seconds ? clockText(i.seconds) : i.is_ready ? "a score" : "not heard yet" }}<template v-if="i.tempo"> · {{ Math.round(i.tempo) }}</template></span>
          <span class="share" :title="`${Math.round(i.confirmed * 100)} % confirmed`"><i :style="{ width: `${i.confirmed * 100}%` }" /></span>
          <template v-if="mayEdit">
            <TypedField v-if="list.kind === 'class plan'" class="date" type="date" :value="i.due ?? ''" :aria-label="`${i.title} is due`" @set="changed(n, { due: $event || null })" />
            <TypedField class="note" :value="i.note" maxlength="300" placeholder="note" :aria-label="`Note on ${i.title}`" @set="changed(n, { note: $event })" />
            <span class="moves"><button class="plain" :disabled="!n" :aria-label="`${i.title} earlier`" @click="moved(n, -1)"><i class="pi pi-arrow-up" /></button><button class="plain" :disabled="n === list.items.length - 1" :aria-label="`${i.title} later`" @click="moved(n, 1)"><i class="pi pi-arrow-down" /></button><button class="plain" :aria-label="`${i.title} out of the list`" @click="without(n)"><i class="pi pi-times" /></button></span>
          </template>
          <span v-else class="soft">{{ i.due }} {{ i.note }}</span>
        </li>
      </ol>
      <p v-if="mayEdit" class="line">
        <select v-model="adding" class="plain" aria-label="Add to the list" @change="add">
          <option value="">add a song or a lesson …</option>
          <optgroup label="Songs"><option v-for="s in songs" :key="s.id" :value="`s${s.id}`">{{ s.title }}</option></optgroup>
          <optgroup v-if="lessons.length" label="Lessons"><option v-for="l in lessons" :key="l.id" :value="`l${l.id}`">{{ l.title }} ({{ l.song_title }})</option></optgroup>
        </select>
        <label>Due <TypedField type="date" :value="list.due ?? ''" aria-label="The list is due" @set="setDue($event)" /></label>
        <label>Shared with <select class="plain" :value="list.group ?? 0" aria-label="Shared with" @change="share(Number(($event.target as HTMLSelectElement).value))"><option :value="0">nobody</option><option v-for="g in groups" :key="g.id" :value="g.id">{{ g.name }}</option></select></label>
      </p>
      <p class="line">
        <button class="plain" :disabled="isMaking" @click="paper">{{ isMaking ? "Putting it on paper …" : list.paper === "none" ? "All road maps on paper" : list.paper === "old" ? "On paper anew" : "On paper" }}</button>
        <a v-if="list.paper !== 'none'" class="plain" :href="`/api/set-lists/${list.id}/paper`" download>PDF{{ list.paper === "old" ? " of before" : "" }}</a>
        <template v-if="mayEdit">
          <button class="plain" @click="give">{{ list.address ? "Take the players' address back" : "Give it to players" }}</button>
          <AddressLine v-if="list.address" :address="list.address" says="Players' address" />
        </template>
        <span class="grow" /><button v-if="list.may === 'own'" class="plain" @click="end">Throw the list away</button>
      </p>
    </template>
    <p v-if="list.job?.state === 'refused'" class="wrong">{{ list.job.message }}</p>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </article>
</template>

<style scoped>
.list { padding: 0.7rem 1rem; display: grid; gap: 0.6rem; }
header, .line, li { display: flex; gap: 0.6rem; align-items: center; flex-wrap: wrap; }
header .soft:last-child { margin-left: auto; }
.open { border-color: transparent; padding: 0.3rem 0.5rem; }
.run { padding-left: 2.7rem; }
.words { white-space: pre-line; background: var(--well); border-radius: 8px; padding: 0.4rem 0.7rem; }
ol { list-style: none; margin: 0; padding: 0; display: grid; gap: 2px; }
li { padding: 0.25rem 0.4rem; border-radius: 7px; }
li:nth-child(odd) { background: var(--well); }
.place { width: 1.5rem; text-align: right; font-weight: 700; }
.what { display: flex; flex-direction: column; line-height: 1.2; flex: 1 1 11rem; }
.what a { color: var(--ink); text-decoration: none; }
.share { width: 3.4rem; height: 7px; border-radius: 4px; background: var(--line); overflow: hidden; }
.share i { display: block; height: 100%; background: var(--rh); }
.note { width: 9rem; padding: 0.2rem 0.5rem; }
.date { padding: 0.15rem 0.3rem; }
.moves { display: flex; }
.moves .plain { padding: 0.25rem 0.45rem; border-color: transparent; background: none; }
label { display: flex; gap: 0.4rem; align-items: center; }
select.plain { max-width: 14rem; }
.grow { flex: 1; }
.wrong { color: var(--warn); }
a.plain { text-decoration: none; }
</style>
