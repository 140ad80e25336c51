<script setup lang="ts">
/** The desk of one song: its views, undo, saving, the transport and the keys. */
import { useToast } from "primevue/usetoast";
import { computed, onUnmounted, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import CommandField from "@/desk/CommandField.vue";
import KeyHelp from "@/desk/KeyHelp.vue";
import TalkPanel from "@/desk/TalkPanel.vue";
import TopBar from "@/desk/TopBar.vue";
import TransportDock from "@/desk/TransportDock.vue";
import { retryWhileAway, Refusal } from "@/api/client";
import ClashDialog from "@/desk/ClashDialog.vue";
import { usable } from "@/desk/takes";
import { findMine } from "@/keys/mine";
import { withKey } from "@/keys/table";
import { useKeys } from "@/keys/useKeys";
import { VIEWS } from "@/router";
import { phraseRows } from "@/spine/layout";
import { useKitOfMine } from "@/stores/kitOfMine";
import { usePlayback, type Sounding } from "@/stores/playback";
import { hasPart, useShelf } from "@/stores/shelf";
import { useSong } from "@/stores/song";

const route = useRoute();
const router = useRouter();
const toast = useToast();
const desk = useSong();
const shelf = useShelf();
const playback = usePlayback();
void findMine();
void useKitOfMine().find().catch(() => {}); // without it everything is read as most do
const isHelping = ref(false);
const isAsking = ref(false);
const isTalking = ref(!!route.query.talk);
const complaint = ref("");
let isHere = true;
const songId = computed(() => Number(route.params.id));
const song = computed(() => shelf.get(songId.value));
watch(() => song.value?.may, (may) => (desk.mayEdit = may !== "see"), { immediate: true });

watch(
  songId,
  async (id) => {
    complaint.value = "";
    const told = (why: string) => (complaint.value = why);
    const isWanted = () => songId.value === id && isHere;
    try {
      await retryWhileAway(() => shelf.refresh(id), told, isWanted);
      // Of a song that is still being heard there is nothing to fetch; its own view waits for it.
      if (hasPart(shelf.get(id)!)) await retryWhileAway(() => desk.open(id), told, isWanted);
      else if (isWanted() && route.name !== "take-in") await router.replace({ name: "take-in", params: { id } });
    } catch (problem) {
      complaint.value =
        (problem as Refusal).status === 404
          ? "There is no such song on your shelf."
          : (problem as Error).message;
    }
  },
  { immediate: true },
);
watch(
  () => desk.complaint ?? playback.complaint,
  (text) => {
    if (text) toast.add({ severity: "warn", summary: text, life: 7000 });
    desk.complaint = playback.complaint = null;
  },
);
onUnmounted(() => {
  isHere = false;
  playback.pause();
  desk.close();
});

/** What needs the song's part: nothing before it was heard. */
const onPart = (act: () => unknown) => () => (desk.shown ? void act() : false);
const to = (name: (typeof VIEWS)[number]["name"]) => () => void router.push({ name });
const hear = (what: Sounding) => onPart(() => (playback.sounding = what));
useKeys("desk", {
  play: onPart(playback.toggle),
  loopBar: onPart(loopBar),
  loopBeat: onPart(loopBeat),
  loopPhrase: onPart(loopPhrase),
  nextSound: onPart(nextSound),
  recording: hear("recording"),
  written: hear("written"),
  inTurn: hear("alternate"),
  nextTake: onPart(nextTake),
  drums: onPart(playback.turnDrums),
  click: onPart(playback.nextClick),
  countIn: onPart(() => (playback.countsIn = !playback.countsIn)),
  narrow: onPart(playback.narrow),
  backbone: onPart(() => playback.only(["kick", "backbeat"])),
  slower: onPart(() => playback.slower(-1)),
  faster: onPart(() => playback.slower(1)),
  home: onPart(() => playback.seek(0)),
  undo,
  redo,
  takeIn: to("take-in"),
  pulse: to("pulse"),
  map: to("map"),
  bench: to("bench"),
  grooves: to("grooves"),
  fills: to("fills"),
  feel: to("feel"),
  hands: to("hands"),
  chart: to("chart"),
  practice: to("practice"),
  nextView: () => turnTo(1),
  viewBefore: () => turnTo(-1),
  command: () => void (isAsking.value = true),
  talk: onPart(() => (isTalking.value = !isTalking.value)),
  help: () => void (isHelping.value = true),
});

/** Taking back says what it takes back: it may lie in another view, or be long ago. */
function undo(): void {
  const what = desk.shown?.undoes;
  if (what) say(`Taken back: ${what}`);
  desk.undo();
}
function redo(): void {
  const what = desk.shown?.redoes;
  if (what) say(`Done again: ${what}`);
  desk.redo();
}
function say(summary: string): void {
  toast.removeGroup("step");
  toast.add({ severity: "secondary", summary, life: 2500, group: "step" });
}
const saving = computed(() => {
  if (!desk.isAway) return desk.isSaved ? "Saved" : "Saving";
  const what = desk.pending === 1 ? "1 change is" : `${desk.pending} changes are`;
  return desk.isKept ? `Server away: ${what} kept here` : `Server away: ${what} not kept, leave this page open`;
});

/** The next view, or the one before; round at the ends. */
function turnTo(by: number): void {
  const at = VIEWS.findIndex((v) => v.name === route.name);
  void router.push({ name: VIEWS[(at + by + VIEWS.length) % VIEWS.length]!.name });
}

function barNow(): number {
  return Number(route.query.bar) || desk.clock?.barAt(playback.now) || 1;
}
function loopBar(): void {
  if (desk.clock) playback.setLoop(desk.clock.barStart(barNow()), desk.clock.barEnd(barNow()));
}
function loopBeat(): void {
  const clock = desk.clock;
  if (!clock) return;
  const bar = barNow();
  const beats = clock.meters[bar - 1]!.beats;
  const inside = Math.min(Math.max(Math.floor(clock.within(bar, playback.now) * beats + 1e-6), 0), beats - 1);
  const first = clock.starts[bar - 1]! + inside;
  playback.setLoop(clock.seconds(first), clock.seconds(first + 1));
}
function loopPhrase(): void {
  const [clock, bar] = [desk.clock, barNow()];
  const s = desk.score?.sections.find((x) => x.first_bar <= bar && bar < x.first_bar + x.bars);
  const row = s && phraseRows(s.first_bar, s.bars).find((r) => r.includes(bar));
  if (clock && row) playback.setLoop(clock.barStart(row[0]!), clock.barEnd(row[row.length - 1]!));
}
/** The takes in turn in the recording's place. */
function nextTake(): void {
  const others = usable(song.value?.takes ?? []).map((t) => t.id);
  const order = [null, ...others];
  playback.take = order[(order.indexOf(playback.take) + 1) % order.length] ?? null;
}
function nextSound(): void {
  const order = ["recording", "written", "both", "alternate"] as const;
  playback.sounding = order[(order.indexOf(playback.sounding) + 1) % order.length]!;
}
</script>

<template>
  <div class="desk">
    <TopBar>
      <span class="song" :title="song?.artist"><strong>{{ song?.title }}</strong><RouterLink v-if="desk.arrangement && desk.shown" class="artist arrangement" :to="{ name: 'hands', params: { id: songId } }" title="This is an arrangement, not the part as it was recorded">{{ desk.shown.arrangement }}</RouterLink><span v-else class="soft artist">{{ song?.artist }}</span></span>
      <div class="views" role="tablist" aria-label="Views">
        <RouterLink
          v-for="v in VIEWS"
          :key="v.name"
          :to="{ name: v.name, params: { id: songId } }"
          :class="['view', { on: route.name === v.name, off: !desk.shown && v.name !== 'take-in' }]"
          role="tab"
          :title="withKey(v.label, 'desk', v.key)"
          :aria-selected="route.name === v.name"
        >{{ v.label }}</RouterLink>
      </div>
      <template #end>
        <span v-if="song?.may === 'see'" class="saved" role="status">to play along</span>
        <span v-else-if="desk.shown" :class="['saved', { away: desk.isAway }]" role="status">
          {{ saving }}
        </span>
        <button class="plain icon" aria-label="Undo" :title="withKey(desk.shown?.undoes ? `Undo: ${desk.shown.undoes}` : 'Nothing of yours to undo', 'desk', 'undo')" :disabled="!desk.shown?.undoes" @click="undo"><i class="pi pi-undo" /></button>
        <button class="plain icon" aria-label="Redo" :title="withKey(desk.shown?.redoes ? `Redo: ${desk.shown.redoes}` : 'Nothing of yours to redo', 'desk', 'redo')" :disabled="!desk.shown?.redoes" @click="redo"><i class="pi pi-refresh" /></button>
        <button :class="['plain', 'icon', { on: isTalking }]" aria-label="Comments and history" :title="withKey('Comments and history', 'desk', 'talk')" @click="isTalking = !isTalking"><i class="pi pi-comments" /></button>
        <button class="plain icon" aria-label="Say what you want" :title="withKey('Say what you want in words', 'desk', 'command')" @click="isAsking = true"><i class="pi pi-bolt" /></button>
        <button class="plain icon" aria-label="Keys" :title="withKey('Keys', 'desk', 'help')" @click="isHelping = true">?</button>
      </template>
    </TopBar>
    <div class="middle"><main>
      <p v-if="complaint" class="notice" role="alert">{{ complaint }}</p>
      <RouterView v-else-if="desk.shown || route.name === 'take-in'" :song-id="songId" />
      <p v-else class="soft loading">Fetching what was heard …</p>
    </main>
    <TalkPanel v-if="isTalking && desk.shown" :may-edit="song?.may !== 'see'" @close="isTalking = false" /></div>
    <TransportDock v-if="desk.shown" />
    <ClashDialog />
    <CommandField v-model:visible="isAsking" />
    <KeyHelp v-model:visible="isHelping" />
  </div>
</template>

<style scoped>
.desk { height: 100dvh; display: grid; grid-template: auto minmax(0, 1fr) auto / minmax(0, 1fr); }
.middle { display: grid; grid-template-columns: minmax(0, 1fr) auto; min-height: 0; }
main { overflow: auto; min-height: 0; min-width: 0; }
.song { display: flex; flex-direction: column; line-height: 1.15; padding-left: 0.8rem; border-left: 1px solid var(--line); min-width: 4.5rem; max-width: 15rem; }
.song strong, .artist { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.artist { font-size: 0.85rem; }
.arrangement { color: var(--warn); font-weight: 700; text-decoration: none; }
.views { display: flex; gap: 2px; margin-left: 0.6rem; background: var(--well); border-radius: 9px; padding: 3px; }
.view { white-space: nowrap; padding: 0.3rem 0.62rem; border-radius: 7px; text-decoration: none; color: var(--ink-soft); }
.view.on { background: var(--sheet); color: var(--ink); font-weight: 700; box-shadow: 0 1px 2px rgb(0 0 0 / 0.14); }
.view.off { opacity: 0.45; pointer-events: none; }
.saved { color: var(--ink-faint); font-size: 0.9rem; }
.saved.away { color: var(--warn); font-weight: 700; }
.icon { padding: 0.35rem 0.6rem; }
.notice { margin: 2rem auto; max-width: 40rem; background: var(--warn-well); color: var(--warn); padding: 0.8rem 1rem; border-radius: 8px; }
.loading { padding: 3rem; text-align: center; }
@media (max-width: 1000px) { .views { order: 9; flex: 1 0 100%; justify-content: space-between; overflow-x: auto; } .song { max-width: 22rem; } }
@media (max-width: 1150px) {
  .views { margin-left: 0; }
  .view { padding: 0.3rem 0.34rem; font-size: 0.95rem; }
  .icon { padding: 0.35rem 0.45rem; }
}
</style>
