/** The transport as the views see it: one for the whole desk, it never loses its place. */
import { defineStore } from "pinia";
import { reactive, ref, shallowRef, watch } from "vue";
import { brought, of, server, type Stroke } from "@/api/client";
import { SAID } from "@/audio/kit";
import { type Drums, RATE } from "@/audio/pieces";
import { Transport, type Practising, type Sounding, type Tick } from "@/audio/transport";
import { LAYERS, LIMBS, part } from "@/kit";
import { breath, clicks, countIn } from "@/score/clicks";
import { countedAloud, counting } from "@/score/count";
import { eventsOf } from "@/score/sounding";
import type { Clock } from "@/score/time";
import { useShelf } from "./shelf";
import { useSong } from "./song";

export type { Sounding };
/** How the written part is played: on the grid, with the song's feel, when it was measured. */
export type Feel = "grid" | "song" | "measured";
export const FEELS: { key: Feel; label: string }[] = [
  { key: "grid", label: "On the grid" },
  { key: "song", label: "With the song's feel" },
  { key: "measured", label: "As measured" },
];
/** Clicks a beat: none, quarters, 8ths, 16ths, triplets; -1: our voice counts what is played; -2: a voice says its rhythm words. */
export const CLICKS = [
  { parts: 0, label: "No click" },
  { parts: 1, label: "Beats" },
  { parts: 2, label: "8ths" },
  { parts: 4, label: "16ths" },
  { parts: 3, label: "Triplets" },
  { parts: -1, label: "Counted" },
  { parts: -2, label: "Rhythm words" },
];
export const DRUMS: Drums[] = ["recorded", "forward", "back"];
export const SPEEDS = [0.25, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.1, 1.25, 1.5];

/** Seconds of an excerpt before and behind its stroke. */
const [BEFORE, BEHIND] = [0.06, 0.5];
/** An event that waited longer than this was not struck then (a page that slept). */
const MOST_LATE_MS = 500;


