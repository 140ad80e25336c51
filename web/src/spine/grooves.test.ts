import { describe, expect, it } from "vitest";
import type { Option, Stroke } from "@/api/client";
import { laidOver, placeName, rungs } from "./grooves";

const stroke = (fields: Partial<Stroke>): Stroke => ({
  id: "a", bar: 1, place: "0", part: "hat_closed", limb: "RH", dynamic: "normal", loudness: 0.7,
  ornament: null, measured: null, confidence: 1, placed_by: "person", limb_by: "program", choked: false, doubt: "", reason: "", ...fields,
});
const option = (fields: Partial<Option>): Option => ({
  bar: 0, place: "7/2", part: "hat_open", limb: "RH", dynamic: "normal", share: 0.5, bars: [2], of: 4, sure: 1, heard: 0, where: "", goes: "", ...fields,
});

describe("a groove's unit", () => {
  it("shows the core of one bar of the unit", () => {
    const core = [stroke({ id: "a" }), stroke({ id: "b", bar: 2 })];
    expect(laidOver(core, [], 2).map((s) => s.id)).toEqual(["b"]);
  });

  it("lays an option over it, in place of what the same hand plays there", () => {
    const core = [stroke({ place: "7/2" }), stroke({ id: "k", place: "7/2", part: "kick", limb: "RF" })];
    expect(laidOver(core, [option({})], 1).map((s) => s.part)).toEqual(["kick", "hat_open"]);
  });

  it("keeps an option of another bar of the unit away", () => {
    expect(laidOver([], [option({ bar: 2 })], 1)).toEqual([]);
    expect(laidOver([], [option({ bar: 2 })], 2)).toHaveLength(1);
  });

  it("tells the layers that a core has", () => {
    expect(rungs([stroke({}), stroke({ part: "snare", dynamic: "ghost" })])).toEqual(new Set(["time", "ghosts"]));
  });

  it("names places as drummers count them", () => {
    expect(["0", "3/2", "9/4", "11/4", "4/3", "5/3", "17/8"].map((p) => placeName(p, false))).toEqual(
      ["1", "2&", "3e", "3a", "2t", "2l", "3:1/8"],
    );
    expect(placeName("3/2", true)).toBe("2:1/2");
  });
});
