<script setup lang="ts">
/** One band or class: who is in it, what each may, whom it waits for. */
import { brought, server, type Schemas } from "@/api/client";
import AddressLine from "./AddressLine.vue";
import { useActing } from "./acting";

type Group = Schemas["GroupTold"];
type Role = Group["role"];
const props = defineProps<{ group: Group }>();
const emit = defineEmits<{ changed: [group: Group]; gone: [] }>();
const { complaint, act } = useActing();
const MAY: Record<Role, string> = {
  player: "plays: sees, practises, talks",
  editor: "edits: changes songs too",
  owner: "owns: decides who belongs to it",
};
const at = { path: { id: props.group.id } };
const invite = (role: Role) => act(async () => emit("changed", await brought(server.POST("/api/groups/{id}/invitations", { params: at, body: { role } }))));
const withdraw = (number: number) => act(async () => emit("changed", await brought(server.DELETE("/api/groups/{id}/invitations/{number}", { params: { path: { id: props.group.id, number } } }))));
const setRole = (user: number, role: Role) => act(async () => emit("changed", await brought(server.PUT("/api/groups/{id}/members/{user}", { params: { path: { id: props.group.id, user } }, body: { role } }))));
const remove = (user: number, isMe: boolean) => act(async () => {
  await server.DELETE("/api/groups/{id}/members/{user}", { params: { path: { id: props.group.id, user } } });
  if (isMe) emit("gone");
  else emit("changed", { ...props.group, members: props.group.members.filter((m) => m.user !== user) });
});
const end = () => act(async () => {
  await server.DELETE("/api/groups/{id}", { params: at });
  emit("gone");
});
const day = (at: string) => at.slice(0, 10);
</script>

<template>
  <article class="card group" :aria-label="group.name">
    <header><h2>{{ group.name }}</h2><span class="tag">{{ group.kind }}</span><span class="soft figure">{{ group.songs }} {{ group.songs === 1 ? "song" : "songs" }} shared</span></header>
    <table>
      <tbody>
        <tr v-for="m in group.members" :key="m.user">
          <th>{{ m.name }}<span v-if="m.is_me" class="soft"> (you)</span></th>
          <td>
            <select v-if="group.role === 'owner'" class="plain" :value="m.role" :aria-label="`What ${m.name} may`" @change="setRole(m.user, ($event.target as HTMLSelectElement).value as Role)">
              <option v-for="(says, role) in MAY" :key="role" :value="role">{{ says }}</option>
            </select>
            <span v-else>{{ MAY[m.role] }}</span>
          </td>
          <td><button v-if="group.role === 'owner' || m.is_me" class="plain" @click="remove(m.user, m.is_me)">{{ m.is_me ? "Leave" : "Remove" }}</button></td>
        </tr>
      </tbody>
    </table>
    <template v-if="group.role === 'owner'">
      <ul v-if="group.invitations.length" class="waits" aria-label="Open invitations">
        <li v-for="i in group.invitations" :key="i.id"><span class="soft">{{ i.role }}, until {{ day(i.until) }}</span><AddressLine :address="i.address" says="Invitation" /><button class="plain" @click="withdraw(i.id)">Withdraw</button></li>
      </ul>
      <p class="line">Invite <button class="plain" @click="invite('player')">a player</button><button class="plain" @click="invite('editor')">an editor</button><button class="plain" @click="invite('owner')">another owner</button><span class="grow" /><button class="plain" @click="end">End this {{ group.kind }}</button></p>
    </template>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </article>
</template>

<style scoped>
.group { padding: 0.9rem 1.1rem; display: grid; gap: 0.7rem; }
header, .line, li { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
header .soft { margin-left: auto; }
.grow { flex: 1; }
table { border-collapse: collapse; }
th, td { text-align: left; padding: 0.2rem 0.6rem 0.2rem 0; font-weight: 400; }
th { font-weight: 700; }
td:last-child { text-align: right; padding-right: 0; }
select.plain { max-width: 19rem; }
.waits { list-style: none; margin: 0; padding: 0.5rem 0 0; border-top: 1px solid var(--line); display: grid; gap: 0.4rem; }
.wrong { color: var(--warn); }
</style>
