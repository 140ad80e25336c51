import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import type { Written } from "@/audio/transport";
import { CLICKS, SPEEDS, usePlayback } from "./playback";
import { useSong } from "./song";

/** What the transport was told last, by the name of what it was told. */
const told: Record<string, unknown> = {};
const position = { now: 0 };
vi.mock("@/audio/transport", () => ({
  Transport: class {
    constructor() {
      const own: Record<string, unknown> = { onstate: () => {} };
      return new Proxy(own, {
        get: (_, key: string) =>
          key === "position" ? position.now
            : key === "play" ? async (...args: unknown[]) => void (told.play = args)
              : (own[key] ?? ((value: unknown) => void (told[key] = value))),
      }) as never;
    }
  },
}));

const stroke = (id: string, place: string, more: object = {}) => ({
  id, bar: 1, place, part: "snare", limb: "LH", dynamic: "accent", loudness: 0.9, ornament: null,
  measured: null, confidence: 1, placed_by: "person", limb_by: "program", doubt: "", choked: false, ...more,
});
let playback: ReturnType<typeof usePlayback>;
let song: ReturnType<typeof useSong>;
const written = () => told.setWritten as Written[];

beforeEach(() => {
  vi.stubGlobal("AudioContext", class {});
  for (const key of Object.keys(told)) delete told[key];
  position.now = 0;
  setActivePinia(createPinia());
  song = useSong();
  song.id = 1;
  song.shown = {
    version: 1, take: 4, duration: 60,
    score: {
      meters: ["4/4", "3/4"], pulse: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5], swing: ["sixteenth", 0.6], sections: [], cues: {},
      strokes: [
        stroke("back", "1"),
        stroke("ghost", "7/4", { dynamic: "ghost", loudness: 0.3, measured: { time: 1.93, level: null, openness: null } }),
        stroke("kick", "0", { part: "kick", limb: "RF", dynamic: "normal", loudness: 0.7 }),
        stroke("gone", "2", { doubt: "left_out" }),
      ],
    },
  } as never;
  playback = usePlayback();
});
afterEach(() => void vi.unstubAllGlobals());

const start = async () => {
  playback.play(0);
  await nextTick();
};

describe("what the written part sounds like", () => {
  it("plays every stroke at its place, swung, and nothing that is left out", async () => {
    await start();
    expect(written().map((w) => [w.part, Math.round(w.time * 1000)])).toEqual([
      ["snare", 1500], ["snare", 1900], ["kick", 1000],
    ]);
  });
  it("plays measured strokes when they were measured", async () => {
    playback.feel = "measured";
    await start();
    expect(written()[1]!.time).toBe(1.93);
    expect(written()[0]!.time).toBe(1.5);
  });
  it("leaves out a limb or a layer that is muted, and brings it back", async () => {
    await start();
    playback.mute("LH");
    await nextTick();
    expect(written().map((w) => w.part)).toEqual(["kick"]);
    playback.mute("LH");
    await nextTick();
    expect(written()).toHaveLength(3);
  });
  it("plays kick and loud snare only on one key, and all again on the same", async () => {
    await start();
    playback.only(["kick", "backbeat"]);
    await nextTick();
    expect(written().map((w) => w.loudness)).toEqual([0.9, 0.7]);
    playback.only(["kick", "backbeat"]);
    await nextTick();
    expect(written()).toHaveLength(3);
  });
  it("plays a sketch in the place of the part", async () => {
    await start();
    playback.sketch = [stroke("core", "3")] as never;
    await nextTick();
    expect(written().map((w) => w.time)).toEqual([2.5]);
  });
  it("plays a flam before its stroke", async () => {
    song.shown!.score.strokes = [stroke("f", "1", { ornament: "flam" })] as never;
    await start();
    const times = written().map((w) => w.time).sort();
    expect(times).toHaveLength(2);
    expect(times[1]).toBe(1.5);
    expect(times[0]).toBeGreaterThan(1.44);
  });
});

describe("the click", () => {
  it("counts every bar in its own meter, the ones louder", async () => {
    playback.nextClick();
    await start();
    const ticks = told.setTicks as { time: number; isStrong: boolean }[];
    expect(ticks.map((t) => t.time)).toEqual([1, 1.5, 2, 2.5, 3, 3.5, 4]);
    expect(ticks.filter((t) => t.isStrong).map((t) => t.time)).toEqual([1, 3]);
  });
  it("goes round through its subdivisions to silence", () => {
    for (let k = 0; k < CLICKS.length - 1; k++) playback.nextClick();
    expect(playback.click).toBe(0);
    playback.rhyme = [{ bar: 2, place: "1/2", word: "kettle" }];
    for (let k = 0; k < CLICKS.length - 1; k++) playback.nextClick();
    expect(CLICKS[playback.click]!.label).toBe("Rhythm words");
  });
  it("counts a bar in, at the tempo and in the meter of the bar that comes", async () => {
    playback.countsIn = true;
    playback.play(3);
    await nextTick();
    const [from, lead] = told.play as [number, { time: number }[]];
    expect(from).toBe(3);
    expect(lead.map((t) => t.time)).toEqual([1.5, 1, 0.5]);
  });
});

describe("the ear's controls", () => {
  it("goes slower and faster between the ends", () => {
    for (let k = 0; k < 30; k++) playback.slower(-1);
    expect(playback.speed).toBe(SPEEDS[0]);
    for (let k = 0; k < 30; k++) playback.slower(1);
    expect(playback.speed).toBe(SPEEDS.at(-1));
  });
  it("lets go of a loop that is set twice, and jumps into one", () => {
    playback.setLoop(3, 4.5);
    expect([playback.loop, playback.now]).toEqual([[3, 4.5], 3]);
    playback.setLoop(3, 4.5);
    expect(playback.loop).toBeNull();
  });
  it("loops the bar where written and recorded take turns", async () => {
    await start();
    playback.sounding = "alternate";
    await nextTick();
    expect(playback.loop).toEqual([1, 3]);
  });
  it("narrows to the part in hand and back", () => {
    playback.partInHand = "kick";
    playback.narrow();
    expect(playback.narrowed).toBe("kick");
    playback.narrow();
    expect(playback.narrowed).toBeNull();
  });
  it("times a tap by when the key went down, at any speed", async () => {
    await start();
    position.now = 10;
    playback.speed = 0.5;
    const event = { timeStamp: performance.now() - 100 } as Event;
    expect(playback.moment(event)).toBeCloseTo(9.95, 2);
    const asleep = { timeStamp: performance.now() - 60_000 } as Event;
    expect(playback.moment(asleep)).toBeGreaterThan(9.7);
  });
  it("forgets all of a song when another is opened", async () => {
    await start();
    playback.setLoop(1, 3);
    playback.mute("LH");
    playback.take = 9;
    song.id = 2;
    await nextTick();
    expect([playback.loop, playback.take, playback.now, playback.muted.size]).toEqual([null, null, 0, 0]);
  });
});
