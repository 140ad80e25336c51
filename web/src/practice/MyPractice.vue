<script setup lang="ts">
/** My practice: what was done, what comes next in the time there is, ears and breaks. */
import { computed, onMounted, ref, shallowRef } from "vue";
import { RouterLink } from "vue-router";
import { brought, server, type Schemas } from "@/api/client";
import TypedField from "@/controls/TypedField.vue";
import { useActing } from "@/house/acting";

type Log = Schemas["PracticeLog"];
const log = shallowRef<Log | null>(null);
const blocks = shallowRef<Schemas["PlanBlock"][]>([]);
const minutes = ref(25);
const { complaint, act: attempt } = useActing();
const LEVELS = [[80, "practice pad"], [90, "brushes, a small kit"], [98, "a kit, moderate"], [106, "a kit, loud"]] as const;
const GUARDS = [[0, "nothing"], [15, "music plugs, 15 dB"], [20, "plugs, 20 dB"], [28, "ear muffs, 28 dB"]] as const;
const RULES = [["85/3", "85 dB(A) for 8 hours, 3 dB halve the time"], ["90/5", "90 dB(A) for 8 hours, 5 dB halve the time"]] as const;

const find = () => attempt(async () => {
  log.value = await brought(server.GET("/api/practice"));
  minutes.value = log.value.care.minutes;
  await plan();
});
async function plan(): Promise<void> {
  const found = await brought(server.GET("/api/practice/plan", { params: { query: { minutes: minutes.value } } }));
  blocks.value = found.blocks;
}
const choose = (said: Partial<Log["care"]>) => attempt(async () => {
  log.value = await brought(server.PUT("/api/practice", { body: { ...log.value!.care, ...said } as Schemas["CareRequest"] }));
  await plan();
});
const most = computed(() => Math.max(30, ...(log.value?.days ?? []).map((d) => d.minutes)));
const week = computed(() => {
  const since = new Date(Date.now() - 7 * 864e5).toISOString().slice(0, 10);
  return Math.round((log.value?.days ?? []).filter((d) => d.day > since).reduce((sum, d) => sum + d.minutes, 0));
});
const to = (b: { song: number | null; first: number | null; last: number | null; order: string | null }) => ({ name: "practice", params: { id: b.song! }, query: { first: b.first, last: b.last, order: b.order } });
onMounted(() => void find());
</script>

