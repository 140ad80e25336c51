<script setup lang="ts">
/** What people say about a song, who changed what, and the versions that have a name. */
import { computed, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { brought, of, server, type Schemas } from "@/api/client";
import { useActing } from "@/house/acting";
import { usePlayback } from "@/stores/playback";
import { useSession } from "@/stores/session";
import { useSong } from "@/stores/song";

type Comment = Schemas["CommentTold"];
const props = defineProps<{ mayEdit: boolean }>();
const emit = defineEmits<{ close: [] }>();
const desk = useSong();
const playback = usePlayback();
const session = useSession();
const route = useRoute();
const router = useRouter();
const { complaint, act } = useActing();
const shown = ref<"comments" | "history">("comments");
const comments = shallowRef<Comment[]>([]);
const people = shallowRef<string[]>([]);
const history = shallowRef<Schemas["History"] | null>(null);
const differences = shallowRef<{ id: number; told: Schemas["VersionDifferences"] } | null>(null);
const withSettled = ref(false);
const about = ref<"bar" | "section" | "song">("bar");
const words = ref("");
const answering = ref<number | null>(null);
const name = ref("");

const bar = computed(() => Number(route.query.bar) || desk.clock?.barAt(playback.now) || 1);
const section = computed(() => desk.score?.sections.find((s) => s.first_bar <= bar.value && bar.value < s.first_bar + s.bars));
const threads = computed(() => comments.value.filter((c) => c.answers === null && (withSettled.value || !c.resolved)));
const replies = (c: Comment) => comments.value.filter((r) => r.answers === c.id);
const settled = computed(() => comments.value.filter((c) => c.answers === null && c.resolved).length);
const others = computed(() => people.value.filter((p) => p !== session.name));
const id = () => ({ params: of(desk.id) });

const find = () => act(async () => {
  const told = await brought(server.GET("/api/songs/{id}/comments", id()));
  [comments.value, people.value] = [told.comments, told.people];
});
const findHistory = (before?: number) => act(async () => {
  const told = await brought(server.GET("/api/songs/{id}/history", { params: { path: { id: desk.id }, query: before === undefined ? {} : { before } } }));
  history.value = before === undefined ? told : { ...told, lines: [...history.value!.lines, ...told.lines] };
});
watch(() => [desk.id, desk.arrangement], () => void find(), { immediate: true });
watch([shown, () => desk.shown?.version], () => shown.value === "history" && void findHistory());

const say = () => act(async () => {
  const what = answering.value === null ? about.value : "song"; // an answer stands where its question does
  const body = { words: words.value.trim(), bar: what === "bar" ? bar.value : 0, section: what === "section" ? (section.value?.id ?? "") : "", answers: answering.value };
  await server.POST("/api/songs/{id}/comments", { ...id(), body });
  [words.value, answering.value] = ["", null];
  await find();
});
const change = (c: Comment, body: Schemas["PatchedCommentChange"]) => act(async () => {
  await server.PATCH("/api/comments/{id}", { params: of(c.id), body });
  await find();
});
const remove = (c: Comment) => act(async () => {
  await server.DELETE("/api/comments/{id}", { params: of(c.id) });
  await find();
});
function go(to: number): void {
  if (desk.clock) playback.seek(desk.clock.barStart(to));
  void router.replace({ query: { ...route.query, bar: to } });
}
const nameIt = () => act(async () => {
  await server.POST("/api/songs/{id}/history", { ...id(), body: { name: name.value.trim() } });
  name.value = "";
  await findHistory();
});
const compare = (v: Schemas["NamedVersionTold"]) => act(async () => {
  differences.value = { id: v.id, told: await brought(server.GET("/api/named-versions/{id}", { params: of(v.id) })) };
});
const bringBack = (v: Schemas["NamedVersionTold"]) => act(async () => {
  await server.POST("/api/named-versions/{id}", { params: of(v.id) });
  await desk.open(desk.id);
  differences.value = null;
  await findHistory();
});
const forget = (v: Schemas["NamedVersionTold"]) => act(async () => {
  await server.DELETE("/api/named-versions/{id}", { params: of(v.id) });
  await findHistory();
});
const when = (at: string) => new Date(at).toLocaleString(undefined, { month: "short", day: "numeric", hour: "2-digit", minute: "2-digit" });
const sectionName = (c: Comment) => desk.score?.sections.find((s) => s.id === c.section)?.name;
const KINDS = { do: "", undo: "took back: ", redo: "did again: " } as const;
</script>

<template>
  <aside class="talk" aria-label="Comments and history">
    <header>
      <button :class="['plain', { on: shown === 'comments' }]" :aria-pressed="shown === 'comments'" @click="shown = 'comments'">Comments</button>
      <button :class="['plain', { on: shown === 'history' }]" :aria-pressed="shown === 'history'" @click="shown = 'history'">History</button>
      <button class="plain shut" aria-label="Close comments and history" @click="emit('close')"><i class="pi pi-times" /></button>
    </header>
    <div v-if="shown === 'comments'" class="body">
      <article v-for="c in threads" :key="c.id" :class="['thread', { settled: c.resolved }]">
        <p class="head"><button v-if="c.bar" class="plain at" @click="go(c.bar)">bar {{ c.bar }}</button><span v-else class="soft">{{ sectionName(c) ?? "the song" }}</span><strong>{{ c.author || "gone" }}</strong><span class="soft">{{ when(c.created) }}</span></p>
        <p class="words">{{ c.words }}</p>
        <p v-for="r in replies(c)" :key="r.id" class="reply"><strong>{{ r.author || "gone" }}</strong> {{ r.words }}<button v-if="r.may_change" class="bare" aria-label="Delete this answer" @click="remove(r)"><i class="pi pi-times" /></button></p>
        <p class="acts"><button class="bare" @click="answering = c.id">Answer</button><button class="bare" @click="change(c, { resolved: !c.resolved })">{{ c.resolved ? `Settled by ${c.resolved_by}; open it again` : "Settled" }}</button><button v-if="c.may_change" class="bare" @click="remove(c)">Delete</button></p>
      </article>
      <p v-if="!threads.length" class="soft">Nothing is open. Say something about a bar or the song; {{ others.length ? `@${others[0]} is asked to look` : "who shares the song can answer" }}.</p>
      <button v-if="settled" class="bare" @click="withSettled = !withSettled">{{ withSettled ? "Hide" : "Show" }} {{ settled }} settled</button>
      <form @submit.prevent="say">
        <p class="line"><template v-if="answering !== null">An answer <button type="button" class="bare" @click="answering = null">no, a new one</button></template><template v-else><label class="line">about <select v-model="about" class="plain small" aria-label="About what"><option value="bar">bar {{ bar }}</option><option v-if="section" value="section">{{ section.name }}</option><option value="song">the song</option></select></label></template></p>
        <textarea v-model="words" class="plain" rows="2" maxlength="1000" aria-label="Comment" :placeholder="others.length ? `@${others.join(' @')}` : 'what you hear'" />
        <button class="plain" :disabled="!words.trim()">Say it</button>
      </form>
    </div>
    <div v-else-if="history" class="body">
      <form v-if="mayEdit" class="line" @submit.prevent="nameIt"><input v-model="name" class="plain grow" maxlength="80" aria-label="Name for this version" placeholder="name this version"><button class="plain" :disabled="!name.trim()">Name it</button></form>
      <article v-for="v in history.named" :key="v.id" class="thread">
        <p class="head"><strong>{{ v.name }}</strong><span class="soft">{{ v.by }}, {{ when(v.at) }}</span></p>
        <p class="acts"><button class="bare" @click="compare(v)">What differs</button><template v-if="props.mayEdit"><button class="bare" @click="bringBack(v)">Bring it back</button><button class="bare" @click="forget(v)">Forget the name</button></template></p>
        <template v-if="differences?.id === v.id">
          <p v-if="!differences.told.bars.length && !differences.told.form" class="soft">Nothing differs.</p>
          <p v-if="differences.told.form">Pulse or form differ.</p>
          <p v-for="d in differences.told.bars" :key="d.bar"><button class="plain at" @click="go(d.bar)">bar {{ d.bar }}</button> {{ d.says.join("; ") }}</p>
        </template>
      </article>
      <ol>
        <li v-for="l in history.lines" :key="l.version"><span class="soft figure">{{ when(l.at) }}</span><span><strong>{{ l.by || "gone" }}</strong> {{ KINDS[l.kind as keyof typeof KINDS] }}{{ l.says }}</span></li>
      </ol>
      <p v-if="!history.lines.length" class="soft">As it was heard; nobody changed anything yet.</p>
      <button v-if="!history.is_all" class="plain" @click="findHistory(history.lines.at(-1)!.version)">Older</button>
    </div>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </aside>
</template>

<style scoped>
.talk { width: 21rem; max-width: 100vw; background: var(--sheet); border-left: 1px solid var(--line-strong); display: grid; grid-template-rows: auto 1fr auto; min-height: 0; }
header { display: flex; gap: 0.3rem; padding: 0.6rem; border-bottom: 1px solid var(--line); }
header .plain { padding: 0.3rem 0.7rem; }
.shut { margin-left: auto; border-color: transparent; }
.body { overflow: auto; padding: 0.7rem; display: grid; gap: 0.7rem; align-content: start; }
.thread { display: grid; gap: 0.3rem; padding-bottom: 0.6rem; border-bottom: 1px solid var(--line); }
.settled .words { color: var(--ink-faint); text-decoration: line-through; }
.head, .acts, .line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.words { white-space: pre-line; overflow-wrap: anywhere; }
.reply { padding-left: 0.8rem; border-left: 3px solid var(--line-strong); overflow-wrap: anywhere; }
.at { padding: 0.05rem 0.5rem; font-variant-numeric: tabular-nums; }
.bare { border: 0; background: none; color: var(--rh); cursor: pointer; padding: 0.15rem 0; text-align: left; }
form { display: grid; gap: 0.4rem; }
form.line { display: flex; flex-wrap: nowrap; }
.grow { flex: 1; min-width: 0; }
.small { padding: 0.1rem 0.4rem; max-width: 11rem; }
textarea { width: 100%; resize: vertical; }
ol { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.35rem; }
li { display: grid; grid-template-columns: 5.6rem 1fr; gap: 0.5rem; }
.wrong { color: var(--warn); padding: 0.6rem; }
@media (max-width: 900px) { .talk { position: fixed; inset: 52px 0 0 auto; z-index: 20; box-shadow: 0 0 2rem rgb(0 0 0 / 0.2); } }
</style>
