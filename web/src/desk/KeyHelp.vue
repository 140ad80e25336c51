<script setup lang="ts">
/** All keys, as the table has them; where one is now stands first. */
import Dialog from "primevue/dialog";
import { computed } from "vue";
import { useRoute } from "vue-router";
import { KEYS, SCOPE_NAMES, SCOPES, shown, type Key } from "@/keys/table";

const visible = defineModel<boolean>("visible", { required: true });
const route = useRoute();
const scopes = computed(() => {
  const here = SCOPES.filter((s) => s === route.name || (route.name === "bench" && SCOPE_NAMES[s].startsWith("Bench")));
  return [...here, ...SCOPES.filter((s) => !here.includes(s))];
});
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Keys" dismissable-mask :style="{ width: '62rem' }">
    <div class="columns">
      <section v-for="scope in scopes" :key="scope">
        <h2>{{ SCOPE_NAMES[scope] }}</h2>
        <dl>
          <template v-for="(k, name) in KEYS[scope] as Record<string, Key>" :key="name">
            <dt><span class="key">{{ shown(k) }}</span></dt>
            <dd>{{ k.does }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.columns { columns: 2; column-gap: 2rem; }
section { margin-bottom: 1rem; }
h2 { break-after: avoid; }
dl { display: grid; grid-template-columns: 8rem 1fr; gap: 0.3rem 0.6rem; margin: 0.5rem 0 0; }
dt, dd { break-inside: avoid; }
dd { margin: 0; }
</style>
