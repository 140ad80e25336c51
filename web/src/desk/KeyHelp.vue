<script setup lang="ts">
/** All keys, where one is now first; each can be another one. */
import Dialog from "primevue/dialog";
import { computed, onUnmounted, ref, watch } from "vue";
import { useRoute } from "vue-router";
import { mine, setMine } from "@/keys/mine";
import { cap, exchanged, KEYS, nameOfRow, row, SCOPE_NAMES, SCOPES, shown, usersOf, type Key, type Scope } from "@/keys/table";
import { nameOf } from "@/keys/useKeys";
import { PARTS } from "@/kit";

const visible = defineModel<boolean>("visible", { required: true });
const route = useRoute();
const isChanging = ref(false);
const waits = ref<{ scope: Scope; action: string; which: number } | null>(null);
const said = ref("");
const scopes = computed(() => {
  const here = SCOPES.filter((s) => s === route.name || (route.name === "bench" && SCOPE_NAMES[s].startsWith("Bench")));
  return [...here, ...SCOPES.filter((s) => !here.includes(s))];
});
const own = (scope: Scope, action: string): Key => row(scope, action as never);
const isMine = (scope: Scope, action: string) => nameOfRow(scope, action) in mine.value;
/** What a key of a row does by itself, for rows with many keys. */
const does = (scope: Scope, action: string, which: number) => (nameOfRow(scope, action) === "parts" ? (PARTS[which]?.label ?? "") : "");
async function keep(rows: Record<string, string[] | null>, says: string): Promise<void> {
  try {
    await setMine(rows);
    said.value = says;
  } catch (problem) {
    said.value = `Kept on this device alone: ${(problem as Error).message}`;
  }
}
function heard(e: KeyboardEvent): void {
  const at = waits.value;
  if (!at || ["Shift", "Control", "Alt", "Meta"].includes(e.key)) return;
  e.preventDefault();
  e.stopImmediatePropagation();
  waits.value = null;
  const key = nameOf(e);
  if (key === own(at.scope, at.action).keys[at.which]) return;
  const { here, elsewhere } = usersOf(key, at.scope);
  const gave = here.map((u) => `“${own(u.scope, u.action).does}” has the old key now.`);
  const hidden = elsewhere.map((u) => `${SCOPE_NAMES[u.scope]}: “${own(u.scope, u.action).does}” has ${cap(key)} too; the inner one goes first.`);
  void keep(exchanged(at.scope, at.action, at.which, key), [`${cap(key)}: ${own(at.scope, at.action).does}.`, ...gave, ...hidden].join(" "));
}
watch(waits, (w) => (w ? window.addEventListener("keydown", heard, true) : window.removeEventListener("keydown", heard, true)));
watch(visible, (is) => {
  if (!is) [isChanging.value, waits.value, said.value] = [false, null, ""];
});
onUnmounted(() => window.removeEventListener("keydown", heard, true));
const asBefore = (scope: Scope, action: string) => keep({ [nameOfRow(scope, action)]: null }, "As it was at first.");
const allAsBefore = () => keep(Object.fromEntries(Object.keys(mine.value).map((k) => [k, null])), "All keys are as they were at first.");
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Keys" dismissable-mask :style="{ width: '62rem' }">
    <p class="line">
      <button :class="['plain', { on: isChanging }]" :aria-pressed="isChanging" @click="isChanging = !isChanging; waits = null">Change keys</button>
      <button v-if="isChanging && Object.keys(mine).length" class="plain" @click="allAsBefore">All as at first</button>
      <span class="soft" role="status">{{ waits ? "Press the new key." : said || (isChanging ? "Choose a key, then press the one you want instead." : "") }}</span>
    </p>
    <div class="columns">
      <section v-for="scope in scopes" :key="scope">
        <h2>{{ SCOPE_NAMES[scope] }}</h2>
        <dl>
          <template v-for="(k, name) in KEYS[scope] as Record<string, Key>" :key="name">
            <dt>
              <template v-if="isChanging"><button v-for="(c, which) in own(scope, name).keys" :key="which" :class="['key', 'change', { on: waits?.scope === scope && waits.action === name && waits.which === which }]" :aria-label="`Another key for ${does(scope, name, which) || k.does}, now ${cap(c)}`" :title="does(scope, name, which)" @click="waits = { scope, action: name, which }">{{ cap(c) }}</button></template>
              <span v-else :class="['key', { mine: isMine(scope, name) }]">{{ shown(own(scope, name)) }}</span>
            </dt>
            <dd>{{ k.does }}<button v-if="isChanging && isMine(scope, name)" class="bare" @click="asBefore(scope, name)">as at first</button></dd>
          </template>
        </dl>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.line { display: flex; gap: 0.6rem; align-items: center; margin-bottom: 0.8rem; flex-wrap: wrap; position: sticky; top: 0; background: var(--p-dialog-background, var(--sheet)); padding: 0.2rem 0; z-index: 1; }
.columns { columns: 2 24rem; column-gap: 2rem; }
section { margin-bottom: 1rem; }
h2 { break-after: avoid; }
dl { display: grid; grid-template-columns: 8rem 1fr; gap: 0.3rem 0.6rem; margin: 0.5rem 0 0; }
dt, dd { break-inside: avoid; }
dt { display: flex; flex-wrap: wrap; gap: 2px; align-content: start; }
dd { margin: 0; }
.change { cursor: pointer; font: inherit; font-size: 0.85em; }
.change.on { outline: 3px solid var(--focus); }
.mine { border-color: var(--focus); }
.bare { border: 0; background: none; color: var(--rh); cursor: pointer; }
</style>
