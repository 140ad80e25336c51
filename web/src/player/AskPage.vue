<script setup lang="ts">
/** Asking for a song without an account, and voting for what others asked for. */
import { useLocalStorage } from "@vueuse/core";
import { onMounted, ref, shallowRef } from "vue";
import type { Schemas } from "@/api/client";

type Asked = Schemas["AskedSongs"];
const props = defineProps<{ token: string }>();
const device = useLocalStorage("orchesis.device", () => crypto.randomUUID().slice(0, 18)).value as unknown as string;
const mine = useLocalStorage<number[]>(`orchesis.votes.${props.token}`, []);
const asked = shallowRef<Asked | null>(null);
const complaint = ref("");
const thanks = ref("");
const isSending = ref(false);
const name = useLocalStorage("orchesis.name", "");
const wish = ref({ title: "", artist: "", due: "", depth: "outline" as Schemas["SongRequest"]["depth"] });

async function call(path: string, body?: unknown): Promise<Asked | null> {
  isSending.value = true;
  try {
    const answer = await fetch(`/api/asked/${encodeURIComponent(props.token)}${path}`, body ? { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) } : undefined);
    const told = (await answer.json()) as Asked & { detail?: string };
    if (!answer.ok) throw new Error(told.detail);
    complaint.value = "";
    return told;
  } catch (problem) {
    complaint.value = problem instanceof TypeError ? "The house can't be reached just now; try again in a moment." : (problem as Error).message;
    return null;
  } finally {
    isSending.value = false;
  }
}
onMounted(async () => {
  document.documentElement.classList.toggle("dark", matchMedia("(prefers-color-scheme: dark)").matches);
  asked.value = await call("");
  if (asked.value) document.title = asked.value.title;
});
async function ask(): Promise<void> {
  const told = await call("", { ...wish.value, name: name.value.trim(), device });
  if (!told) return;
  const same = told.songs.find((s) => s.title.toLowerCase() === wish.value.title.trim().toLowerCase());
  if (same) mine.value = [...new Set([...mine.value, same.id])];
  asked.value = told;
  thanks.value = `“${wish.value.title.trim()}” is asked for.`;
  wish.value = { title: "", artist: "", due: "", depth: "outline" };
}
async function vote(song: number): Promise<void> {
  const told = await call("/votes", { song, device });
  if (!told) return;
  asked.value = told;
  mine.value = mine.value.includes(song) ? mine.value.filter((s) => s !== song) : [...mine.value, song];
}
</script>

<template>
  <div class="player">
    <p v-if="!asked && complaint" class="wrong lone" role="alert">{{ complaint }}</p>
    <p v-else-if="!asked" class="lone" role="status">Opening the form …</p>
    <template v-else>
      <header><h1>{{ asked.title }}</h1></header>
      <p v-if="asked.words" class="words">{{ asked.words }}</p>
      <form class="card" @submit.prevent="ask">
        <label>Song <input v-model="wish.title" class="plain" maxlength="200" required></label>
        <label>Played by <input v-model="wish.artist" class="plain" maxlength="200"></label>
        <label>Your name <input v-model="name" class="plain" maxlength="120" required autocomplete="name"></label>
        <label>By when <input v-model="wish.due" class="plain" type="date"></label>
        <label class="wide">How much of it <select v-model="wish.depth" class="plain"><option value="outline">the main groove and the moments that matter</option><option value="every_bar">every bar</option></select></label>
        <button class="plain go wide" :disabled="isSending">Ask for it</button>
        <p v-if="thanks" class="wide" role="status">{{ thanks }}</p>
        <p v-if="complaint" class="wrong wide" role="alert">{{ complaint }}</p>
      </form>
      <h2 v-if="asked.songs.length">Asked for so far</h2>
      <ul>
        <li v-for="s in asked.songs" :key="s.id">
          <button :class="['plain', 'vote', { on: mine.includes(s.id) }]" :aria-pressed="mine.includes(s.id)" :aria-label="`I want ${s.title} too`" @click="vote(s.id)"><strong>{{ s.votes }}</strong><small>{{ mine.includes(s.id) ? "me too" : "want it" }}</small></button>
          <span class="what"><strong>{{ s.title }}</strong><span class="soft">{{ s.artist }}</span></span>
          <span class="soft">{{ s.state }}</span>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.player { max-width: 42rem; margin: 0 auto; padding: 0.8rem; font-size: 1.05rem; display: grid; gap: 0.8rem; }
.lone { padding: 3rem 1rem; text-align: center; font-size: 1.2rem; }
.words { background: var(--well); border-radius: 8px; padding: 0.5rem 0.7rem; white-space: pre-line; }
form { display: grid; grid-template-columns: repeat(auto-fit, minmax(14rem, 1fr)); gap: 0.7rem; padding: 1rem; }
label { display: grid; gap: 0.15rem; }
.wide { grid-column: 1 / -1; }
.plain { min-height: 2.6rem; max-width: 100%; }
.go { background: var(--ink); color: var(--paper); font-size: 1.15rem; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.4rem; }
li { display: flex; gap: 0.8rem; align-items: center; }
.vote { display: grid; min-width: 4.6rem; line-height: 1.1; padding: 0.3rem 0.6rem; }
.what { display: grid; flex: 1; }
.wrong { color: var(--warn); }
</style>
