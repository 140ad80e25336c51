<script setup lang="ts">
/** Who plays the song, on which kit: the hand that leads, the school, the pedals, what is owned. */
import { computed, ref } from "vue";
import TypedField from "@/controls/TypedField.vue";
import { MAY_LACK, part } from "@/kit";
import { useKitOfMine } from "@/stores/kitOfMine";
import { useSong } from "@/stores/song";
import type { Edit, Schemas } from "@/api/client";

const desk = useSong();
const own = useKitOfMine();
const HANDS = [["right", "Right-handed"], ["left", "Left-handed"]] as const;
const SCHOOLS = [
  ["natural", "Natural", "the hand that would have played that 16th"],
  ["alternating", "Alternating", "hand to hand, whatever the place"],
  ["lead", "Lead hand", "accents and time with the hand that leads"],
  ["fewest", "Fewest moves", "as little way between the drums as can be"],
  ["open", "Open-handed", "the hat by the hand on its side, nothing crosses"],
] as const;
const PEDALS = [[1, "Single pedal"], [2, "Double pedal"]] as const;
const COUNTS: [string, string][] = [["letters", "1 e & a"], ["ta_te", "1 ta te ta"], ["ta_ka", "ta ka di mi"], ["numbers", "1 2 3 4"]];
type Said = Omit<Extract<Edit, { operation: "set_player" }>, "operation">;
const player = computed(() => desk.score!.player as Schemas["Player"]);
const say = (said: Said) => desk.edit({ operation: "set_player", ...said });
const plays = computed(() => new Set(desk.score!.strokes.map((s) => s.part as string)));
const owns = (piece: string) => !player.value.lacks.includes(piece);
function turn(piece: string): void {
  say({ lacks: owns(piece) ? [...player.value.lacks, piece] : player.value.lacks.filter((p) => p !== piece) });
}
const READS = [["staff", "a staff"], ["limbs", "a line a limb"], ["spine", "the spine"]] as const;
const NAMES = [["letters", "C … B♭ B"], ["h", "C … B H"], ["syllables", "do re mi"]] as const;
/** What is read, in general and, where it is another, in this song. */
const WORDS = [
  { key: "counting", title: "count", label: "How I count", ways: COUNTS },
  { key: "reads", title: "read", label: "What I read", ways: READS },
  { key: "note_names", title: "notes", label: "What notes are called", ways: NAMES },
] as const;
const KIT = ["hand", "school", "pedals", "lacks", "plan"] as const;
const kitOf = (p: Schemas["Player"]) => JSON.stringify(KIT.map((k) => p[k]));
const asUsual = computed(() => own.mine && kitOf(own.mine.player) === kitOf(player.value));
const usual = () => {
  const mine = own.mine!.player;
  say({ hand: mine.hand as "right", school: mine.school as "natural", pedals: mine.pedals as 1, lacks: mine.lacks, plan: mine.plan as [string, number, number][] });
};
/** Words of one's own to count with; in the school they stand behind this. */
const OWN = "own ";
const ownWords = (school: string | undefined) => (school?.startsWith(OWN) ? school.slice(OWN.length) : "");
const waysOf = (key: string, said: (string | undefined)[], ways: readonly (readonly [string, string])[]) =>
  key === "counting" ? [...ways, ...[...new Set(said.map(ownWords))].filter(Boolean).map((words) => [OWN + words, words] as const)] : ways;
const setOwnWords = (typed: string) => change({ counting: typed.trim() ? OWN + typed.trim().replace(/\s+/g, " ") : "letters" });
type Mine = Schemas["KitOfMine"];
const refused = ref("");
const change = (said: Partial<Mine>) => own.mine && void own.keep({ ...own.mine, ...said }).then(() => (refused.value = ""), (problem: Error) => (refused.value = problem.message));
const keep = () => change({ player: player.value });
</script>

