/** The transport as the views see it: one for the whole desk, it never loses its place. */
import { defineStore } from "pinia";
import { reactive, ref, shallowRef, watch } from "vue";
import { type Drums, RATE } from "@/audio/pieces";
import { Transport } from "@/audio/transport";
import { LAYERS, LIMBS, layerOf } from "@/kit";
import { useSong } from "./song";

export type Sounding = "recording" | "written" | "both";
export const DRUMS: Drums[] = ["recorded", "forward", "back"];
export const SPEEDS = [0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1];

export const usePlayback = defineStore("playback", () => {
  const song = useSong();
  const isPlaying = ref(false);
  const isWaiting = ref(false);
  const now = ref(0);
  const speed = ref(1);
  const sounding = ref<Sounding>("recording");
  const drums = ref<Drums>("recorded");
  const loop = shallowRef<[number, number] | null>(null);
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
      transport = new Transport(context, found.take, found.duration);
      openTake = found.take;
      transport.onstate = (s) => {
        isPlaying.value = s.playing;
        isWaiting.value = s.waiting;
        if (s.playing) follow();
        else now.value = transport!.position;
      };
      transport.setLoop(loop.value);
      transport.setRate(speed.value);
      if (drums.value !== "recorded") transport.setDrums(drums.value);
      balance();
      rewrite();
      transport.seek(now.value);
    }
    return transport;
  }

  function follow(): void {
    if (!transport) return;
    now.value = transport.position;
    if (isPlaying.value) requestAnimationFrame(follow);
  }

  function rewrite(): void {
    const clock = song.clock;
    if (!transport || !clock || !song.score) return;
    transport.setWritten(
      song.score.strokes
        .filter((s) => !muted.has(s.limb) && !muted.has(layerOf(s)))
        .map((s) => ({ time: clock.played(s), part: s.part, loudness: s.loudness })),
    );
  }

  function balance(): void {
    if (!transport) return;
    transport.recording.output.gain.value = sounding.value === "written" ? 0 : 0.85;
    transport.kit.output.gain.value = sounding.value === "recording" ? 0 : 0.85;
  }

  watch([() => song.score, muted], rewrite);
  watch(sounding, balance);
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
      now.value = 0;
      muted.clear();
    },
  );

  function play(from?: number): void {
    ready()
      ?.play(from)
      .catch((problem: Error) => (complaint.value = problem.message));
  }
  function pause(): void {
    transport?.pause();
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
  function turnDrums(): void {
    drums.value = DRUMS[(DRUMS.indexOf(drums.value) + 1) % DRUMS.length]!;
  }
  function slower(steps: number): void {
    const at = SPEEDS.findIndex((s) => s >= speed.value - 0.001);
    speed.value = SPEEDS[Math.min(Math.max(at + steps, 0), SPEEDS.length - 1)]!;
  }

  return {
    isPlaying, isWaiting, now, speed, sounding, drums, loop, muted, complaint,
    play, pause, toggle, seek, setLoop, mute, only, slower, turnDrums,
  };
});
