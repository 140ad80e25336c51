<script setup lang="ts">
/** The desk of one song: its views, undo, saving, the transport and the keys. */
import { useEventListener } from "@vueuse/core";
import { useToast } from "primevue/usetoast";
import { computed, onUnmounted, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import KeyHelp from "@/desk/KeyHelp.vue";
import TopBar from "@/desk/TopBar.vue";
import TransportDock from "@/desk/TransportDock.vue";
import { Refusal } from "@/api/client";
import { VIEWS } from "@/router";
import { usePlayback } from "@/stores/playback";
import { useShelf } from "@/stores/shelf";
import { useSong } from "@/stores/song";

const route = useRoute();
const router = useRouter();
const toast = useToast();
const desk = useSong();
const shelf = useShelf();
const playback = usePlayback();
const isHelping = ref(false);
const complaint = ref("");
const songId = computed(() => Number(route.params.id));
const song = computed(() => shelf.songs?.find((s) => s.id === songId.value));

watch(
  songId,
  async (id) => {
    complaint.value = "";
    try {
      await shelf.refresh(id);
    } catch (problem) {
      complaint.value =
        (problem as Refusal).status === 404
          ? "There is no such song on your shelf."
          : (problem as Error).message;
      return;
    }
    try {
      await desk.open(id);
    } catch (problem) {
      if ((problem as Refusal).status !== 404) complaint.value = (problem as Error).message;
      else if (route.name !== "take-in") await router.replace({ name: "take-in", params: { id } });
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
  playback.pause();
  desk.close();
});

function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && !!target.closest("input, select, textarea, [role=dialog], [role=listbox], [role=combobox]");
}

useEventListener("keydown", (e: KeyboardEvent) => {
  if (isTyping(e.target)) return;
  const withControl = e.ctrlKey || e.metaKey;
  if (withControl && e.key.toLowerCase() === "z") {
    e.preventDefault();
    if (e.shiftKey) desk.redo();
    else desk.undo();
  } else if (withControl || e.altKey) return;
  else if (e.key === "?") isHelping.value = true;
  else if (e.shiftKey && /^Digit[1-5]$/.test(e.code)) {
    void router.push({ name: VIEWS[Number(e.code[5]) - 1]!.name });
  } else if (!desk.shown) return;
  else if (e.code === "Space") {
    e.preventDefault();
    playback.toggle();
  } else if (e.key === "Tab") return;
  else if (e.key === "-") playback.slower(-1);
  else if (e.key === "+" || e.key === "=") playback.slower(1);
  else if (e.key === "\\") loopBar();
  else if (e.key === "`" || e.key === "§") nextSound();
  else if (e.key === "'") playback.turnDrums();
  else if (e.key === "Home") playback.seek(0);
});

function loopBar(): void {
  const bar = Number(route.query.bar) || desk.clock?.barAt(playback.now) || 1;
  if (desk.clock) playback.setLoop(desk.clock.barStart(bar), desk.clock.barEnd(bar));
}
function nextSound(): void {
  const order = ["recording", "written", "both"] as const;
  playback.sounding = order[(order.indexOf(playback.sounding) + 1) % 3]!;
}
</script>

<template>
  <div class="desk">
    <TopBar>
      <span class="song" :title="song?.artist"><strong>{{ song?.title }}</strong><span class="soft artist">{{ song?.artist }}</span></span>
      <div class="views" role="tablist" aria-label="Views">
        <RouterLink
          v-for="v in VIEWS"
          :key="v.name"
          :to="{ name: v.name, params: { id: songId } }"
          :class="['view', { on: route.name === v.name, off: !desk.shown && v.name !== 'take-in' }]"
          role="tab"
          :aria-selected="route.name === v.name"
        >{{ v.label }}</RouterLink>
      </div>
      <template #end>
        <span v-if="desk.shown" :class="['saved', { away: desk.isAway }]" role="status">
          {{ desk.isAway ? "Not saved yet; trying again" : desk.isSaved ? "Saved" : "Saving" }}
        </span>
        <button class="plain icon" aria-label="Undo" title="Undo (Ctrl+Z)" :disabled="!desk.shown?.can_undo" @click="desk.undo()"><i class="pi pi-undo" /></button>
        <button class="plain icon" aria-label="Redo" title="Redo (Ctrl+Shift+Z)" :disabled="!desk.shown?.can_redo" @click="desk.redo()"><i class="pi pi-refresh" /></button>
        <button class="plain icon" aria-label="Keys" title="Keys (?)" @click="isHelping = true">?</button>
      </template>
    </TopBar>
    <main>
      <p v-if="complaint" class="notice" role="alert">{{ complaint }}</p>
      <RouterView v-else-if="desk.shown || route.name === 'take-in'" :song-id="songId" />
      <p v-else class="soft loading">Fetching what was heard …</p>
    </main>
    <TransportDock v-if="desk.shown" />
    <KeyHelp v-model:visible="isHelping" />
  </div>
</template>

<style scoped>
.desk { height: 100vh; display: grid; grid-template-rows: auto 1fr auto; }
main { overflow: auto; min-height: 0; }
.song { display: flex; flex-direction: column; line-height: 1.15; padding-left: 0.8rem; border-left: 1px solid var(--line); max-width: 15rem; }
.song strong, .artist { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.artist { font-size: 0.85rem; }
.views { display: flex; gap: 2px; margin-left: 0.6rem; background: var(--well); border-radius: 9px; padding: 3px; }
.view { padding: 0.3rem 0.85rem; border-radius: 7px; text-decoration: none; color: var(--ink-soft); }
.view.on { background: var(--sheet); color: var(--ink); font-weight: 700; box-shadow: 0 1px 2px rgb(0 0 0 / 0.14); }
.view.off { opacity: 0.45; pointer-events: none; }
.saved { color: var(--ink-faint); font-size: 0.9rem; }
.saved.away { color: var(--warn); font-weight: 700; }
.icon { padding: 0.35rem 0.6rem; }
.notice { margin: 2rem auto; max-width: 40rem; background: var(--warn-well); color: var(--warn); padding: 0.8rem 1rem; border-radius: 8px; }
.loading { padding: 3rem; text-align: center; }
</style>
