<script setup lang="ts">
/** Every part of the kit with its head and its key; one click writes or changes. */
import { PARTS } from "@/kit";
import { shape } from "@/spine/shapes";
import { partKey } from "@/keys/table";

defineProps<{ current: string }>();
const emit = defineEmits<{ choose: [name: string] }>();
</script>

<template>
  <div class="tray" role="group" aria-label="Parts">
    <button v-for="p in PARTS" :key="p.name" :class="['piece', p.role, { on: p.name === current }]" :aria-pressed="p.name === current" @click="emit('choose', p.name)">
      <svg viewBox="-18 -20 36 36" width="24" height="24" aria-hidden="true">
        <path :class="['head', { hollow: shape(p.shape).isHollow }]" :d="shape(p.shape).path" />
        <path v-if="shape(p.shape).extra" class="extra" :d="shape(p.shape).extra" />
        <text :y="shape(p.shape).letterY" :class="{ dark: shape(p.shape).isHollow }">{{ p.letter }}</text>
      </svg>
      <span>{{ p.label }}</span>
      <kbd v-if="partKey(p.name)" class="key">{{ partKey(p.name) }}</kbd>
    </button>
  </div>
</template>

<style scoped>
.tray { display: grid; grid-template-columns: repeat(auto-fill, minmax(9.4rem, 1fr)); gap: 3px; }
.piece { --limb: var(--rh); display: flex; align-items: center; gap: 0.3rem; padding: 1px 5px; border: 1px solid transparent; border-radius: 7px; background: none; color: var(--ink); font-size: 0.86rem; cursor: pointer; text-align: left; white-space: nowrap; }
.piece:hover { border-color: var(--line-strong); }
.piece.on { border-color: var(--ink); background: var(--well); }
.piece span { flex: 1; overflow: hidden; text-overflow: ellipsis; }
.backbeat { --limb: var(--lh); } .right_foot { --limb: var(--rf); } .left_foot { --limb: var(--lf); }
.head { fill: var(--limb); stroke: var(--limb); stroke-width: 1.6; }
.head.hollow { fill: var(--sheet); }
.extra { fill: none; stroke: var(--limb); stroke-width: 2; }
text { text-anchor: middle; font-size: 13px; font-weight: 700; fill: var(--sheet); }
text.dark { fill: var(--limb); }
.key { font-family: inherit; }
</style>
