<script setup lang="ts">
/** One's own account: room, backup, password, where one is logged in, its end. */
import { onMounted, onUnmounted, ref, shallowRef } from "vue";
import { useRouter } from "vue-router";
import { brought, server, type Schemas } from "@/api/client";
import { useSession } from "@/stores/session";
import { useActing } from "./acting";

const session = useSession();
const router = useRouter();
const { complaint, act } = useActing();
const account = shallowRef<Schemas["Account"] | null>(null);
const devices = shallowRef<Schemas["Device"][]>([]);
const old = ref("");
const fresh = ref("");
const said = ref("");
const isEnding = ref(false);
const password = ref("");
let timer: ReturnType<typeof setInterval>;

const isMaking = () => ["queued", "running"].includes(account.value?.job?.state ?? "");
const find = () => act(async () => {
  account.value = await brought(server.GET("/api/account"));
  devices.value = (await brought(server.GET("/api/account/devices"))).devices;
});
const backUp = () => act(async () => void (account.value = await brought(server.POST("/api/account/backup"))));
const change = () => act(async () => {
  await server.PUT("/api/account/password", { body: { old: old.value, new: fresh.value } });
  [old.value, fresh.value, said.value] = ["", "", "Changed. Every other place has to log in again."];
});
const elsewhere = () => act(async () => {
  await server.DELETE("/api/account/devices");
  await find();
});
const end = () => act(async () => {
  await server.POST("/api/account/end", { body: { password: password.value } });
  session.name = null;
  await router.push({ name: "log-in" });
});
const size = (mb: number) => (mb < 1000 ? `${Math.round(mb)} MB` : `${Math.round(mb / 100) / 10} GB`);
const when = (at: string) => new Date(at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
onMounted(() => {
  void find();
  timer = setInterval(() => isMaking() && void find(), 1500);
});
onUnmounted(() => clearInterval(timer));
</script>

<template>
  <section v-if="account" class="card account" aria-label="My account">
    <h2>{{ account.name }}</h2>
    <div>
      <p class="line"><span>Recordings take <strong class="figure">{{ size(account.used) }}</strong> of <span class="figure">{{ size(account.most) }}</span>, for {{ account.songs }} {{ account.songs === 1 ? "song" : "songs" }}<template v-if="account.in_bin"> and {{ account.in_bin }} in the bin</template>.</span></p>
      <div class="room" role="meter" aria-label="Room that recordings take" :aria-valuenow="Math.round(account.used)" aria-valuemin="0" :aria-valuemax="account.most"><i :style="{ width: `${Math.max(0.5, Math.min(100, (100 * account.used) / account.most))}%` }" /></div>
    </div>
    <p class="line">
      <button class="plain" :disabled="isMaking()" @click="backUp"><i :class="isMaking() ? 'pi pi-spin pi-spinner' : 'pi pi-box'" /> {{ isMaking() ? "Packing" : "Pack all of it" }}</button>
      <a v-if="account.backup_ready && !isMaking()" class="plain" href="/api/account/backup" download>Download the backup of {{ when(account.backup_made!) }}</a>
      <span v-else class="soft">Songs, recordings, logs, lessons and lists in one file that can be restored anywhere.</span>
    </p>
    <form class="line" @submit.prevent="change">
      <input v-model="old" class="plain" type="password" autocomplete="current-password" placeholder="password now" aria-label="Password now" required>
      <input v-model="fresh" class="plain" type="password" autocomplete="new-password" placeholder="new password" aria-label="New password" required>
      <button class="plain">Change it</button><span v-if="said" class="soft" role="status">{{ said }}</span>
    </form>
    <div>
      <p v-for="d in devices" :key="d.id" class="line"><i :class="/Android|iPhone/.test(d.what) ? 'pi pi-mobile' : 'pi pi-desktop'" />{{ d.what }}<span class="soft">{{ d.is_this ? "here" : `last seen ${when(d.seen)}` }}</span></p>
      <button v-if="devices.length > 1" class="plain" @click="elsewhere">Log out everywhere else</button>
    </div>
    <p v-if="!isEnding" class="line"><button class="plain" @click="isEnding = true">End my account</button></p>
    <form v-else class="line end" @submit.prevent="end">
      <span>All songs and recordings are deleted at once, also from the bin. Pack them first. To go on, your password:</span>
      <input v-model="password" class="plain" type="password" autocomplete="current-password" aria-label="Password to end the account" required>
      <button class="plain">Delete everything</button><button type="button" class="plain" @click="isEnding = false">Keep it</button>
    </form>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </section>
</template>

<style scoped>
.account { padding: 0.9rem 1.1rem; display: grid; gap: 0.9rem; }
.line { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
.room { height: 9px; border-radius: 5px; background: var(--line); overflow: hidden; margin-top: 0.3rem; }
.room i { display: block; height: 100%; background: var(--rh); }
input.plain { width: 11rem; }
.end { background: var(--warn-well); color: var(--warn); border-radius: 8px; padding: 0.6rem; }
.wrong { color: var(--warn); }
a.plain { text-decoration: none; }
</style>
