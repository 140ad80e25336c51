<script setup lang="ts">
/** Where else is this pattern: in the song, or on the whole shelf. */
import { computed, ref, shallowRef, watch } from "vue";
import { useRouter } from "vue-router";
import { brought, of, server, type Schemas } from "@/api/client";
import { clockText } from "@/score/time";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const props = defineProps<{ bar: number }>();
const desk = useSong();
const playback = usePlayback();
const router = useRouter();
const SCOPES = [
  ["kick", "its kick"], ["hands", "its hands"], ["kick and snare", "kick and snare"],
  ["time", "its time hand"], ["feet", "its feet"], ["all", "all of it"],
] as const;
const SPANS = [["", "the whole bar"], ["0 2", "beats 1 and 2"], ["1 2", "beats 2 and 3"], ["2 2", "beats 3 and 4"]] as const;
type Scope = (typeof SCOPES)[number][0];
const scope = ref<Scope | "">("");
const span = ref("");
const over = ref<"shelf" | "song">("shelf");
const found = shallowRef<Schemas["Match"][] | null>(null);
const complaint = ref("");

async function ask(what: Scope): Promise<void> {
  scope.value = what;
  const [first = "", length = ""] = span.value.split(" ");
  const asked = `${props.bar} ${what} ${span.value} ${over.value}`;
  try {
    const part = length ? { first, length } : {};
    const query = { bar: props.bar, scope: what, over: over.value, ...part };
    const told = await brought(server.GET("/api/songs/{id}/search", { params: { ...of(desk.id), query } }));
    if (asked !== `${props.bar} ${scope.value} ${span.value} ${over.value}`) return;
    found.value = told.matches;
    complaint.value = "";
  } catch (problem) {
    found.value = null;
    complaint.value = (problem as Error).message;
  }
}
watch([span, over], () => scope.value && void ask(scope.value));
watch(() => props.bar, () => {
  found.value = null;
  scope.value = complaint.value = "";
});

function how(m: Schemas["Match"]): string {
  const beats = (text: string) => {
    const [above = 0, below = 1] = text.split("/").map(Number);
    return above / below;
  };
  const by = beats(m.by);
  const said = {
    same: "the same", near: "nearly", faster: "twice as fast", slower: "half as fast",
    moved: by === 0 ? "moved" : `moved ${Math.abs(by)} beat${Math.abs(by) > 1 ? "s" : ""} ${by > 0 ? "later" : "earlier"}`,
  }[m.how];
  const rest = [m.more ? `${m.more} more` : "", m.less ? `${m.less} less` : ""].filter(Boolean).join(", ");
  return rest ? `${said} (${rest})` : said;
}
/** Bars of one song that have it in the same way, together; the best first. */
const groups = computed(() => {
  const made = new Map<string, Schemas["Match"][]>();
  for (const m of found.value ?? []) {
    const key = `${m.song} ${how(m)}`;
    made.set(key, [...(made.get(key) ?? []), m]);
  }
  return [...made].map(([key, matches]) => ({ key, matches }));
});
function go(m: Schemas["Match"]): void {
  if (m.song === desk.id) playback.play(m.start);
  else void router.push({ name: "bench", params: { id: m.song }, query: { bar: m.bar } });
}
defineExpose({ ask });
</script>

<template>
  <section class="search">
    <h2>Where else?</h2>
    <div class="line">
      <button v-for="[key, label] in SCOPES" :key="key" :class="['plain', 'chip', { on: scope === key }]" :aria-pressed="scope === key" @click="ask(key)">{{ label }}</button>
    </div>
    <div class="line">
      <select v-model="span" class="plain chip" aria-label="How much of it"><option v-for="[key, label] in SPANS" :key="key" :value="key">{{ label }}</option></select>
      <select v-model="over" class="plain chip" aria-label="Where to search"><option value="shelf">on the whole shelf</option><option value="song">in this song</option></select>
      <span class="soft">of bar {{ bar }}</span>
    </div>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <p v-else-if="found && !found.length" class="soft">Nowhere else.</p>
    <ol v-else-if="found" class="found" aria-label="Found">
      <li v-for="g in groups" :key="g.key">
        <span><strong>{{ g.matches[0]!.song === desk.id ? "Here" : g.matches[0]!.title }}</strong> <span class="soft">{{ how(g.matches[0]!) }}</span></span>
        <span class="bars"><button v-for="m in g.matches.slice(0, 16)" :key="m.bar" class="plain tiny figure" :title="clockText(m.start)" :aria-label="`${m.song === desk.id ? 'Play' : 'Open'} ${m.title}, bar ${m.bar}`" @click="go(m)">{{ m.bar }}</button><span v-if="g.matches.length > 16" class="soft">… {{ g.matches.length - 16 }} more</span></span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.search { display: grid; gap: 0.35rem; align-content: start; }
.line { display: flex; gap: 0.3rem; flex-wrap: wrap; align-items: center; }
.chip { padding: 0.15rem 0.55rem; }
.found { list-style: none; margin: 0; padding: 0; display: grid; gap: 2px; max-height: 17rem; overflow: auto; }
.found li { display: grid; grid-template-columns: minmax(10rem, 1fr) 2fr; gap: 0.5rem; align-items: center; border-bottom: 1px solid var(--line); padding: 2px 0; }
.bars { display: flex; flex-wrap: wrap; gap: 2px; }
.tiny { padding: 0.05rem 0.4rem; }
.wrong { color: var(--warn); }
</style>
