import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, nextTick, reactive, ref, type EffectScope } from "vue";
import { Clock } from "@/score/time";
import { usePlayIn, type Asked, type Judged } from "./playIn";

const clock = new Clock({ meters: ["4/4", "4/4", "4/4"] as never, pulse: Array.from({ length: 13 }, (_, k) => k * 0.5), swing: ["none", 0.5] });
const playback = reactive({
  now: 0, isPlaying: false, speed: 1, loop: null as number[] | null,
  play(at: number) { [playback.now, playback.isPlaying] = [at, true]; },
  pause() { playback.isPlaying = false; },
  moment: (e: { timeStamp: number }) => e.timeStamp,
});
let pad: (key: number, loudness: number, event: { timeStamp: number }) => void;
let simulated: number[];
let unplugged: number;
vi.mock("@/stores/playback", () => ({ usePlayback: () => playback }));
vi.mock("@/stores/song", () => ({ useSong: () => ({ id: 5, clock }) }));
vi.mock("@/audio/pads", () => ({
  listenToPads: async (told: typeof pad) => ((pad = told), () => void unplugged++),
  partOfPad: (key: number) => ({ 36: "kick", 38: "snare" })[key],
  sendSimulated: (key: number) => void simulated.push(key),
}));

const asked = ref<Asked | null>(null);
let sent: { url: string; body: Record<string, unknown> }[];
let done: [Judged, number][];
let scope: EffectScope;
let own: ReturnType<typeof usePlayIn>;
let refuses: string;

beforeEach(() => {
  localStorage.clear();
  [sent, done, simulated, unplugged, refuses] = [[], [], [], 0, ""];
  Object.assign(playback, { now: 0, isPlaying: false, speed: 1, loop: null });
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push({ url: new URL(request.url).pathname, body: (await request.json()) as Record<string, unknown> });
    const body = refuses ? { detail: refuses } : request.url.includes("simulate") ? { played: [{ time: 0.1, part: "kick", loudness: 0.5 }, { time: 1.1, part: "snare", loudness: 0.5 }] } : { hits: 3 };
    return new Response(JSON.stringify(body), { status: refuses ? 400 : 200, headers: { "Content-Type": "application/json" } });
  });
  asked.value = { first: 2, last: 2, order: "computed", stage: 0, share: 1, period: 0.5, loop: { start: 4, beats: 4 } } as Asked;
  scope = effectScope();
  own = scope.run(() => usePlayIn(() => asked.value, (judged, seconds) => done.push([judged, seconds])))!;
});
afterEach(() => scope.stop());

async function at(moment: number): Promise<void> {
  playback.now = moment;
  await nextTick();
}
/** Bar 2 lies from second 2 to 4; it is played so many times, with a kick on each 1. */
async function played(loops: number): Promise<void> {
  for (let k = 0; k < loops; k++) {
    await at(2.0);
    pad(36, 0.8, { timeStamp: 2.0 });
    for (const t of [2.5, 3, 3.5, 3.9]) await at(t);
  }
  await at(2.0);
  await at(2.3);
  await vi.waitFor(() => expect(sent.length + Number(loops < 2)).toBeGreaterThan(0));
}

describe("a stage that is played in", () => {
  it("loops its bars at the stage's tempo", async () => {
    asked.value = { ...asked.value!, share: 0.8 };
    await own.start();
    expect(playback).toMatchObject({ isPlaying: true, speed: 0.8, loop: [2, 4] });
    expect(own.isOn.value).toBe(true);
  });

  it("is judged after two loops, with moments from the first one's start", async () => {
    await own.start();
    await played(2);
    expect(sent[0]!.url).toBe("/api/songs/5/judge");
    expect(sent[0]!.body).toMatchObject({ first: 2, last: 2, share: 1, latency: 0 });
    expect((sent[0]!.body.played as { time: number }[]).map((s) => [Math.round(s.time * 10) / 10])).toEqual([[0], [2]]);
    await vi.waitFor(() => expect(done).toEqual([[{ hits: 3 }, 4]]));
  });

  it("goes on with the third loop where the second judgement begins", async () => {
    await own.start();
    await played(2);
    await vi.waitFor(() => expect(done.length).toBe(1));
    await at(2.35);
    expect(own.loops.value).toBe(0);
    expect(own.struck.value).toEqual([]);
  });

  it("asks nobody where nothing was struck", async () => {
    await own.start();
    for (let k = 0; k < 3; k++) for (const t of [2.0, 3, 3.9]) await at(t);
    expect(sent).toEqual([]);
    expect(own.complaint.value).toBe("");
  });

  it("takes no pad that is no part of the kit, and nothing while the music stands still", async () => {
    await own.start();
    pad(99, 0.8, { timeStamp: 2.1 });
    playback.isPlaying = false;
    pad(36, 0.8, { timeStamp: 2.1 });
    expect(own.struck.value).toEqual([]);
  });

  it("lets the simulated kit strike when its strokes are due", async () => {
    own.source.value = "simulated";
    await own.start();
    expect(sent[0]!.url).toBe("/api/songs/5/simulate");
    await at(2.02);
    expect(simulated.length).toBe(0);
    await at(2.2);
    expect(simulated.length).toBe(1);
    await at(3.2);
    expect(simulated.length).toBe(2);
  });

  it("says why it can't begin, and plays nothing then", async () => {
    own.source.value = "simulated";
    refuses = "There is nothing to play in these bars.";
    await own.start();
    expect(own.complaint.value).toBe(refuses);
    expect([own.isOn.value, playback.isPlaying, unplugged]).toEqual([false, false, 1]);
  });

  it("begins anew where the tempo changes", async () => {
    await own.start();
    pad(36, 0.8, { timeStamp: 2.0 });
    asked.value = { ...asked.value!, share: 0.9 };
    await nextTick();
    await vi.waitFor(() => expect(playback.speed).toBe(0.9));
    expect(own.struck.value).toEqual([]);
  });

  it("stops with whatever it was used in, and unplugs the pads", async () => {
    await own.start();
    scope.stop();
    expect([own.isOn.value, playback.isPlaying, unplugged]).toEqual([false, false, 1]);
  });
});
