<script setup lang="ts">
import Dialog from "primevue/dialog";

const visible = defineModel<boolean>("visible", { required: true });
const KEYS: [string, [string, string][]][] = [
  ["Everywhere", [
    ["Space", "play and pause"],
    ["\\", "loop this bar, again: no loop"],
    ["`", "recording, written, both"],
    ["'", "drums as recorded, forward, back"],
    ["- +", "slower, faster"],
    ["Home", "to the beginning"],
    ["Ctrl Z", "undo; with Shift: redo"],
    ["Shift 1…5", "Take in, Pulse, Map, Bench, Chart"],
  ]],
  ["Pulse", [
    ["h d 3 2", "half, double, 3 for 2, 2 for 3"],
    ["t", "tap along (eight beats or more)"],
    ["1", "the beat at the cursor is the 1"],
    ["← →", "every 1 a beat earlier, later; with Shift: half a beat"],
    [", .", "cursor a beat back, on"],
    ["i x", "add a beat, take one away"],
    ["l", "lock, unlock the section"],
  ]],
  ["Map", [
    ["z", "whole song, roomy"],
    [", .", "cursor a bar back, on"],
    ["[ ]", "the section at the cursor begins a bar earlier, later"],
    ["s j", "split the section at the cursor, join it to the one before"],
  ]],
  ["Bench", [
    ["← →", "cursor along the count row"],
    ["↑ ↓", "cursor from limb to limb"],
    ["[ ]", "bar before, next bar"],
    ["=", "this bar is right: it keeps its places; again: no longer"],
    ["letter", "write that part at the cursor, again: take it away"],
    ["Enter", "choose the stroke at the cursor"],
    [".", "ghost, normal, accent"],
    [", /", "move the chosen stroke earlier, later"],
    ["Tab", "the chosen stroke to the other hand or foot"],
    ["Delete", "remove the chosen stroke"],
    ["2 4 3 6", "8ths, 16ths, triplets, sextuplets"],
  ]],
];
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Keys" dismissable-mask :style="{ width: '46rem' }">
    <div class="columns">
      <section v-for="[name, keys] in KEYS" :key="name">
        <h2>{{ name }}</h2>
        <dl>
          <template v-for="[key, does] in keys" :key="key">
            <dt><span class="key">{{ key }}</span></dt>
            <dd>{{ does }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.columns { columns: 2; column-gap: 2rem; }
section { break-inside: avoid; margin-bottom: 1rem; }
dl { display: grid; grid-template-columns: 6rem 1fr; gap: 0.35rem 0.6rem; margin: 0.5rem 0 0; }
dd { margin: 0; }
</style>
