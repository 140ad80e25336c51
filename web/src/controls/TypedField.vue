<script setup lang="ts">
/** A field that counts once one leaves it. A redraw meanwhile leaves what is being typed alone. */
import { computed } from "vue";

const props = defineProps<{ value: string | number | null | undefined; isTall?: boolean }>();
const emit = defineEmits<{ set: [text: string] }>();
const text = computed({ get: () => props.value ?? "", set: (typed) => emit("set", String(typed)) });
</script>

<template>
  <textarea v-if="isTall" v-model.lazy="text" class="plain" />
  <input v-else v-model.lazy="text" class="plain">
</template>
