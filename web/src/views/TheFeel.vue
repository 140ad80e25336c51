<script setup lang="ts">
/** Feel: straight or swung and how much, who is late or early, how loud each layer is. */
import TypedField from "@/controls/TypedField.vue";
import KeyCap from "@/keys/KeyCap.vue";
import { by, useKeys } from "@/keys/useKeys";
import { useElementSize } from "@vueuse/core";
import { computed, ref } from "vue";
import { of, server, type SectionFeel } from "@/api/client";
import { placeValue } from "@/score/time";
import PlacementStrip from "@/spine/PlacementStrip.vue";
import { placeName } from "@/spine/grooves";
import { useFinding } from "@/stores/finding";
import { FEELS, usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";

const desk = useSong();
const playback = usePlayback();
const found = useFinding((id) => server.GET("/api/songs/{id}/feel", { params: of(id) }));
const at = ref(0);
const board = ref<HTMLElement | null>(null);
const { width } = useElementSize(board);

const feels = computed<SectionFeel[]>(() => found.value.value?.feels ?? []);
const feel = computed<SectionFeel | null>(() => feels.value[Math.min(at.value, feels.value.length - 1)] ?? null);
const nameOf = (f: SectionFeel) => desk.score!.sections.find((s) => s.id === f.section)?.name ?? "Whole song";
/** Of the whole song all sections' strokes are drawn. */
const points = computed(() => (feel.value?.section ? feel.value.points : feels.value.flatMap((f) => f.points)));
const meter = computed(() => desk.clock!.meters[(feel.value?.first_bar ?? 1) - 1]!);
const LEVEL: Record<string, string> = { eighth: "8ths", sixteenth: "16ths" };
const LIMB: Record<string, string> = { RH: "right hand", LH: "left hand", RF: "right foot", LF: "left foot" };
function signed(n: number, digits = 0): string {
  const text = Math.abs(n).toFixed(digits);
  return Number(text) === 0 ? text : `${n > 0 ? "+" : "−"}${text}`;
}

/** The ladder: decibels downward from the loudest layer. */
const LADDER = { top: 16, height: 216 };
const rungs = computed(() => {
  const all = feel.value?.levels ?? [];
  const high = Math.max(3, ...all.map((l) => l.db + 2));
  const low = Math.min(-18, ...all.map((l) => l.db - 3));
  const y = (db: number) => LADDER.top + ((high - db) / (high - low)) * LADDER.height;
  let last = -99;
  return {
    zero: y(0),
    ticks: [0, -6, -12, -18, -24, -30].filter((d) => d > low).map((d) => ({ d, y: y(d) })),
    rungs: all.map((l) => {
      const text = Math.max(y(l.db), last + 15);
      last = text;
      return { ...l, y: y(l.db), half: Math.max(2, (Math.abs(l.spread) / (high - low)) * LADDER.height), text };
    }),
  };
});
/** The time hand's accents, place by place. */
const hand = computed(() => {
  const own = feel.value?.hand ?? [];
  const most = Math.max(3, ...own.map((p) => Math.abs(p.db)));
  return own.map((p) => ({ name: placeName(p.place, meter.value.isCompound), db: p.db, share: p.db / most }));
});
const terraces = computed(() => feels.value.slice(1).filter((f) => f.levels.length));
const tempi = computed(() => {
  const own = feels.value.slice(1);
  const all = own.map((f) => f.bpm);
  const [lo, hi] = [Math.min(...all) - 1, Math.max(...all) + 1];
  return own.map((f) => ({ f, y: 52 - ((f.bpm - lo) / (hi - lo)) * 44 }));
});

/** What a person says of the song's swing. */
const saidLevel = computed(() => (desk.score!.swing_is_said ? (desk.score!.swing[0] as "none" | "eighth" | "sixteenth") : "found"));
const ratio = computed(() => Number(desk.score!.swing[1]));
function saySwing(level: "found" | "none" | "eighth" | "sixteenth", long: number): void {
  const isEven = level === "found" || level === "none" || long <= 0.5;
  desk.edit({ operation: "set_swing", level, ratio: isEven ? (level === "eighth" || level === "sixteenth" ? 0.6 : 0.5) : Math.min(0.8, long) });
}

function play(f: SectionFeel): void {
  const from = desk.clock!.barStart(f.first_bar);
  playback.loop = f.section ? [from, desk.clock!.barEnd(f.first_bar + f.bars - 1)] : null;
  playback.play(from);
}
function hear(how: (typeof FEELS)[number]["key"]): void {
  playback.feel = how;
  if (playback.sounding === "recording") playback.sounding = "written";
}
function playPoint(bar: number, place: string): void {
  const clock = desk.clock!;
  playback.play(Math.max(0, clock.seconds(clock.starts[bar - 1]! + placeValue(place)) - 0.5));
}
useKeys("feel", {
  step: (_, which) => void (at.value = Math.min(Math.max(0, at.value + by(which)), feels.value.length - 1)),
  grid: () => hear("grid"),
  song: () => hear("song"),
  measured: () => hear("measured"),
});
</script>

<template>
  <div class="feel">
    <header>
      <div class="chips" role="group" aria-label="Section">
        <button v-for="(f, n) in feels" :key="f.section" :class="['plain', 'chip', { on: f === feel }]" :aria-pressed="f === feel" @click="at = n">{{ nameOf(f) }}</button>
      </div>
      <div class="hear">
        <span class="soft">Hear the written part</span>
        <div class="group" role="group" aria-label="Feel of the written part">
          <button v-for="f in FEELS" :key="f.key" :class="['plain', { on: playback.feel === f.key }]" :aria-pressed="playback.feel === f.key" @click="hear(f.key)">{{ f.label }} <KeyCap scope="feel" :action="f.key" /></button>
        </div>
        <button v-if="feel" class="plain" :aria-label="`Play ${nameOf(feel)}`" @click="play(feel)"><i class="pi pi-play" /></button>
      </div>
    </header>
    <p v-if="!feel" class="soft empty">{{ found.complaint.value || "Measuring …" }}</p>
    <template v-else>
      <ul class="says card"><li v-for="s in feel.says" :key="s">{{ s }}</li><li v-if="!feel.says.length" class="soft">Too few strokes were measured here to say anything.</li></ul>
      <div ref="board" class="board">
        <section class="card wide">
          <h2>Early and late <span class="soft">each stroke against the pulse, place by place; the bar is the median. A click plays it.</span></h2>
          <PlacementStrip :points="points" :placement="feel.placement" :beats="meter.beats" :is-compound="meter.isCompound" :width="Math.max(520, (width * 2) / 3 - 36)" @play="playPoint" />
        </section>
        <section class="card">
          <h2>How loud <span class="soft">dB against the backbeat</span></h2>
          <svg v-if="feel.levels.length" width="280" height="248" role="img" aria-label="Loudness ladder">
            <g v-for="t in rungs.ticks" :key="t.d"><line class="grid" x1="36" x2="276" :y1="t.y" :y2="t.y" /><text class="tick" x="31" :y="t.y + 4">{{ t.d }}</text></g>
            <g v-for="r in rungs.rungs" :key="r.layer" :class="['rung', r.layer]">
              <rect x="44" :y="r.y - r.half" width="66" :height="2 * r.half" rx="3" />
              <line x1="40" x2="114" :y1="r.y" :y2="r.y" />
              <path :d="`M114 ${r.y}L124 ${r.text - 4}`" />
              <text x="128" :y="r.text">{{ r.layer.replace("_", " ") }} {{ signed(r.db) }}</text>
            </g>
          </svg>
          <p v-else class="soft">No backbeat to measure against.</p>
        </section>
        <section class="card">
          <h2>Swing</h2>
          <div class="line">
            <label>The song's, you say <select class="plain" :value="saidLevel" aria-label="Swing of the song" @change="saySwing(($event.target as HTMLSelectElement).value as 'found', ratio)"><option value="found">as heard</option><option value="none">straight</option><option value="eighth">8ths swing</option><option value="sixteenth">16ths swing</option></select></label>
            <TypedField v-if="saidLevel === 'eighth' || saidLevel === 'sixteenth'" class="ratio" type="number" min="0.5" max="0.8" step="0.01" :value="ratio" aria-label="Long part of a pair" @set="saySwing(saidLevel, Number($event))" />
          </div>
          <table><tbody>
            <tr v-for="s in feel.swing.filter((x) => x.who === 'all' || x.claimed)" :key="s.level + s.who"><td>{{ LEVEL[s.level] }}{{ s.who === "all" ? "" : `, ${s.who}` }}</td><td class="figure"><strong>{{ s.claimed ? s.ratio.toFixed(2) : "straight" }}</strong></td><td class="soft figure">{{ s.claimed ? `± ${s.spread.toFixed(2)}` : `measured ${s.ratio.toFixed(2)}` }}, {{ s.pairs }} pairs</td></tr>
            <tr v-if="!feel.swing.length"><td class="soft">Too few pairs to tell.</td></tr>
          </tbody></table>
          <h2>Together <span class="soft">where two sound at once, no grid</span></h2>
          <table><tbody>
            <tr v-for="t in feel.together.slice(0, 5)" :key="t.a + t.b"><td>{{ t.a }} after {{ t.b }}</td><td class="figure"><strong>{{ signed(t.ms, 1) }} ms</strong></td><td class="soft figure">± {{ t.off_by.toFixed(1) }}, {{ t.count }}×</td></tr>
            <tr v-if="!feel.together.length"><td class="soft">No two voices coincide often enough.</td></tr>
          </tbody></table>
        </section>
        <section class="card">
          <h2>Placement</h2>
          <table><tbody>
            <tr v-for="p in feel.placement" :key="p.voice"><td>{{ p.voice }}</td><td class="figure"><strong>{{ signed(p.ms, 1) }} ms</strong></td><td class="soft figure">± {{ p.off_by.toFixed(1) }}, {{ signed(100 * p.share) }} % of a 16th</td></tr>
          </tbody></table>
          <h2>How loose</h2>
          <p class="figure"><template v-for="(ms, limb) in feel.loose" :key="limb"><span class="loose">{{ LIMB[limb] }} <strong>{{ ms.toFixed(1) }} ms</strong></span></template></p>
          <h2>Ghosts and accents</h2>
          <p class="figure">{{ feel.gaps.ghost === null ? "hardly any ghosts" : `ghosts ${signed(feel.gaps.ghost)} dB` }}, {{ feel.gaps.accent === null ? "hardly any accents" : `accents ${signed(feel.gaps.accent)} dB` }}</p>
        </section>
        <section class="card">
          <h2>The time hand's accents <span class="soft">{{ feel.evenness === null ? "" : `even within ${feel.evenness.toFixed(1)} dB` }}</span></h2>
          <div v-if="hand.length" class="hand" role="img" aria-label="Level of the time hand at each place">
            <span v-for="h in hand" :key="h.name" :title="`${h.name}: ${signed(h.db, 1)} dB`"><i :class="{ below: h.share < 0 }" :style="{ height: `${Math.abs(h.share) * 34 + 2}px` }" /><b>{{ h.name }}</b></span>
          </div>
          <p v-else class="soft">The time hand is hidden, or plays too little.</p>
          <h2>Fills and tempo</h2>
          <p class="figure"><strong>{{ feel.bpm.toFixed(1) }}</strong> bpm<template v-if="Math.abs(feel.drift) >= 0.5">, {{ signed(feel.drift, 1) }} % to the end</template></p>
          <p class="figure soft"><template v-for="r in feel.rush.slice(0, 8)" :key="r.bar"><button class="plain tiny" @click="playback.play(desk.clock!.barStart(r.bar))">bar {{ r.bar }} {{ signed(r.percent, 1) }} %</button> </template></p>
        </section>
        <section class="card">
          <h2>Section by section <span class="soft">tempo; backbeat, kick, time hand in dB</span></h2>
          <svg class="tempi" width="300" height="60" role="img" aria-label="Tempo by section">
            <polyline :points="tempi.map((t, n) => `${12 + (n * 276) / Math.max(1, tempi.length - 1)},${t.y}`).join(' ')" />
            <g v-for="(t, n) in tempi" :key="t.f.section" class="knot" @click="play(t.f)"><circle :cx="12 + (n * 276) / Math.max(1, tempi.length - 1)" :cy="t.y" r="5" :class="{ on: t.f === feel }" /><title>{{ nameOf(t.f) }}: {{ t.f.bpm.toFixed(1) }}</title></g>
          </svg>
          <table class="small"><tbody>
            <tr v-for="f in terraces" :key="f.section" :class="{ on: f === feel }"><td>{{ nameOf(f) }}</td><td class="figure">{{ f.bpm.toFixed(1) }}</td><td v-for="l in ['kick', 'time', 'ghosts']" :key="l" class="figure soft">{{ l }} {{ f.levels.find((x) => x.layer === l) ? signed(f.levels.find((x) => x.layer === l)!.db) : "–" }}</td></tr>
          </tbody></table>
        </section>
      </div>
    </template>
  </div>
</template>

<style scoped>
.feel { padding: 0.6rem 1rem; display: grid; gap: 0.6rem; align-content: start; }
header { display: flex; gap: 0.6rem; align-items: center; flex-wrap: wrap; }
.grow { flex: 1; }
.chips { display: flex; gap: 0.3rem; flex-wrap: wrap; }
.chip { padding: 0.15rem 0.6rem; }
.group { display: flex; }
.group .plain { border-radius: 0; margin-left: -1px; padding: 0.25rem 0.6rem; }
.group .plain:first-child { border-radius: 8px 0 0 8px; }
.group .plain:last-child { border-radius: 0 8px 8px 0; }
.says { margin: 0; padding: 0.5rem 0.8rem 0.5rem 2rem; columns: 2; column-gap: 2rem; font-size: 1.05rem; }
.board { display: grid; grid-template-columns: repeat(auto-fill, minmax(380px, 1fr)); gap: 0.7rem; align-items: start; }
.board .card { padding: 0.5rem 0.8rem; min-width: 0; }
.wide { grid-column: span 2; }
h2 .soft { font-weight: 400; font-size: 0.85rem; }
h2:not(:first-child) { margin-top: 0.5rem; }
table { border-collapse: collapse; width: 100%; }
td { padding: 0.1rem 0.4rem 0.1rem 0; border-bottom: 1px solid var(--line); white-space: nowrap; }
.small { font-size: 0.88rem; }
.small tr.on td { background: color-mix(in srgb, var(--focus) 10%, transparent); }
.loose { display: inline-block; margin-right: 0.9rem; }
.grid { stroke: var(--line); }
.tick { font-size: 12px; text-anchor: end; fill: var(--ink-soft); }
.rung rect { fill: var(--ink-faint); opacity: 0.25; }
.rung line { stroke: var(--ink); stroke-width: 2.5; }
.rung path { stroke: var(--line-strong); fill: none; }
.rung text { font-size: 13px; fill: var(--ink); }
.rung.kick line { stroke: var(--rf); } .rung.kick rect { fill: var(--rf); }
.rung.time line { stroke: var(--rh); } .rung.time rect { fill: var(--rh); }
.rung.backbeat line, .rung.ghosts line { stroke: var(--lh); } .rung.backbeat rect, .rung.ghosts rect { fill: var(--lh); }
.rung.left_foot line { stroke: var(--lf); } .rung.left_foot rect { fill: var(--lf); }
.hand { display: flex; gap: 4px; height: 98px; align-items: stretch; }
.hand span { flex: 1; max-width: 34px; position: relative; border-bottom: 0; }
.hand i { position: absolute; left: 15%; right: 15%; bottom: 54px; background: var(--rh); border-radius: 3px 3px 0 0; }
.hand i.below { bottom: auto; top: 44px; opacity: 0.55; border-radius: 0 0 3px 3px; }
.hand b { position: absolute; bottom: 0; left: 0; right: 0; text-align: center; font-weight: 400; font-size: 0.85rem; color: var(--ink-soft); }
.tempi polyline { fill: none; stroke: var(--ink-soft); stroke-width: 2; }
.knot { cursor: pointer; }
.knot circle { fill: var(--sheet); stroke: var(--ink); stroke-width: 2; }
.knot circle.on { fill: var(--focus); }
.tiny { padding: 0.05rem 0.4rem; margin: 1px; }
.empty { padding: 2rem; }
@media (max-width: 1190px) { .wide { grid-column: 1 / -1; } .says { columns: 1; } }
.hear { display: flex; align-items: center; gap: 0.6rem; margin-left: auto; white-space: nowrap; }
.line { display: flex; gap: 0.5rem; align-items: center; margin-bottom: 0.3rem; }
.line label { display: inline-flex; gap: 0.4rem; align-items: center; }
.line .plain { padding: 0.15rem 0.45rem; }
.ratio { width: 4.6rem; }
</style>
