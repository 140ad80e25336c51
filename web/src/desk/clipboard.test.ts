import { describe, expect, it } from "vitest";
import type { Stroke } from "@/api/client";
import { Clock } from "@/score/time";
import { beatOf, copied, displaced, freshId, pasted, spotOf } from "./clipboard";

/** Two bars of four, one of three and one of seven eighths. */
const clock = new Clock({
  meters: ["4/4", "4/4", "3/4", "7/8"],
  pulse: Array.from({ length: 19 }, (_, k) => k / 2),
  swing: ["none", 0.5],
});
const stroke = (id: string, bar: number, place: string, part = "snare"): Stroke =>
  ({
    id, bar, place, part, limb: "LH", dynamic: "ghost", loudness: 0.3, ornament: "flam", choked: false,
    measured: { time: 1.2, level: null, openness: null }, confidence: 0.4, placed_by: "heard", limb_by: "program", doubt: "doubtful",
  }) as unknown as Stroke;
const nothing = () => [];

describe("places counted through the song", () => {
  it("finds the bar and the place of a beat", () => {
    expect(spotOf(clock, 0)).toEqual({ bar: 1, place: "0" });
    expect(spotOf(clock, 5.75)).toEqual({ bar: 2, place: "7/4" });
    expect(spotOf(clock, 10.5)).toEqual({ bar: 3, place: "5/2" });
    expect(spotOf(clock, 11)).toEqual({ bar: 4, place: "0" });
  });
  it("keeps triplets exact", () => {
    expect(spotOf(clock, 4 + 1 / 3)).toEqual({ bar: 2, place: "1/3" });
    expect(spotOf(clock, 4 + 5 / 6)).toEqual({ bar: 2, place: "5/6" });
  });
  it("knows what lies outside of the song", () => {
    expect(spotOf(clock, -0.25)).toBeNull();
    expect(spotOf(clock, 18)).toBeNull();
    expect(spotOf(clock, 17.75)).toEqual({ bar: 4, place: "27/4" });
  });
  it("is the way back of a stroke's beat", () => {
    for (const [bar, place] of [[1, "7/4"], [2, "1/3"], [3, "5/2"], [4, "13/2"]] as const) {
      expect(spotOf(clock, beatOf(clock, { bar, place }))).toEqual({ bar, place });
    }
  });
});

describe("pasting", () => {
  it("carries what is played and not what was heard", () => {
    const clip = copied(clock, [stroke("a", 1, "7/4")], null);
    const [edit] = pasted(clock, clip, 4, nothing);
    expect(edit).toMatchObject({
      operation: "add_stroke",
      bar: 2, place: "0", part: "snare", limb: "LH", dynamic: "ghost", loudness: 0.3, ornament: "flam",
    });
    expect(edit!).not.toHaveProperty("measured");
    expect(edit!).not.toHaveProperty("doubt");
    expect(edit!.id).not.toBe("a");
  });
  it("puts chosen strokes at their distance from the first, also over a bar line", () => {
    const clip = copied(clock, [stroke("a", 1, "1"), stroke("b", 1, "7/2", "kick")], null);
    const spots = pasted(clock, clip, 6, nothing).map((e) => e.operation === "add_stroke" && [e.bar, e.place, e.part]);
    expect(spots).toEqual([[2, "2", "snare"], [3, "1/2", "kick"]]);
  });
  it("leaves a place alone where the part stands already", () => {
    const clip = copied(clock, [stroke("a", 1, "0"), stroke("b", 1, "1")], null);
    const there = (bar: number) => (bar === 2 ? [stroke("c", 2, "1")] : []);
    expect(pasted(clock, clip, 4, there)).toHaveLength(1);
  });
  it("drops what would fall behind the end of the song", () => {
    const clip = copied(clock, [stroke("a", 1, "0"), stroke("b", 1, "3")], null);
    expect(pasted(clock, clip, 16, nothing)).toHaveLength(1);
  });
  it("puts a whole bar in another's place, and no further than its bar line", () => {
    const clip = copied(clock, [stroke("a", 1, "1"), stroke("b", 1, "7/2", "kick")], 1);
    const there = (bar: number) => (bar === 3 ? [stroke("old", 3, "1")] : []);
    const edits = pasted(clock, clip, 8, there);
    expect(edits[0]).toEqual({ operation: "remove_stroke", id: "old" });
    expect(edits.slice(1).map((e) => e.operation === "add_stroke" && [e.bar, e.place])).toEqual([[3, "1"]]);
  });
});

describe("moving along the bars", () => {
  it("moves the foremost first, so that none meets another", () => {
    const strokes = [stroke("a", 1, "0"), stroke("b", 1, "1/4"), stroke("c", 1, "1/2")];
    expect(displaced(clock, strokes, 0.25).map((e) => e.id)).toEqual(["c", "b", "a"]);
    expect(displaced(clock, [...strokes].map((s) => ({ ...s, bar: 2 })), -0.25).map((e) => e.id)).toEqual(["a", "b", "c"]);
  });
  it("crosses bar lines", () => {
    expect(displaced(clock, [stroke("a", 3, "5/2")], 0.5)[0]!).toEqual({ operation: "move_stroke", id: "a", bar: 4, place: "0" });
  });
  it("moves nothing if one stroke would leave the song", () => {
    expect(displaced(clock, [stroke("a", 1, "0"), stroke("b", 2, "0")], -1)).toEqual([]);
    expect(displaced(clock, [stroke("a", 4, "27/4")], 0.25)).toEqual([]);
  });
});

it("never gives an id twice", () => {
  const ids = Array.from({ length: 500 }, freshId);
  expect(new Set(ids).size).toBe(500);
});
