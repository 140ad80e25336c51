<script setup lang="ts">
/** The form by which people without an account ask for songs. */
import { onMounted, ref, shallowRef } from "vue";
import { brought, server, type Schemas } from "@/api/client";
import AddressLine from "./AddressLine.vue";
import { useActing } from "./acting";

const form = shallowRef<Schemas["FormTold"] | null>(null);
const title = ref("");
const words = ref("");
const { complaint, act } = useActing();
function put(told: Schemas["FormTold"]): void {
  form.value = told;
  [title.value, words.value] = [told.title, told.words];
}
onMounted(() => void act(async () => put(await brought(server.GET("/api/request-form")))));
const keep = (is_open: boolean) => act(async () => put(await brought(server.PUT("/api/request-form", { body: { title: title.value.trim() || "Ask for a song", words: words.value, is_open } }))));
</script>

<template>
  <section v-if="form" class="card form" aria-label="Request form">
    <h2>Requests by link</h2>
    <p class="soft">Whoever has the address asks for songs, says by when, and votes for what others asked. They land on your shelf as asked for.</p>
    <label>Title <input v-model="title" class="plain" maxlength="120" placeholder="Ask for a song"></label>
    <label>A word of mine <textarea v-model="words" class="plain" rows="2" maxlength="600" /></label>
    <p v-if="form.is_open" class="line"><AddressLine :address="form.address" says="Request form" /></p>
    <p class="line"><button class="plain" @click="keep(true)">{{ form.is_open ? "Keep these words" : form.address ? "Open it again" : "Open the form" }}</button><button v-if="form.is_open" class="plain" @click="keep(false)">Close it</button></p>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </section>
</template>

<style scoped>
.form { padding: 0.9rem 1.1rem; display: grid; gap: 0.6rem; }
label { display: grid; gap: 0.15rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.wrong { color: var(--warn); }
</style>
