/** Playing a stage in: what is struck on keys, pads or by the simulated kit, judged every few loops. */
import { useLocalStorage } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef, watch } from "vue";
import { brought, of, server, type PartName, type Schemas } from "@/api/client";
import { listenToPads, partOfPad, sendSimulated, type PadEvent } from "@/audio/pads";
import { loudnessOf, part } from "@/kit";
import { PART_OF } from "@/keys/parts";
import { useKeys } from "@/keys/useKeys";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { exact } from "./ladder";
import { LoopTime } from "./loopTime";

export type Judged = Schemas["Judged"];
export interface Asked {
  first: number;
  last: number;
  order: Schemas["Stages"]["order"];
  stage: number;
  /** Of the song's tempo. */
  share: number;
  /** Seconds of a beat at the song's tempo. */
  period: number;
  /** What goes round, in beats of the song. */
  loop: { start: number; beats: number };
}
export interface Struck {
  beat: number;
  part: PartName;
  loudness: number;
}
/** The simulated kit's faults, as its sliders set them. */
export interface Faults {
  limb: "RH" | "LH" | "RF" | "LF";
  late: number;
  spread: number;
  missed: number;
  ghosts: number;
  rush: number;
}

const LOOPS = 2; // that are judged together
const SIMULATED = 64; // loops that the simulated kit knows in advance
/** Seconds by which what is played in comes late on this device. */
export const latency = useLocalStorage("orchesis.latency", 0);

