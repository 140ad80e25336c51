<script setup lang="ts">
/** The sounds of the song: each heard in five examples, one answer for all strokes of it. */
import { computed, ref, watch } from "vue";
import { of, server, type PartName, type Sound } from "@/api/client";
import { part } from "@/kit";
import KeyCap from "@/keys/KeyCap.vue";
import { PART_OF } from "@/keys/parts";
import { by, useKeys } from "@/keys/useKeys";
import { useFinding } from "@/stores/finding";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import PartTray from "./PartTray.vue";
import SoundPicture from "./SoundPicture.vue";

const emit = defineEmits<{ open: [bar: number] }>();
const desk = useSong();
const playback = usePlayback();
const { value: found, complaint } = useFinding((id) => server.GET("/api/songs/{id}/sounds", { params: of(id) }));
/** Sounds that are hardly written at all wait behind a button. */
const FEW = 4;
const showsAll = ref(false);
const all = computed(() => found.value?.sounds ?? []);
const sounds = computed(() => all.value.filter((s) => showsAll.value || s.written >= FEW || s.answer));
const chosen = ref(0); // number of a sound
const isNaming = ref(false);
const at = computed(() => sounds.value.findIndex((s) => s.number === chosen.value));
const sound = computed<Sound | null>(() => sounds.value[at.value] ?? null);
watch(sounds, (shown) => {
  if (shown.length && !shown.some((s) => s.number === chosen.value)) chosen.value = shown[0]!.number;
}, { immediate: true });
watch(chosen, () => (isNaming.value = false));

const doubtful = computed(() => sounds.value.filter((s) => s.doubt).length);
const label = (s: Sound) => part(s.part).label;
const percent = (share: number) => `${Math.round(share * 100)} %`;

function choose(s: Sound): void {
  chosen.value = s.number;
}
function step(to: -1 | 1): void {
  const next = sounds.value[Math.min(Math.max(at.value + to, 0), sounds.value.length - 1)];
  if (!next) return;
  choose(next);
  document.getElementById(`sound-${next.number}`)?.scrollIntoView({ block: "nearest" });
}
function five(drums: "recorded" | "forward", s: Sound | null = sound.value): void {
  if (!s) return;
  choose(s);
  playback.drums = drums;
  playback.excerpts(s.examples);
}
function named(name: string): void {
  if (sound.value) desk.edit({ operation: "name_sound", sound: sound.value.number, part: name as PartName });
  isNaming.value = false;
}
function noDrum(): void {
  if (sound.value) desk.edit({ operation: "dismiss_sound", sound: sound.value.number });
}
function split(): void {
  if (sound.value?.can_split) desk.edit({ operation: "split_sound", sound: sound.value.number });
}
function joined(event: Event): void {
  const same = Number((event.target as HTMLSelectElement).value);
  if (sound.value && same) desk.edit({ operation: "join_sounds", sound: sound.value.number, same });
  if (same) chosen.value = same;
}
useKeys("takeIn", {
  step: (_, which) => step(by(which)),
  five: () => five("recorded"),
  forward: () => five("forward"),
  right: () => sound.value && named(sound.value.part),
  part: (_, __, usual) => named(PART_OF[usual]!),
  noDrum,
  split,
}, { isOn: () => sounds.value.length > 0 });
</script>

