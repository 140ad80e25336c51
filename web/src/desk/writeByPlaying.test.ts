import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, reactive, ref, type EffectScope } from "vue";
import { useWritingByPlaying } from "./writeByPlaying";
import type { Writing } from "./writing";

const playback = reactive({
  isPlaying: false,
  play() { playback.isPlaying = true; },
  pause() { playback.isPlaying = false; },
  moment: (e: { timeStamp: number }) => e.timeStamp / 1000,
});
const edits: Record<string, unknown>[] = [];
let pad: (key: number, loudness: number, event: { timeStamp: number }) => void;
let unplugged: number;
vi.mock("@/stores/playback", () => ({ usePlayback: () => playback }));
vi.mock("@/stores/song", () => ({ useSong: () => ({ edit: (what: Record<string, unknown>) => edits.push(what) }) }));
vi.mock("@/audio/pads", () => ({
  listenToPads: async (told: typeof pad) => ((pad = told), () => void unplugged++),
  partOfPad: (key: number) => ({ 36: "kick", 38: "snare" })[key],
}));

let scope: EffectScope;
let own: ReturnType<typeof useWritingByPlaying>;
const touch = ref("normal");
beforeEach(() => {
  [edits.length, unplugged, playback.isPlaying, touch.value] = [0, 0, false, "normal"];
  scope = effectScope();
  own = scope.run(() => useWritingByPlaying({ touch } as unknown as Writing))!;
});
afterEach(() => scope.stop());

const press = (key: string, repeat = false) => {
  const event = new KeyboardEvent("keydown", { key, repeat, cancelable: true });
  Object.defineProperty(event, "timeStamp", { value: 2500 });
  window.dispatchEvent(event);
};

describe("playing a part in along with the recording", () => {
  it("takes pads by when they were struck and how hard", async () => {
    await own.start(2);
    pad(36, 0.9, { timeStamp: 2250 });
    pad(38, 0.4, { timeStamp: 2750 });
    own.end(true);
    expect(edits).toMatchObject([
      { operation: "play_in", hits: [{ time: 2.25, part: "kick", loudness: 0.9 }, { time: 2.75, part: "snare", loudness: 0.4 }] },
    ]);
    expect(edits[0]!.new).toBeTruthy();
  });

  it("takes the keys of the parts, as loud as the touch at hand", async () => {
    await own.start(2);
    press("s");
    touch.value = "ghost";
    press("s");
    expect(own.played.value.map((h) => h.part)).toEqual(["snare", "snare"]);
    expect(own.played.value[1]!.loudness).toBeLessThan(own.played.value[0]!.loudness);
  });

  it("takes a held key once, and no pad that stands for nothing", async () => {
    await own.start(2);
    press("k");
    press("k", true);
    pad(99, 0.5, { timeStamp: 1 });
    expect(own.played.value).toHaveLength(1);
  });

  it("takes nothing while nothing sounds", async () => {
    await own.start(2);
    playback.pause();
    press("k");
    expect(own.played.value).toEqual([]);
  });

  it("leaves no trace where it is dropped, or nothing was played", async () => {
    await own.start(2);
    press("k");
    own.end(false);
    await own.start(2);
    own.end(true);
    expect(edits).toEqual([]);
    expect([own.isOn.value, playback.isPlaying]).toEqual([false, false]);
  });

  it("lets the pads go when it ends and when the desk is left", async () => {
    await own.start(2);
    own.end(true);
    expect(unplugged).toBe(1);
    await own.start(2);
    scope.stop();
    expect(unplugged).toBe(2);
  });
});
