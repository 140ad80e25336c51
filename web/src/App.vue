<script setup lang="ts">
import Toast from "primevue/toast";
import { useDarkness } from "@/inks";

useDarkness();
</script>

<template>
  <Toast position="top-center" />
  <Toast position="top-center" group="step" />
  <RouterView />
</template>
