<script setup lang="ts">
/** A set list or class plan as players open it: what is played, in which order, each with its page. */
import { onMounted, ref, shallowRef } from "vue";
import type { Schemas } from "@/api/client";

const props = defineProps<{ token: string }>();
const list = shallowRef<Schemas["GivenList"] | null>(null);
const complaint = ref("");
onMounted(async () => {
  document.documentElement.classList.toggle("dark", matchMedia("(prefers-color-scheme: dark)").matches);
  try {
    const answer = await fetch(`/api/given-lists/${encodeURIComponent(props.token)}`);
    const body = (await answer.json()) as Schemas["GivenList"] & { detail?: string };
    if (!answer.ok) throw new Error(body.detail);
    list.value = body;
    document.title = body.title;
  } catch (problem) {
    complaint.value = problem instanceof TypeError ? "The house can't be reached just now; try again in a moment." : (problem as Error).message;
  }
});
const time = (s: number) => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, "0")}`;
</script>

<template>
  <div class="player">
    <p v-if="complaint" class="wrong lone" role="alert">{{ complaint }}</p>
    <p v-else-if="!list" class="lone" role="status">Opening the list …</p>
    <template v-else>
      <header><h1>{{ list.title }}</h1><p class="soft">{{ list.kind }}<template v-if="list.due">, {{ list.due }}</template><template v-if="list.seconds"> · {{ time(list.seconds) }}</template></p></header>
      <p v-if="list.words" class="words">{{ list.words }}</p>
      <ol>
        <li v-for="(i, n) in list.items" :key="n">
          <span class="n">{{ n + 1 }}</span>
          <span class="what"><a v-if="i.address" :href="i.address">{{ i.title }}</a><strong v-else>{{ i.title }}</strong><span class="soft">{{ [i.artist, i.tempo && `${Math.round(i.tempo)} bpm`, i.seconds && time(i.seconds), i.due && `by ${i.due}`].filter(Boolean).join(" · ") }}</span><span v-if="i.note">{{ i.note }}</span></span>
        </li>
      </ol>
    </template>
  </div>
</template>

<style scoped>
.player { max-width: 46rem; margin: 0 auto; padding: 0.8rem; font-size: 1.05rem; display: grid; gap: 0.8rem; }
.lone { padding: 3rem 1rem; text-align: center; font-size: 1.2rem; }
header { border-bottom: 1px solid var(--line); padding-bottom: 0.6rem; }
.words { background: var(--well); border-radius: 8px; padding: 0.5rem 0.7rem; white-space: pre-line; }
ol { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.4rem; }
li { display: flex; gap: 0.8rem; background: var(--sheet); border: 1px solid var(--line); border-radius: 10px; padding: 0.6rem 0.8rem; }
.n { font-size: 1.4rem; font-weight: 700; min-width: 2rem; text-align: right; font-variant-numeric: tabular-nums; }
.what { display: grid; gap: 0.1rem; }
.what a { font-weight: 700; font-size: 1.15rem; padding: 0.2rem 0; }
.wrong { color: var(--warn); }
</style>
