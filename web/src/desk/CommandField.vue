<script setup lang="ts">
/** Say what you want in words; each answer shows the key that does the same. */
import { computed, nextTick, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { doable } from "@/keys/useKeys";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { answersTo } from "./commands";

const visible = defineModel<boolean>("visible", { required: true });
const desk = useSong();
const playback = usePlayback();
const route = useRoute();
const router = useRouter();
const said = ref("");
const at = ref(0);
const field = ref<HTMLInputElement | null>(null);
const EXAMPLES = ["bar 37", "go to chorus 2", "loop phrase", "all ghosts softer", "60 %"];

const bar = computed(() => Number(route.query.bar) || desk.clock?.barAt(playback.now) || 1);
function go(to: number): void {
  if (desk.clock) playback.seek(desk.clock.barStart(to));
  if ("bar" in route.query || route.name === "bench") void router.replace({ query: { ...route.query, bar: to } });
}
const answers = computed(() => answersTo(said.value, {
  bars: desk.clock?.bars ?? 0,
  bar: bar.value,
  sections: desk.score?.sections ?? [],
  strokes: desk.score?.strokes ?? [],
  mayEdit: desk.mayEdit,
  go,
  loop: (first, last) => desk.clock && playback.setLoop(desk.clock.barStart(first), desk.clock.barEnd(last)),
  speed: (share) => (playback.speed = share),
  edit: desk.editMany,
  doable: doable(),
}));
watch(said, () => (at.value = 0));
watch(visible, async (is) => {
  if (!is) return;
  said.value = "";
  await nextTick();
  field.value?.focus();
});
function take(n: number): void {
  const answer = answers.value[n];
  if (!answer) return;
  visible.value = false;
  answer.run();
}
function key(e: KeyboardEvent): void {
  if (e.key === "Escape" || e.key === "F2") visible.value = false;
  else if (e.key === "ArrowDown") at.value = Math.min(at.value + 1, answers.value.length - 1);
  else if (e.key === "ArrowUp") at.value = Math.max(at.value - 1, 0);
  else if (e.key === "Enter") take(at.value);
  else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <div v-if="visible" class="veil" @pointerdown.self="visible = false">
    <section class="card" role="dialog" aria-label="Say what you want">
      <input ref="field" v-model="said" class="said" aria-label="Say what you want" placeholder="Say what you want" autocomplete="off" spellcheck="false" role="combobox" aria-expanded="true" aria-controls="answers" @keydown="key">
      <ol id="answers" role="listbox" aria-label="Answers">
        <li v-for="(a, n) in answers" :key="n" role="option" :class="{ on: n === at }" :aria-selected="n === at" @pointerenter="at = n" @click="take(n)"><span>{{ a.says }}</span><span v-if="a.key" class="key">{{ a.key }}</span></li>
      </ol>
      <p v-if="said && !answers.length" class="soft">Nothing here goes by those words.</p>
      <p v-if="!said" class="soft">For example <button v-for="e in EXAMPLES" :key="e" class="plain" @click="said = e; field?.focus()">{{ e }}</button></p>
    </section>
  </div>
</template>

<style scoped>
.veil { position: fixed; inset: 0; z-index: 60; background: color-mix(in srgb, var(--ink) 22%, transparent); display: grid; align-items: end; justify-items: center; padding: 0 1rem 7.5rem; }
.card { width: min(38rem, 100%); padding: 0.8rem; display: grid; gap: 0.6rem; box-shadow: 0 0.5rem 2.5rem rgb(0 0 0 / 0.3); }
.said { font-size: 1.25rem; padding: 0.6rem 0.8rem; border: 2px solid var(--line-strong); border-radius: 9px; background: var(--paper); color: var(--ink); width: 100%; order: 2; }
ol { list-style: none; margin: 0; padding: 0; display: flex; flex-direction: column-reverse; gap: 2px; }
li { display: flex; gap: 1rem; justify-content: space-between; padding: 0.45rem 0.7rem; border-radius: 8px; cursor: pointer; }
li.on { background: var(--well); font-weight: 700; }
p { display: flex; flex-wrap: wrap; gap: 0.4rem; align-items: center; }
.plain { padding: 0.15rem 0.55rem; }
</style>
