<script setup lang="ts" generic="S extends Scope">
/** The cap of an action's key, as the table has it. */
import { computed } from "vue";
import { cap, row, type Action, type Scope } from "./table";

const props = defineProps<{ scope: S; action: Action<S>; which?: number }>();
const text = computed(() => {
  const own = row(props.scope, props.action);
  return props.which === undefined && own.shows ? own.shows : cap(own.keys[props.which ?? 0]!);
});
</script>

<template>
  <span class="key">{{ text }}</span>
</template>
