<script setup lang="ts">
import Toast from "primevue/toast";
import { useDark } from "@vueuse/core";

useDark({ valueDark: "dark", valueLight: "light" });
</script>

<template>
  <Toast position="top-center" />
  <RouterView />
</template>