export function usePlayIn(asked: () => Asked | null, done: (judged: Judged, seconds: number) => void) {
  const desk = useSong();
  const playback = usePlayback();
  const isOn = ref(false);
  const source = useLocalStorage<"played" | "simulated">("orchesis.playIn", "played");
  const faults = ref<Faults>({ limb: "RF", late: 22, spread: 6, missed: 0, ghosts: 0, rush: 0 });
  const struck = shallowRef<Struck[]>([]);
  const judged = shallowRef<Judged | null>(null);
  const complaint = ref("");
  const loops = ref(0); // since the last judgement
  let time: LoopTime | null = null;
  let at = 0; // beat at which what is judged next begins
  let unplug: (() => void) | null = null;
  let coming: { beat: number; part: PartName; loudness: number }[] = [];
  let run = 0;

  function strike(name: PartName, loudness: number, event: Pick<PadEvent, "timeStamp">): void {
    if (!time || !playback.isPlaying) return;
    struck.value = [...struck.value, { beat: time.beat(playback.moment(event)), part: name, loudness }];
  }
  async function start(): Promise<void> {
    const what = asked();
    if (!what) return;
    const own = ++run;
    isOn.value = true;
    complaint.value = "";
    judged.value = null;
    unplug = await listenToPads((key, loudness, event) => {
      const found = partOfPad(key);
      if (found) strike(found, loudness, event);
    });
    if (own === run) await begin(what);
  }
  /** From the first loop on; where the tempo has changed, once more. */
  async function begin(what: Asked): Promise<void> {
    time = new LoopTime(desk.clock!, what.loop.start, what.loop.beats);
    at = 0;
    loops.value = 0;
    struck.value = [];
    coming = [];
    if (source.value === "simulated") {
      const f = faults.value;
      try {
        const { played } = await brought(server.POST("/api/songs/{id}/simulate", {
          params: of(desk.id),
          body: { first: what.first, last: what.last, order: what.order, stage: what.stage, share: what.share, loops: SIMULATED,
            limbs: { [f.limb]: { late: f.late, spread: f.spread, missed: f.missed, extra: 0 } }, ghosts: f.ghosts, rush: f.rush },
        }));
        coming = played.map((p) => ({ beat: (p.time * what.share) / what.period, part: p.part as PartName, loudness: p.loudness }));
      } catch (problem) {
        complaint.value = (problem as Error).message;
        end();
        return;
      }
    }
    const clock = desk.clock!;
    playback.speed = exact(what.share);
    const [from, to] = [what.loop.start, what.loop.start + what.loop.beats].map((beat) => clock.seconds(beat)) as [number, number];
    playback.loop = [from, to];
    playback.play(from);
  }
  /** With every frame: the simulated kit strikes what is due, loops are counted. */
  watch(() => playback.now, (moment) => {
    const what = asked();
    if (!isOn.value || !time || !what || !playback.isPlaying) return;
    const beat = time.follow(moment);
    const perBeat = (what.period / what.share) * 1000;
    while (coming.length && coming[0]!.beat <= beat) {
      const next = coming.shift()!;
      sendSimulated(part(next.part).midi, Math.max(1, Math.round(127 * next.loudness)), performance.now() - (beat - next.beat) * perBeat);
    }
    loops.value = Math.max(0, Math.floor((beat - at) / time.beats));
    if (loops.value >= LOOPS && beat - at > LOOPS * time.beats + 0.3) void judge(LOOPS);
  });
  async function judge(count: number): Promise<void> {
    const what = asked();
    if (!time || !what || count < 1) return;
    const until = at + count * time.beats;
    const start = at;
    at = until;
    const own = struck.value.filter((s) => s.beat < until - 0.25);
    struck.value = struck.value.filter((s) => s.beat >= until - 0.25);
    if (!own.length) return;
    const scale = what.period / what.share;
    try {
      const told = await brought(server.POST("/api/songs/{id}/judge", {
        params: of(desk.id),
        body: { first: what.first, last: what.last, order: what.order, stage: what.stage, share: what.share, latency: source.value === "simulated" ? 0 : latency.value,
          played: own.map((s) => ({ time: (s.beat - start) * scale, part: s.part, loudness: s.loudness })) },
      }));
      judged.value = told;
      done(told, count * time.beats * scale);
    } catch (problem) {
      complaint.value = (problem as Error).message;
    }
  }
  function end(): void {
    run++;
    unplug?.();
    unplug = null;
    const whole = loops.value;
    playback.pause();
    isOn.value = false;
    if (whole) void judge(whole);
    time = null;
  }
  /** A recording of one's practice: heard by a worker, told like what was played in. */
  const isHearing = ref("");
  async function hear(file: File): Promise<void> {
    const what = asked();
    if (!what) return;
    complaint.value = "";
    judged.value = null;
    isHearing.value = "Sending the recording";
    const body = new FormData();
    body.set("file", file);
    for (const key of ["first", "last", "order", "stage", "share"] as const) body.set(key, String(what[key]));
    try {
      let found = await brought(server.POST("/api/songs/{id}/practised-sounds", { params: of(desk.id), body: body as never, bodySerializer: (b: unknown) => b as FormData }));
      while (!found.judged && ["queued", "running"].includes(found.job?.state ?? "")) {
        isHearing.value = found.job?.step_name ?? "Waiting";
        await new Promise((done) => setTimeout(done, 600));
        found = await brought(server.GET("/api/practised-sounds/{id}", { params: of(found.id) }));
      }
      if (!found.judged) throw new Error(found.job?.message || "The recording was not heard.");
      judged.value = found.judged;
      done(found.judged, 0);
    } catch (problem) {
      complaint.value = (problem as Error).message;
    } finally {
      isHearing.value = "";
    }
  }
  /** Which loop of those that are judged together is being played, from 1. */
  const loopNow = computed(() => Math.min(loops.value + 1, LOOPS));
  const tempo = computed(() => asked()?.share ?? 1);
  watch([tempo, () => asked()?.stage, () => asked()?.first, () => asked()?.last], () => {
    const what = asked();
    if (isOn.value && what) void begin(what);
  });
  useKeys("playIn", { strike: (e, _, usual) => void (e.repeat || strike(PART_OF[usual]!, loudnessOf("normal"), e)), stop: end }, { isOn: () => isOn.value });
  onScopeDispose(() => isOn.value && end());
  return { isOn, isHearing, hear, source, faults, judged, complaint, loops, loopNow, struck, start, end, LOOPS };
}
