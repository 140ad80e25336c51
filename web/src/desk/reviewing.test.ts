import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, type EffectScope } from "vue";
import { useSong } from "@/stores/song";
import { useReviewing, type Reviewing } from "./reviewing";

const playback = { loop: null as [number, number] | null, play: vi.fn(), pause: vi.fn(), excerpts: vi.fn() };
vi.mock("@/stores/playback", () => ({ usePlayback: () => playback }));

const doubt = (key: string, more: object = {}) => ({
  key, kind: "faint", bars: [2], strokes: [`${key}-1`], part: "snare", place: "7/4", limb: "LH", ...more,
});
let doubts: object[];
let asked: number;
let single: object[];
let many: Record<string, unknown>[][];
let gone: number[];
let review: Reviewing;
let scope: EffectScope;

beforeEach(async () => {
  setActivePinia(createPinia());
  vi.stubGlobal("fetch", async () => {
    asked++;
    return Response.json({ doubts, minutes: 4, total: doubts.length });
  });
  [doubts, asked, single, many, gone] = [[], 0, [], [], []];
  Object.assign(playback, { loop: null, play: vi.fn(), pause: vi.fn(), excerpts: vi.fn() });
  const song = useSong();
  song.id = 3;
  song.shown = {
    version: 1,
    score: { meters: Array(9).fill("4/4"), pulse: Array.from({ length: 37 }, (_, k) => k / 2), swing: ["none", 0.5], strokes: [], sections: [] },
  } as never;
  vi.spyOn(song, "edit").mockImplementation((edit) => void single.push(edit));
  vi.spyOn(song, "editMany").mockImplementation((edits) => void many.push(edits as never));
  scope = effectScope();
  review = scope.run(() => useReviewing((bar) => gone.push(bar)))!;
});
afterEach(() => {
  scope.stop();
  vi.unstubAllGlobals();
});

async function walk(...queue: object[]): Promise<void> {
  doubts = queue;
  await review.start();
  await new Promise((done) => setTimeout(done));
}

describe("the review queue", () => {
  it("goes to the first doubt, loops its bar and tells how much is left", async () => {
    await walk(doubt("a", { bars: [3, 5] }), doubt("b"));
    expect(gone).toEqual([3]);
    expect(playback.loop).toEqual([4, 6]);
    expect(playback.play).toHaveBeenCalledWith(4);
    expect([review.left.value, review.minutes.value]).toEqual([2, 4]);
  });
  const sound = (key: string) => doubt(key, { kind: "sound", strokes: [], sound: 4, examples: [1, 2, 3, 4, 5], can_split: true, part: "tom_mid" });
  it("plays five of a sound and names, dismisses, splits or keeps all of it with one key", async () => {
    await walk(sound("a"), sound("b"), sound("c"), sound("d"), doubt("e"));
    expect(playback.excerpts).toHaveBeenCalledWith([1, 2, 3, 4, 5]);
    expect(playback.loop).toBeNull();
    review.change("tom_floor");
    review.wrong();
    review.split();
    review.right();
    expect(single).toEqual([
      { operation: "name_sound", sound: 4, part: "tom_floor" },
      { operation: "dismiss_sound", sound: 4 },
      { operation: "split_sound", sound: 4 },
      { operation: "settle", key: "d" },
    ]);
    review.split(); // of what is no sound, nothing
    expect(single).toHaveLength(4);
  });
  it("walks the bars of a recurring doubt, round at the ends", async () => {
    await walk(doubt("a", { bars: [3, 5, 8] }));
    review.nextBar(-1);
    review.nextBar(1);
    review.nextBar(1);
    expect(gone).toEqual([3, 8, 3, 5]);
  });
  it("settles every bar of a doubt with one answer and goes on to the next", async () => {
    await walk(doubt("a", { strokes: ["x", "y"], bars: [1, 2] }), doubt("b", { bars: [7] }));
    review.right();
    await new Promise((done) => setTimeout(done));
    expect(many).toEqual([["x", "y"].map((id) => ({ operation: "set_doubt", id, doubt: "" }))]);
    expect(review.answered.value).toBe(1);
    expect(gone).toEqual([1, 7]);
    review.right();
    await new Promise((done) => setTimeout(done));
    expect(review.doubt.value).toBeNull();
    expect(playback.pause).toHaveBeenCalled();
  });
  it("takes strokes away that are wrong, and writes one that is missing in all its bars", async () => {
    await walk(doubt("a"), doubt("b", { kind: "missing", strokes: [], bars: [2, 4] }));
    review.wrong();
    review.wrong();
    expect(many[0]).toEqual([{ operation: "remove_stroke", id: "a-1" }]);
    expect(many[1]!.map((e) => [e.operation, e.bar, e.place, e.part])).toEqual([
      ["add_stroke", 2, "7/4", "snare"],
      ["add_stroke", 4, "7/4", "snare"],
    ]);
  });
  it("turns a stroke into another part", async () => {
    await walk(doubt("a"));
    review.change("cross_stick");
    expect(many[0]).toEqual([{ operation: "set_part", id: "a-1", part: "cross_stick" }]);
  });
  it("says why a stroke is left out", async () => {
    await walk(doubt("a", { kind: "echo" }), doubt("b", { kind: "hands" }), doubt("c"));
    for (let i = 0; i < 3; i++) review.leaveOut();
    const reasons = many.map((edits) => String(edits[0]!.reason));
    expect(reasons[0]).toContain("echo");
    expect(reasons[1]).toContain("two hands");
    expect(new Set(reasons).size).toBe(3);
  });
  it("only remembers that a doubt about an echo was looked at where all is right", async () => {
    await walk(doubt("a", { kind: "echo" }));
    review.right();
    expect(single).toEqual([{ operation: "settle", key: "a" }]);
    expect(many).toEqual([]);
  });
  it("skips a doubt and comes back to it", async () => {
    await walk(doubt("a"), doubt("b"));
    review.skip();
    expect(review.doubt.value?.key).toBe("b");
    expect(review.left.value).toBe(2);
    review.back();
    expect(review.doubt.value?.key).toBe("a");
  });
  it("answers nothing where there is nothing", async () => {
    await walk();
    for (const answer of [review.right, review.wrong, review.leaveOut, review.keepDoubtful, review.skip]) answer();
    review.nextBar(1);
    expect([single, many, review.answered.value]).toEqual([[], [], 0]);
  });
  it("lets go of the loop when it ends", async () => {
    await walk(doubt("a"));
    review.stop();
    expect(playback.loop).toBeNull();
    expect(review.isOn.value).toBe(false);
    expect(asked).toBe(1);
  });
  it("writes what was perhaps a stroke, or drops it, in all its bars at once", async () => {
    const maybe = (key: string) => doubt(key, { kind: "perhaps", strokes: [], perhaps: [`${key}1`, `${key}2`] });
    await walk(maybe("a"), maybe("b"));
    review.right();
    review.wrong();
    expect(single).toEqual([
      { operation: "write_perhaps", ids: ["a1", "a2"] }, { operation: "drop_perhaps", ids: ["b1", "b2"] },
    ]);
    expect(many).toEqual([]);
  });
});