<template>
  <section class="card sounds" aria-label="The sounds of this song">
    <h2>The sounds of this song</h2>
    <p v-if="complaint" class="soft">{{ complaint }}</p>
    <p v-else-if="found && !all.length" class="soft">This song was heard before its sounds were told apart; take the recording in again to have them.</p>
    <p v-else class="soft">
      {{ doubtful ? `${doubtful} ${doubtful === 1 ? "sound is" : "sounds are"} in doubt.` : "No sound is in doubt." }}
      Hear five strokes of one, then answer once for all of it.
    </p>
    <ul>
      <li v-for="s in sounds" :id="`sound-${s.number}`" :key="s.number" :class="{ on: s.number === chosen, none: s.answer === 'no_drum' }" @click="choose(s)">
        <div class="line">
          <SoundPicture :picture="s.picture" :class="part(s.part).role" />
          <div class="what">
            <strong>{{ label(s) }}</strong>
            <span :class="s.doubt ? 'doubt' : 'soft'">{{ s.says }}</span>
          </div>
          <span class="figure count">{{ s.written }}<small class="soft"> written</small></span>
          <span class="sure" :title="`${percent(s.sure)} sure on average`"><span class="gauge"><i :style="{ width: `${100 * s.sure}%` }" /></span><span class="figure">{{ percent(s.sure) }}</span></span>
          <button class="plain five" :aria-label="`Play five: ${label(s)}`" @click.stop="five('recorded', s)"><i class="pi pi-play" /> Five <KeyCap v-if="s.number === chosen" scope="takeIn" action="five" /></button>
        </div>
        <div v-if="s.number === chosen" class="answers">
          <button class="plain" @click.stop="named(s.part)"><KeyCap scope="takeIn" action="right" /> Right</button>
          <button :class="['plain', { on: isNaming }]" :aria-expanded="isNaming" @click.stop="isNaming = !isNaming"><KeyCap scope="takeIn" action="part" /> It is …</button>
          <button class="plain" :disabled="s.answer === 'no_drum'" @click.stop="noDrum"><KeyCap scope="takeIn" action="noDrum" /> Not a drum</button>
          <button class="plain" :disabled="!s.can_split" :title="s.can_split ? '' : 'All of it is alike'" @click.stop="split"><KeyCap scope="takeIn" action="split" /> Two sounds</button>
          <select class="plain" aria-label="The same as" @change="joined" @click.stop>
            <option value="">Same as …</option>
            <option v-for="o in sounds.filter((x) => x.number !== s.number)" :key="o.number" :value="o.number">{{ label(o) }}, {{ o.written }} written</option>
          </select>
          <button class="plain" @click.stop="five('forward', s)"><KeyCap scope="takeIn" action="forward" /> Drums forward</button>
          <button v-if="s.first_bar" class="plain" @click.stop="emit('open', s.first_bar)">To bar {{ s.first_bar }}</button>
        </div>
        <PartTray v-if="s.number === chosen && isNaming" :current="s.part" @choose="named" />
      </li>
    </ul>
    <button v-if="all.length > sounds.length || showsAll" class="plain more" @click="showsAll = !showsAll">{{ showsAll ? "Only what is written" : `${all.length - sounds.length} more that are hardly written` }}</button>
  </section>
</template>

<style scoped>
.sounds { padding: 0.9rem 1.2rem; display: grid; gap: 0.5rem; }
ul { list-style: none; margin: 0 -0.6rem; padding: 0; display: grid; gap: 2px; }
li { padding: 0.35rem 0.6rem; border-radius: 9px; border: 1px solid transparent; display: grid; gap: 0.5rem; cursor: pointer; }
li.on { border-color: var(--line-strong); background: color-mix(in srgb, var(--well) 55%, transparent); cursor: default; }
.line { display: grid; grid-template-columns: 78px 1fr 6.4rem 9rem 7rem; gap: 0.9rem; align-items: center; }
.what { display: grid; line-height: 1.25; }
.what span { font-size: 0.9rem; }
.doubt { color: var(--warn); }
.none strong { text-decoration: line-through; color: var(--ink-soft); }
.count { text-align: right; }
.sure { white-space: nowrap; display: grid; grid-template-columns: 1fr 3.4rem; gap: 0.5rem; align-items: center; text-align: right; }
.gauge { height: 10px; border-radius: 5px; background: var(--line); overflow: hidden; }
.gauge i { display: block; height: 100%; background: var(--rh); }
.answers { display: flex; flex-wrap: wrap; gap: 0.35rem; }
.answers .plain { padding: 0.3rem 0.6rem; }
.answers select { width: 7.5rem; }
.more { justify-self: start; }
.five { white-space: nowrap; }
.time, .hand { color: var(--rh); } .backbeat { color: var(--lh); } .right_foot { color: var(--rf); } .left_foot { color: var(--lf); }
</style>
