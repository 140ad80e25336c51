<script setup lang="ts">
/** An address to be handed on, with a button that copies it. */
import { ref } from "vue";
import { whole } from "./acting";

const props = defineProps<{ address: string; says: string }>();
const isCopied = ref(false);
async function copy(): Promise<void> {
  await navigator.clipboard?.writeText(whole(props.address)).catch(() => {});
  isCopied.value = true;
}
</script>

<template>
  <span class="address"><a :href="address" target="_blank" rel="noopener" :aria-label="says">{{ whole(address) }}</a><button class="plain" @click="copy">{{ isCopied ? "Copied" : "Copy" }}</button></span>
</template>

<style scoped>
.address { display: inline-flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
a { overflow-wrap: anywhere; }
.plain { padding: 0.2rem 0.6rem; }
</style>