export const usePlayback = defineStore("playback", () => {
  const song = useSong();
  const shelf = useShelf();
  const isPlaying = ref(false);
  const isWaiting = ref(false);
  const now = ref(0);
  const speed = ref(1);
  const sounding = ref<Sounding>("recording");
  const drums = ref<Drums>("recorded");
  const loop = shallowRef<[number, number] | null>(null);
  const click = ref(0); // index of CLICKS
  const countsIn = ref(false);
  /** Whether the click rests four bars in eight; whether a bar is counted between two passes of a loop. */
  const fades = ref(false);
  const breathes = ref(false);
  /** Moments at which it clicks instead of the click of the song. */
  const clicksAt = shallowRef<number[] | null>(null);
  /** Rhythm words of the bars at hand: what is said from which place on. */
  const rhyme = shallowRef<{ bar: number; place: string; word: string }[]>([]);
  let stopAt: number | null = null;
  /** Whether nobody is to see where the song is: somebody has to hear it. */
  const isHidden = ref(false);
  /** The part whose band alone is heard of the recording. */
  const narrowed = ref<string | null>(null);
  /** The take that sounds as the recording; null: the one that was heard. */
  const take = ref<number | null>(null);
  const partInHand = ref("snare");
  /** Where a take's sound lies; "" for a song that came as a score. */
  const soundOf = (take: number) => (sounds(take) ? `takes/${take}/sound` : "");
  const sounds = (take: number) => shelf.get(song.id)?.takes.find((t) => t.id === take)?.sounds !== false;
  /** Strokes that sound in the place of the written ones (a groove's core, a thinned bar). */
  const sketch = shallowRef<Stroke[] | null>(null);
  const feel = ref<Feel>("grid");
  /** Seconds by which the song's feel moves each stroke, by id. */
  const shifts = shallowRef<Record<string, number>>({});
  const muted = reactive(new Set<string>());
  const complaint = ref<string | null>(null);
  let context: AudioContext | null = null;
  let transport: Transport | null = null;
  let openTake = 0;

  function ready(): Transport | null {
    const found = song.shown;
    if (!found) return null;
    if (!transport || openTake !== found.take) {
      transport?.pause();
      context ??= new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
      transport = new Transport(context, soundOf(found.take), found.duration);
      openTake = found.take;
      if (!sounds(found.take)) sounding.value = "written";
      transport.onstate = (s) => {
        isPlaying.value = s.playing;
        isWaiting.value = s.waiting;
        if (s.playing) follow();
        else now.value = transport!.position;
      };
      transport.setLoop(loop.value);
      transport.setRate(speed.value);
      if (drums.value !== "recorded") transport.setDrums(drums.value);
      if (take.value) transport.setSource(soundOf(take.value));
      transport.setSounding(sounding.value);
      transport.setTicks(ticks());
      transport.setPractising(practising());
      if (narrowed.value) transport.setBand(part(narrowed.value).band as [number, number]);
      rewrite();
      transport.seek(now.value);
    }
    return transport;
  }

  function follow(): void {
    if (!transport) return;
    now.value = transport.position;
    if (stopAt !== null && now.value >= stopAt) pause();
    if (isPlaying.value) requestAnimationFrame(follow);
  }

  function rewrite(): void {
    const clock = song.clock;
    if (!transport || !clock || !song.score) return;
    transport.setWritten(
      eventsOf(song.score, sketch.value ?? song.score.strokes, clock, feel.value, shifts.value, muted),
    );
  }

  async function learnFeel(): Promise<void> {
    const id = song.id;
    const found = await brought(server.GET("/api/songs/{id}/feel", { params: of(id) })).catch(() => null);
    if (found && song.id === id) shifts.value = found.shifts;
  }

  function ticks(): Tick[] {
    if (clicksAt.value?.length) return clicksAt.value.map((time) => ({ time, isStrong: false }));
    const parts = CLICKS[click.value]!.parts;
    const clock = song.clock;
    if (!clock || parts === 0) return [];
    if (parts === -2) return rhyme.value.map(({ bar, place, word }) => ({ time: clock.played({ bar, place }), isStrong: true, word: `${SAID}${word}` }));
    if (parts < 0) return countedAloud(clock, (bar) => (sketch.value ? sketch.value.filter((s) => s.bar === bar) : song.byBar.get(bar) ?? []));
    const from = firstBar();
    return clicks(clock, parts, Array.from({ length: clock.bars }, (_, b) => b + 1)).map((t) => ({ ...t, bar: t.bar! + 1 - from }));
  }
  const firstBar = () => (loop.value && song.clock ? song.clock.barAt(loop.value[0] + 0.01) : 1);
  function practising(): Practising {
    const [clock, l] = [song.clock, loop.value];
    if (!clock || !l) return { fades: fades.value && clock ? clock.bars : 0, breath: null };
    const first = firstBar();
    const bars = Math.max(1, Math.round(clock.barAt(l[1] - 0.01) - first + 1));
    return { fades: fades.value ? bars : 0, breath: breathes.value ? breath(clock, Math.min(first, clock.bars)) : null };
  }

  /** A bar of clicks before the start, if it is wished. */
  function lead(from: number): Tick[] {
    const clock = song.clock;
    if (!clock || !countsIn.value) return [];
    return countIn(clock, Math.min(Math.max(clock.barAt(from + 0.01), 1), clock.bars));
  }

  watch([() => song.score, muted, sketch, feel, shifts], rewrite);
  watch([feel, () => song.state, () => song.isSaved], ([how, , saved]) => {
    if (how === "song" && saved) void learnFeel();
  });
  watch(sounding, (s) => {
    if (s === "alternate" && !loop.value && song.clock) loopBar(song.clock);
    transport?.setSounding(s);
  });
  watch([click, clicksAt, rhyme, sketch, counting, () => song.score?.pulse, () => song.score?.meters], () => transport?.setTicks(ticks()));
  watch([fades, breathes, loop, () => song.clock], () => {
    transport?.setPractising(practising());
    transport?.setTicks(ticks());
  });
  watch(take, (id) => transport?.setSource(soundOf(id ?? openTake)));
  watch(narrowed, (p) => transport?.setBand(p ? (part(p).band as [number, number]) : null));
  watch(speed, (s) => transport?.setRate(s));
  watch(drums, (d) => transport?.setDrums(d));
  watch(loop, (l) => transport?.setLoop(l));
  watch(
    () => song.id,
    () => {
      transport?.pause();
      transport = null;
      openTake = 0;
      loop.value = null;
      take.value = null;
      sketch.value = null;
      shifts.value = {};
      now.value = 0;
      muted.clear();
    },
  );

  function play(from?: number): void {
    stopAt = null;
    const found = ready();
    found
      ?.play(from, lead(from ?? found.position))
      .catch((problem: Error) => (complaint.value = problem.message));
  }
  /** Strokes of a sound in a row out of the recording, from just before each on. */
  function excerpts(moments: number[]): void {
    const end = song.shown?.duration ?? 0;
    ready()
      ?.excerpts(moments.map((t) => [Math.max(0, t - BEFORE), Math.min(t + BEHIND, end)]))
      .catch((problem: Error) => (complaint.value = problem.message));
  }
  function pause(): void {
    stopAt = null;
    transport?.pause();
  }
  /** A stretch of the song, once. */
  function playStretch(from: number, to: number): void {
    play(from);
    stopAt = to;
  }
  /** The moment of the song that sounds right now or, to the sample, sounded at an event. */
  function moment(event?: { timeStamp: number }): number {
    const late = event ? Math.min(Math.max(performance.now() - event.timeStamp, 0), MOST_LATE_MS) / 1000 : 0;
    return (transport?.position ?? now.value) - late * speed.value;
  }
  function toggle(): void {
    if (isPlaying.value) pause();
    else play();
  }
  function seek(seconds: number): void {
    now.value = Math.max(0, seconds);
    transport?.seek(seconds);
  }
  function setLoop(a: number, b: number): void {
    const same = loop.value && Math.abs(loop.value[0] - a) < 0.01 && Math.abs(loop.value[1] - b) < 0.01;
    loop.value = same ? null : [a, b];
    if (loop.value && (now.value < a || now.value >= b)) seek(a);
  }
  function loopBar(clock: Clock): void {
    const bar = Math.min(Math.max(clock.barAt(now.value), 1), clock.bars);
    loop.value = [clock.barStart(bar), clock.barEnd(bar)];
  }
  function mute(what: string): void {
    if (!muted.delete(what)) muted.add(what);
  }
  /** One key: all layers but these fall silent; the same again brings all back. */
  function only(layers: string[]): void {
    const others = LAYERS.filter((l) => !layers.includes(l));
    const isSo = others.every((l) => muted.has(l)) && layers.every((l) => !muted.has(l));
    for (const l of [...LAYERS, ...LIMBS]) muted.delete(l);
    if (!isSo) for (const l of others) muted.add(l);
  }
  function narrow(): void {
    narrowed.value = narrowed.value ? null : partInHand.value;
  }
  function nextClick(): void {
    do click.value = (click.value + 1) % CLICKS.length;
    while (CLICKS[click.value]!.parts === -2 && !rhyme.value.length); // where nothing is said
  }
  function turnDrums(): void {
    drums.value = DRUMS[(DRUMS.indexOf(drums.value) + 1) % DRUMS.length]!;
  }
  function slower(steps: number): void {
    const at = SPEEDS.findIndex((s) => s >= speed.value - 0.001);
    speed.value = SPEEDS[Math.min(Math.max(at + steps, 0), SPEEDS.length - 1)]!;
  }

  return {
    isPlaying, isWaiting, now, sketch, feel, speed, sounding, drums, loop, muted, complaint, click, clicksAt, rhyme, isHidden, fades, breathes, countsIn, narrowed, take,
    play, playStretch, excerpts, pause, toggle, seek, moment, setLoop, mute, only, slower, turnDrums, nextClick, narrow, partInHand,
  };
});