<template>
  <div class="mine">
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
    <template v-if="log">
      <section class="card" aria-label="Today">
        <h2>Today</h2>
        <p><span class="figure large">{{ log.today.minutes.toFixed(log.today.minutes < 10 ? 1 : 0) }}</span> minutes played, judged {{ log.today.loops === 1 ? "once" : `${log.today.loops} times` }}; this week {{ week }} minutes.</p>
        <p v-for="s in log.today.says" :key="s" class="calm"><i class="pi pi-info-circle" /> {{ s }}</p>
        <label class="line">I have <TypedField class="number" type="number" min="5" max="240" :value="minutes" aria-label="Minutes today" @set="choose({ minutes: Math.min(240, Math.max(5, Number($event) || 25)) })" /> minutes:</label>
        <ol class="plan" aria-label="Plan for today">
          <li v-for="(b, n) in blocks" :key="n" :class="{ pause: b.kind === 'break' }">
            <span class="figure">{{ Math.round(b.minutes) }} min</span>
            <RouterLink v-if="b.song" :to="to(b)"><strong>{{ b.kind }}</strong></RouterLink><strong v-else>{{ b.kind }}</strong>
            <span>{{ b.says }}</span>
          </li>
        </ol>
        <p v-if="!log.passages.length" class="soft">Nothing was practised yet: choose bars under <em>Stages</em>, play, and judge a loop.</p>
      </section>
      <section class="card" aria-label="The last four weeks">
        <h2>The last four weeks</h2>
        <svg v-if="log.days.length" :viewBox="`0 0 ${log.days.length * 22} 70`" class="days" role="img" :aria-label="`Minutes a day: ${log.days.map((d) => Math.round(d.minutes)).join(', ')}`">
          <g v-for="(d, n) in log.days" :key="d.day"><rect :x="n * 22 + 3" :width="16" :y="52 - (48 * d.minutes) / most" :height="(48 * d.minutes) / most" rx="2" /><text :x="n * 22 + 11" y="66">{{ Number(d.day.slice(8)) }}</text></g>
        </svg>
        <ul class="passages">
          <li v-for="p in log.passages" :key="`${p.arrangement} ${p.first} ${p.last} ${p.order}`">
            <RouterLink :to="to(p)">{{ p.title }}</RouterLink>
            <span class="figure">{{ p.learned }} of {{ p.stages }} stages</span>
            <span class="soft">{{ p.is_back ? "due again" : p.days < 1 ? "today" : `${Math.round(p.days)} days ago` }}{{ p.due_in === null ? "" : p.due_in === 0 ? ", needed today" : `, needed in ${p.due_in} day${p.due_in > 1 ? "s" : ""}` }}, {{ Math.round(p.tempo) }} bpm</span>
          </li>
        </ul>
      </section>
      <section class="card" aria-label="Ears and body">
        <h2>Ears and body</h2>
        <label>I play on <select class="plain" :value="log.care.level" aria-label="How loud it is" @change="choose({ level: Number(($event.target as HTMLSelectElement).value) })"><option v-for="[db, label] in LEVELS" :key="db" :value="db">{{ label }}, about {{ db }} dB(A)</option><option v-if="!LEVELS.some(([db]) => db === log!.care.level)" :value="log.care.level">{{ log.care.level }} dB(A), measured</option></select></label>
        <label>Measured at my ear <TypedField class="number" type="number" min="40" max="130" :value="log.care.level" aria-label="Measured level" @set="choose({ level: Math.min(130, Math.max(40, Number($event) || 98)) })" /> dB(A)</label>
        <label>I wear <select class="plain" :value="log.care.protection" aria-label="Protection" @change="choose({ protection: Number(($event.target as HTMLSelectElement).value) })"><option v-for="[db, label] in GUARDS" :key="db" :value="db">{{ label }}</option></select></label>
        <label>Rule <select class="plain" :value="log.care.rule" aria-label="Rule" @change="choose({ rule: ($event.target as HTMLSelectElement).value as '85/3' })"><option v-for="[key, label] in RULES" :key="key" :value="key">{{ label }}</option></select></label>
        <p>By that rule your ears have <strong class="figure">{{ log.today.ears_minutes_left > 600 ? "more than ten hours" : `${log.today.ears_minutes_left} minutes` }}</strong> left today.</p>
        <p class="soft">Warm up slowly, rest after forty minutes, stop when it hurts. This is arithmetic, no medical advice: local rules, a physician or a hearing professional go before it.</p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.mine { display: grid; grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr)); gap: 0.7rem; align-items: start; }
.card { padding: 0.8rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
.card h2, .card p { margin: 0; }
.large { font-size: 2rem; font-weight: 700; }
.line { display: flex; gap: 0.4rem; align-items: center; }
.number { width: 4.6rem; }
label { display: flex; gap: 0.5rem; align-items: center; flex-wrap: wrap; }
label select { max-width: 100%; }
.plan, .passages { list-style: none; margin: 0; padding: 0; display: grid; gap: 0.35rem; }
.plan li { display: grid; grid-template-columns: 3.6rem 6.5rem 1fr; gap: 0.4rem; }
.plan li.pause { color: var(--ink-soft); }
.passages li { display: grid; grid-template-columns: 1fr auto; gap: 0 0.6rem; }
.calm { background: var(--well); border-radius: 8px; padding: 0.4rem 0.6rem; }
.days { width: 100%; max-width: 30rem; height: 5rem; }
.days rect { fill: var(--ink-soft); }
.days text { font-size: 9px; text-anchor: middle; fill: var(--ink-soft); }
.wrong { color: var(--warn); }
</style>
