<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Password from "primevue/password";
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";
import { useSession } from "@/stores/session";

const session = useSession();
const route = useRoute();
const router = useRouter();
const name = ref("");
const password = ref("");
const complaint = ref("");
const isBusy = ref(false);

async function enter(): Promise<void> {
  isBusy.value = true;
  complaint.value = "";
  try {
    await session.enter(name.value, password.value);
    await router.push((route.query.next as string) || "/");
  } catch (problem) {
    complaint.value = (problem as Error).message;
  } finally {
    isBusy.value = false;
  }
}
</script>

<template>
  <main>
    <form class="card" @submit.prevent="enter">
      <svg class="sign" viewBox="0 0 320 96" aria-hidden="true">
        <path class="row" d="M8 56H312" />
        <path class="rh" d="M24 56V26M60 56V36M96 56V22M132 56V36M168 56V26M204 56V36M240 56V22M276 56V36" />
        <path class="lh" d="M96 56V12M240 56V12M222 56V47" />
        <path class="rf" d="M24 57V84M150 57V78M168 57V82" />
      </svg>
      <h1>Orchesis</h1>
      <p class="soft">Hear a drum part, write it down, teach it.</p>
      <label for="name">Name</label>
      <InputText id="name" v-model="name" autocomplete="username" autofocus />
      <label for="password">Password</label>
      <Password v-model="password" input-id="password" :feedback="false" autocomplete="current-password" fluid />
      <p v-if="complaint" class="complaint" role="alert">{{ complaint }}</p>
      <Button type="submit" label="Log in" :loading="isBusy" />
      <p v-if="session.isOpen" class="soft">No account yet? <RouterLink :to="{ name: 'join' }">Make one</RouterLink></p>
    </form>
  </main>
</template>

<style scoped>
main { min-height: 100vh; display: grid; place-items: center; padding: 1rem; }
form { width: min(24rem, 100%); padding: 2rem; display: flex; flex-direction: column; gap: 0.55rem; }
.sign { width: 100%; margin-bottom: 0.5rem; }
.sign path { fill: none; stroke-width: 5; stroke-linecap: round; }
.row { stroke: var(--line-strong); stroke-width: 3 !important; }
.rh { stroke: var(--rh); } .lh { stroke: var(--lh); } .rf { stroke: var(--rf); }
label { font-weight: 700; margin-top: 0.4rem; }
form > button { margin-top: 1rem; }
.complaint { color: var(--lh); }
</style>
