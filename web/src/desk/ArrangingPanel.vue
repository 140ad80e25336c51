<script setup lang="ts">
/** Arranging: what would make the part playable or easier, and the arrangements side by side. */
import { computed, onMounted, onUnmounted, ref, watch } from "vue";
import { brought, of, server, type Schemas, type Stroke } from "@/api/client";
import SpineThumb from "@/spine/SpineThumb.vue";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

type Proposal = Schemas["Proposal"];
type Arrangement = Schemas["Arrangement"];
defineProps<{ bar: number }>();
const emit = defineEmits<{ go: [bar: number] }>();
const desk = useSong();
const playback = usePlayback();
const found = useFinding((id) => server.GET("/api/songs/{id}/proposals", { params: of(id) }));
const offered = computed(() => found.value.value?.proposals ?? []);
const rows = ref<Arrangement[]>([]);
const complaint = ref("");
const name = ref("");
const LEVELS = [[1, "skeleton"], [2, "with the time"], [3, "with ghosts"], [4, "all but extras"]] as const;
const MOST = 5;

async function list(): Promise<void> {
  try {
    rows.value = (await brought(server.GET("/api/songs/{id}/arrangements", { params: of(desk.id) }))).arrangements;
    complaint.value = "";
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
onMounted(() => void list());
watch([() => desk.state, () => desk.arrangement, () => desk.isSaved], ([, , saved]) => saved && void list());

const isOn = (a: Arrangement) => (a.is_recorded ? !desk.arrangement : a.id === desk.arrangement);
const show = (a: Arrangement) => void desk.showArrangement(a.is_recorded ? 0 : a.id).catch((p: Error) => (complaint.value = p.message));

/** Makes an arrangement and shows it. */
async function make(body: Schemas["NewArrangement"]): Promise<void> {
  try {
    const made = await brought(server.POST("/api/songs/{id}/arrangements", { params: of(desk.id), body }));
    await list();
    await desk.showArrangement(made.id);
  } catch (problem) {
    complaint.value = (problem as Error).message;
  }
}
function free(wanted: string): string {
  const taken = new Set(rows.value.map((r) => r.name));
  let made = wanted;
  for (let n = 2; taken.has(made); n++) made = `${wanted} ${n}`;
  return made;
}
/** A proposal is tried in an arrangement: in the one that is shown, or in a new one. */
function accept(p: Proposal): void {
  if (desk.arrangement) desk.edit({ operation: "arrange", way: p.way as "toms", bars: p.bars });
  else void make({ name: free("My own"), way: p.way, bars: p.bars });
}
/** A proposal's bar, as it would be played. */
function hear(p: Proposal): void {
  const bar = p.example.bar;
  playback.sketch = [...desk.score!.strokes.filter((s) => s.bar !== bar), ...(p.example.after as Stroke[])];
  if (playback.sounding === "recording") playback.sounding = "written";
  playback.loop = [desk.clock!.barStart(bar), desk.clock!.barEnd(bar)];
  playback.play(desk.clock!.barStart(bar));
}
onUnmounted(() => (playback.sketch = null));
const refuse = (p: Proposal) => desk.edit({ operation: "settle", key: `way-${p.way}` });
async function remove(a: Arrangement): Promise<void> {
  if (!window.confirm(`Take “${a.name}” away? Its changes are lost.`)) return;
  if (isOn(a)) await desk.showArrangement(0);
  await server.DELETE("/api/songs/{id}/arrangements/{number}", { params: { path: { id: desk.id, number: a.id } } });
  await list();
}
async function update(a: Arrangement, take: number[]): Promise<void> {
  await server.POST("/api/songs/{id}/arrangements/{number}/update", { params: { path: { id: desk.id, number: a.id } }, body: { take } });
  if (isOn(a)) await desk.showArrangement(a.id);
  await list();
}
const bars = (own: number[]) => (own.length > 6 ? `${own.length} bars` : `bar${own.length > 1 ? "s" : ""} ${own.join(", ")}`);
</script>

<template>
  <section class="arranging" aria-label="Arranging">
    <p v-if="complaint || found.complaint.value" class="wrong" role="alert">{{ complaint || found.complaint.value }}</p>
    <ol aria-label="Arrangements">
      <li v-for="a in rows" :key="a.id" :class="['arrangement', { on: isOn(a) }]">
        <button class="plain name" :aria-pressed="isOn(a)" @click="show(a)">{{ a.name }}</button>
        <span class="figure soft" title="How hard, of 10">{{ a.hard?.toFixed(1) ?? "" }}</span>
        <button v-if="!a.is_recorded" class="plain tiny" :aria-label="`Take ${a.name} away`" @click="remove(a)"><i class="pi pi-trash" /></button>
        <p v-if="!a.is_recorded" class="soft">{{ a.differs.length ? `Otherwise than recorded in ${bars(a.differs)}` : "As recorded so far" }}
          <button v-for="b in a.differs.length <= 6 ? a.differs : []" :key="b" class="plain tiny" @click="emit('go', b)">{{ b }}</button>
        </p>
        <p v-if="a.behind.length" class="behind">Changed in the recorded part since: {{ bars(a.behind) }}.
          <button class="plain tiny" @click="update(a, a.behind)">Take them over</button>
          <button class="plain tiny" @click="update(a, [])">Leave mine</button>
        </p>
      </li>
    </ol>
    <form class="line" @submit.prevent="name.trim() && make({ name: name.trim(), of: desk.arrangement || null }).then(() => (name = ''))">
      <input v-model="name" class="plain" maxlength="80" placeholder="A new one, from this" aria-label="Name of a new arrangement">
      <button class="plain" :disabled="!name.trim()">Make</button>
    </form>
    <p class="line"><span class="soft">Simpler:</span> <button v-for="[n, label] in LEVELS" :key="n" class="plain tiny" :title="`Level ${n}: ${label}`" @click="make({ name: free(`Level ${n}: ${label}`), level: n })">{{ n }} {{ label }}</button></p>
    <h2>Proposals</h2>
    <p v-if="!found.value.value && !found.complaint.value" class="soft">Looking …</p>
    <p v-else-if="!offered.length">It can be played as it stands, and nothing here makes it much easier.</p>
    <article v-for="p in offered.slice(0, MOST)" :key="p.way" :class="['proposal', { must: p.must }]" :aria-label="p.title">
      <p>{{ p.says }}</p>
      <div class="pair">
        <button class="plain thumb" :title="`Bar ${p.example.bar} as it is`" @click="emit('go', p.example.bar)"><SpineThumb :bar="p.example.bar" :strokes="p.example.before as Stroke[]" :clock="desk.clock!" /></button>
        <i class="pi pi-arrow-right" />
        <span class="thumb"><SpineThumb :bar="p.example.bar" :strokes="p.example.after as Stroke[]" :clock="desk.clock!" /></span>
      </div>
      <p class="line">
        <button class="plain" @click="accept(p)">{{ desk.arrangement ? "Accept" : "Accept, as an arrangement" }}</button>
        <button class="plain" :aria-label="`Hear bar ${p.example.bar} so`" @click="hear(p)"><i class="pi pi-play" /></button>
        <button class="plain" @click="refuse(p)">Refuse</button>
      </p>
    </article>
  </section>
</template>

<style scoped>
.arranging { display: grid; gap: 0.5rem; align-content: start; }
ol { margin: 0; padding: 0; list-style: none; display: grid; gap: 0.3rem; }
.arrangement { display: grid; grid-template-columns: 1fr auto auto; gap: 0.1rem 0.5rem; align-items: center; padding: 0.25rem 0.4rem; border-radius: 8px; }
.arrangement.on { background: var(--well); }
.arrangement p { grid-column: 1 / -1; margin: 0; font-size: 0.92rem; }
.name { justify-self: start; font-weight: 700; }
.arrangement.on .name { background: var(--ink); color: var(--paper); }
.behind { color: var(--warn); }
.tiny { padding: 0.02rem 0.4rem; }
.line { display: flex; flex-wrap: wrap; gap: 0.3rem; align-items: center; }
.line input { flex: 1; min-width: 7rem; }
.proposal { display: grid; gap: 0.3rem; border-left: 3px solid var(--line-strong); padding-left: 0.6rem; }
.proposal.must { border-color: var(--warn); }
.pair { display: flex; align-items: center; gap: 0.4rem; }
.thumb { flex: 1; min-width: 0; padding: 0.1rem; }
.wrong { color: var(--warn); }
</style>
