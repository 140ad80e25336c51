<script setup lang="ts">
import Dialog from "primevue/dialog";

const visible = defineModel<boolean>("visible", { required: true });
const KEYS: [string, [string, string][]][] = [
  ["Everywhere", [
    ["Space", "play and pause"],
    ["\\", "loop this bar, again: no loop"],
    ["` { } |", "what sounds, in turn; recording; written; each for one pass"],
    ["\"", "another take in the recording's place"],
    ["Shift 9, 0", "loop this beat, this phrase"],
    ["Shift 6, 7", "click: off, beats, 8ths, 16ths, triplets; count in"],
    ["Shift 8", "only the band of the part in hand"],
    ["~", "only kick and backbeat of the written part"],
    ["'", "drums as recorded, forward, back"],
    ["- +", "slower, faster"],
    ["Home", "to the beginning"],
    ["Ctrl Z", "undo; with Shift: redo"],
    ["Shift 1…5", "Take in, Pulse, Map, Bench, Grooves"],
    ["PgDn PgUp", "next view (Fills, Feel, Chart …), the one before"],
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
  ["Grooves", [
    ["[ ]", "groove before, next groove"],
    ["c  e", "hear the core instead of the written part; the core with its options"],
    ["1 … 7", "layers: time, backbeat, kick, ghosts, openings, ornaments, left foot"],
    ["k h s", "search for its kick, its hands, kick and snare"],
  ]],
  ["Fills, Feel", [
    ["[ ]", "fill before, next fill; section before, next section"],
    ["Enter", "play the fill"],
    ["l", "lift the fill to the collection"],
    ["g f m", "written part on the grid, with the song's feel, as measured"],
  ]],
  ["Bench", [
    ["← →", "cursor along the count row"],
    ["↑ ↓", "cursor from limb to limb"],
    ["[ ]", "bar before, next bar"],
    ["=", "this bar is right: it keeps its places; again: no longer"],
    ["1  9", "1, 2, 4 bars or the phrase; one beat close up"],
    ["2 4 8 3 6 5", "8ths, 16ths, 32nds, triplets, sextuplets, quintuplets"],
    ["letter", "write that part at the cursor, again: take it away"],
    ["g  v", "ghost, accent: of the chosen strokes, or of what is written next"],
    ["u letter", "that part on every step of the bar"],
    ["m", "the cursor steps on behind each stroke"],
    ["Enter", "choose the stroke at the cursor"],
    [".", "ghost, normal, accent"],
    ["i  z", "ornament: flam, drag, ruff, buzz, diddle, drop; choked"],
    ["d", "doubtful, assumed, left out"],
    [", /", "move the chosen strokes earlier, later"],
    ["Tab", "the chosen strokes to the other hand or foot"],
    ["Delete", "remove the chosen strokes"],
    ["Ctrl A C X V", "all, copy, cut, paste (none chosen: the bar)"],
    ["Shift ← →", "a beat back, on"],
    ["; :", "the last change to all bars alike; choose which"],
    ["y  j", "count text; compare with another bar"],
    ["Y", "play the part in along with the recording"],
    ["Q", "walk the review queue: Enter right, Delete wrong, a letter: that part, L left out, D assumed, ] later"],
  ]],
];
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Keys" dismissable-mask :style="{ width: '58rem' }">
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
