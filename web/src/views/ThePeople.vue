<script setup lang="ts">
/** People and account: who works with me, who asks for me, what is mine. */
import Button from "primevue/button";
import { onMounted, ref, shallowRef } from "vue";
import { brought, server, type Schemas } from "@/api/client";
import TopBar from "@/desk/TopBar.vue";
import AccountCard from "@/house/AccountCard.vue";
import GroupCard from "@/house/GroupCard.vue";
import HouseNav from "@/house/HouseNav.vue";
import RequestFormCard from "@/house/RequestFormCard.vue";
import { useActing } from "@/house/acting";

type Group = Schemas["GroupTold"];
const groups = shallowRef<Group[] | null>(null);
const mentions = shallowRef<Schemas["Mention"][]>([]);
const name = ref("");
const kind = ref<Group["kind"]>("band");
const { complaint, act } = useActing();
const find = () => act(async () => {
  groups.value = (await brought(server.GET("/api/groups"))).groups;
  mentions.value = (await brought(server.GET("/api/mentions"))).mentions;
});
onMounted(find);
const make = () => act(async () => {
  const made = await brought(server.POST("/api/groups", { body: { name: name.value.trim(), kind: kind.value } }));
  groups.value = [...(groups.value ?? []), made];
  name.value = "";
});
const put = (group: Group) => (groups.value = groups.value!.map((g) => (g.id === group.id ? group : g)));
</script>

<template>
  <TopBar><HouseNav /></TopBar>
  <main>
    <div class="column">
      <h1>People</h1>
      <section v-if="mentions.length" class="card asked" aria-label="You are asked">
        <h2>You are asked</h2>
        <p v-for="(m, n) in mentions" :key="n"><RouterLink :to="m.bar ? { name: 'bench', params: { id: m.song }, query: { bar: m.bar, talk: 1 } } : { name: 'map', params: { id: m.song }, query: { talk: 1 } }">{{ m.title }}<template v-if="m.bar">, bar {{ m.bar }}</template></RouterLink> <span class="soft">{{ m.author }}:</span> {{ m.words }}</p>
      </section>
      <GroupCard v-for="g in groups ?? []" :key="g.id" :group="g" @changed="put" @gone="find" />
      <p v-if="groups && !groups.length" class="soft">A band or a class shares songs, lists and comments. Songs are shared from the shelf; nobody sees what you did not share.</p>
      <form class="card new" @submit.prevent="make">
        <input v-model="name" class="plain" maxlength="80" placeholder="Name of a band or class" aria-label="Name of a band or class">
        <select v-model="kind" class="plain" aria-label="Kind"><option value="band">band</option><option value="class">class</option></select>
        <Button type="submit" label="Found it" size="small" :disabled="!name.trim() || !groups" />
      </form>
      <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    </div>
    <div class="column">
      <h1>Mine</h1>
      <AccountCard />
      <RequestFormCard />
    </div>
  </main>
</template>

<style scoped>
main { max-width: 1240px; margin: 0 auto; padding: 1.4rem; display: grid; gap: 1.4rem; grid-template-columns: repeat(auto-fit, minmax(min(100%, 26rem), 1fr)); align-items: start; }
.column { display: grid; gap: 0.9rem; min-width: 0; }
.new, .asked { padding: 0.8rem 1.1rem; display: flex; gap: 0.5rem; flex-wrap: wrap; }
.asked { display: grid; border-color: var(--warn); }
.new input { flex: 1; min-width: 10rem; }
.wrong { color: var(--warn); }
</style>
