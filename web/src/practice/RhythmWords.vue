<script setup lang="ts">
/** Rhythm words: what one says before one plays it, a syllable a stroke of each bar's figure. */
import { computed, ref, shallowRef, watch } from "vue";
import { brought, of, server, type Schemas } from "@/api/client";
import TypedField from "@/controls/TypedField.vue";
import { useActing } from "@/house/acting";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const props = defineProps<{ first: number; last: number }>();
const desk = useSong();
const playback = usePlayback();
const told = shallowRef<Schemas["RhythmWords"] | null>(null);
const { complaint, act: attempt } = useActing();
const MOST = 4;
const last = computed(() => Math.min(props.last, props.first + MOST - 1));

let run = 0;
watch(() => [desk.id, props.first, last.value, desk.isSaved ? desk.state : ""], () => void attempt(async () => {
  if (!desk.isSaved) return;
  const own = ++run;
  const found = await brought(server.GET("/api/songs/{id}/rhythm-words", { params: { ...of(desk.id), query: { first: props.first, last: last.value } } }));
  if (own !== run) return;
  told.value = found;
  playback.rhyme = found.bars.flatMap((b) => b.says.map((w) => ({ bar: b.bar, ...w })));
}), { immediate: true });
/** What was typed and refused: it stays, with the reason. */
const refused = ref<Record<number, { text: string; why: string }>>({});
async function set(bar: number, text: string): Promise<void> {
  const why = await desk.tryEdit({ operation: "set_spoken", bar, text });
  const rest = { ...refused.value };
  delete rest[bar];
  refused.value = why ? { ...rest, [bar]: { text, why } } : rest;
}
watch(() => desk.id, () => (refused.value = {}));
const isMine = (word: string) => told.value?.mine.includes(word) ?? false;
/** Words of the bars that are not in the collection yet. */
const fresh = computed(() => [...new Set(told.value?.bars.flatMap((b) => b.text.split(/\s+/)).filter((w) => w && !isMine(w)))]);
const collect = (words: string[]) => void attempt(async () => {
  const kept = await brought(server.PUT("/api/my-words", { body: { words } }));
  told.value = { ...told.value!, mine: kept.words };
});
</script>

<template>
  <details class="rhythm">
    <summary>Rhythm words: say it before you play it</summary>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <ul v-if="told">
      <li v-for="b in told.bars" :key="b.bar">
        <label><span class="figure soft">bar {{ b.bar }}</span> <TypedField maxlength="400" :value="refused[b.bar]?.text ?? b.text" :placeholder="b.proposed || 'nothing to say here'" :disabled="!b.proposed" :aria-label="`Rhythm words of bar ${b.bar}`" @set="set(b.bar, $event)" /></label>
        <button v-if="!b.text && b.proposed" class="plain" @click="set(b.bar, b.proposed)">Take “{{ b.proposed }}”</button>
        <button v-else-if="b.text" class="plain" :aria-label="`No words in bar ${b.bar}`" @click="set(b.bar, '')"><i class="pi pi-times" aria-hidden="true" /></button>
        <p v-if="refused[b.bar]" class="wrong" role="alert">{{ refused[b.bar]!.why }}</p>
        <p v-for="says in b.against" :key="says" class="soft">{{ says }}</p>
      </li>
    </ul>
    <p class="line">
      <button v-if="fresh.length" class="plain" @click="collect([...(told?.mine ?? []), ...fresh])">Keep {{ fresh.map((w) => `“${w}”`).join(", ") }} among my words</button>
      <span v-if="told?.mine.length" class="soft">Mine: <button v-for="w in told.mine" :key="w" class="plain mine" :title="`Take ${w} out of my words`" @click="collect(told!.mine.filter((x) => x !== w))">{{ w }} <i class="pi pi-times" aria-hidden="true" /></button></span>
    </p>
    <p class="soft">One syllable a stroke, capitals are strong: KET-tle a-WAKE. With the click set to <em>Rhythm words</em> a voice says them as you play.</p>
  </details>
</template>

<style scoped>
.rhythm summary { cursor: pointer; font-weight: 600; }
ul { list-style: none; margin: 0.4rem 0; padding: 0; display: grid; gap: 0.4rem; }
li { display: grid; grid-template-columns: minmax(12rem, 1fr) auto; gap: 0.3rem 0.6rem; align-items: center; }
li label { display: flex; gap: 0.5rem; align-items: center; }
li input { flex: 1; }
li p { margin: 0; grid-column: 1 / -1; }
.line { display: flex; gap: 0.5rem; flex-wrap: wrap; align-items: center; margin: 0 0 0.3rem; }
.mine { padding: 0.1rem 0.4rem; margin: 0 0.2rem; }
.wrong { color: var(--warn); }
</style>