<template>
  <section class="card who" aria-label="Who plays">
    <h1>Who plays</h1>
    <div class="group" role="group" aria-label="The hand that leads">
      <button v-for="[key, label] in HANDS" :key="key" :class="['plain', { on: player.hand === key }]" :aria-pressed="player.hand === key" @click="say({ hand: key })">{{ label }}</button>
    </div>
    <div class="group" role="group" aria-label="Pedals">
      <button v-for="[key, label] in PEDALS" :key="key" :class="['plain', { on: player.pedals === key }]" :aria-pressed="player.pedals === key" @click="say({ pedals: key })">{{ label }}</button>
    </div>
    <h2>School</h2>
    <div class="schools" role="radiogroup" aria-label="School">
      <button v-for="[key, label, says] in SCHOOLS" :key="key" role="radio" :class="['plain', 'school', { on: player.school === key }]" :aria-checked="player.school === key" @click="say({ school: key })"><strong>{{ label }}</strong><span>{{ says }}</span></button>
    </div>
    <h2>My kit has</h2>
    <div class="pieces" role="group" aria-label="What my kit has">
      <button v-for="piece in MAY_LACK" :key="piece" :class="['plain', 'piece', { on: owns(piece), played: plays.has(piece) }]" :aria-pressed="owns(piece)" :title="plays.has(piece) ? 'The song plays it' : undefined" @click="turn(piece)">{{ part(piece).label.toLowerCase() }}</button>
    </div>
    <div class="line">
      <button v-if="own.mine && !asUsual" class="plain" @click="usual">As my usual kit</button>
      <button v-if="!asUsual" class="plain" @click="keep">Make it my usual one</button>
      <span v-else class="soft">This is your usual kit; new songs start with it.</span>
    </div>
    <h2>I read and count</h2>
    <div class="words" role="group" aria-label="What I read and count">
      <span /><span class="soft">I, always</span><span class="soft">in this song</span>
      <template v-for="w in WORDS" :key="w.key">
        <span>{{ w.title }}</span>
        <select class="plain" :aria-label="w.label" :value="own.mine?.[w.key]" @change="change({ [w.key]: ($event.target as HTMLSelectElement).value } as Partial<Mine>)"><option v-for="[key, label] in waysOf(w.key, [own.mine?.counting, player.counting ?? undefined], w.ways)" :key="key" :value="key">{{ label }}</option></select>
        <select class="plain" :aria-label="`${w.label} in this song`" :value="player[w.key] ?? ''" @change="say({ [w.key]: ($event.target as HTMLSelectElement).value } as Said)"><option value="">the same</option><option v-for="[key, label] in waysOf(w.key, [own.mine?.counting, player.counting ?? undefined], w.ways)" :key="key" :value="key">{{ label }}</option></select>
        <template v-if="w.key === 'counting'">
          <span />
          <TypedField class="own" maxlength="45" :value="ownWords(own.mine?.counting)" placeholder="my own: e & a, 2nd 3rd of three" title="Five words with blanks between, for e, &, a, and the second and third of a triplet; - says nothing" aria-label="My own words to count with" @set="setOwnWords($event)" />
        </template>
      </template>
    </div>
    <p v-if="refused" class="wrong" role="alert">{{ refused }}</p>
  </section>
</template>

<style scoped>
.card { padding: 0.7rem 0.9rem; display: grid; grid-template-columns: minmax(0, 1fr); gap: 0.5rem; align-content: start; }
.group { display: flex; }
.group .plain { flex: 1; border-radius: 0; margin-left: -1px; padding: 0.3rem 0.4rem; white-space: nowrap; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.schools { display: grid; gap: 0.25rem; }
.school { display: grid; gap: 0; text-align: left; padding: 0.22rem 0.6rem; line-height: 1.2; }
.school span { font-size: 0.86rem; }
.pieces { display: flex; flex-wrap: wrap; gap: 0.25rem; }
.piece { padding: 0.1rem 0.45rem; font-size: 0.9rem; }
.piece:not(.on) { text-decoration: line-through; color: var(--ink-faint); }
.piece.played { border-color: var(--ink-soft); }
.words { display: grid; grid-template-columns: 4rem minmax(0, 1fr) minmax(0, 1fr); gap: 0.25rem 0.35rem; align-items: center; font-size: 0.9rem; }
.words .own { grid-column: span 2; min-width: 0; }
.wrong { margin: 0; color: var(--warn); }
.words select { min-width: 0; width: 100%; padding: 0.2rem 0.3rem; }
.line { display: flex; flex-wrap: wrap; gap: 0.4rem; }
</style>
