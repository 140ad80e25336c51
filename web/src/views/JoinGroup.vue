<script setup lang="ts">
/** An invitation: with the account one has, or with a new one. */
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Password from "primevue/password";
import { onMounted, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { brought, server, type Schemas } from "@/api/client";
import { useActing } from "@/house/acting";
import { useSession } from "@/stores/session";

const props = defineProps<{ token: string }>();
const session = useSession();
const router = useRouter();
const told = shallowRef<Schemas["InvitationTold"] | null>(null);
const name = ref("");
const password = ref("");
const isGone = ref("");
const { complaint, act } = useActing();
const at = { path: { token: props.token } };
onMounted(async () => {
  await session.find().catch(() => null);
  if (!props.token) return;
  told.value = await brought(server.GET("/api/invitations/{token}", { params: at })).catch(() => {
    isGone.value = "This invitation was used or has run out; ask for a new one.";
    return null;
  });
});
const join = () => act(async () => {
  await server.POST("/api/invitations/{token}", { params: at });
  await router.push({ name: "people" });
});
const make = () => act(async () => {
  await session.make(name.value, password.value, props.token);
  await router.push("/");
});
</script>

<template>
  <main>
    <div class="card">
      <h1>Orchesis</h1>
      <p v-if="isGone" role="alert">{{ isGone }} <RouterLink to="/">To the shelf</RouterLink></p>
      <template v-else>
        <p v-if="told?.group"><strong>{{ told.by }}</strong> asks you into the {{ told.kind }} <strong>{{ told.group }}</strong>, as {{ told.role === "player" ? "a player" : `an ${told.role}` }}.</p>
        <template v-if="session.name && told">
          <p>You are logged in as <strong>{{ session.name }}</strong>.</p>
          <Button :label="`Join as ${session.name}`" @click="join" />
        </template>
        <form v-else @submit.prevent="make">
          <p class="soft">A name and a password of your own, at least eight signs and nothing that others would try first.</p>
          <label for="name">Name</label><InputText id="name" v-model="name" autocomplete="username" maxlength="150" required />
          <label for="password">Password</label><Password v-model="password" input-id="password" :feedback="false" toggle-mask autocomplete="new-password" fluid />
          <Button type="submit" label="Make my account" :disabled="!name || !password" />
          <p class="soft">You have one? <RouterLink :to="{ name: 'log-in', query: { next: token ? `/join/${token}` : '/' } }">Log in</RouterLink></p>
        </form>
      </template>
      <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    </div>
  </main>
</template>

<style scoped>
main { min-height: 100vh; display: grid; place-items: center; padding: 1rem; }
.card { padding: 2rem; width: min(26rem, 100%); display: grid; gap: 0.8rem; }
form { display: grid; gap: 0.6rem; }
label { font-weight: 700; }
.wrong { color: var(--warn); }
</style>
