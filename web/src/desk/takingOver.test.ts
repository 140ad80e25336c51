import { describe, expect, it } from "vitest";
import type { Comparison } from "@/api/client";
import { takenOver } from "./takingOver";

const stroke = (id: string, place: string, more: object = {}) =>
  ({ id, bar: 2, place, part: "snare", limb: "LH", dynamic: "normal", loudness: 0.6, ornament: null, choked: false, ...more });
const told = (kind: string, a: string | null, b: string | null) => ({ kind, a, b, says: "" });
const found = {
  a: [stroke("a1", "0"), stroke("a2", "1/2", { part: "kick", limb: "RF" }), stroke("a3", "2", { dynamic: "accent" }), stroke("a4", "3", { part: "hat_open", limb: "RH" })],
  b: [stroke("b1", "1/4"), stroke("b3", "2"), stroke("b4", "3", { part: "hat_closed", limb: "RH" }), stroke("b5", "7/2")],
  differences: [told("moved", "a1", "b1"), told("removed", "a2", null), told("louder", "a3", "b3"), told("part", "a4", "b4"), told("added", null, "b5")],
  says: [],
} as unknown as Comparison;

describe("a bar that takes over what another one plays", () => {
  it("moves, adds, renames and takes away, and takes how loud it is", () => {
    expect(takenOver(found, 2, false)).toEqual([
      { operation: "move_stroke", id: "b1", bar: 2, place: "0" },
      expect.objectContaining({ operation: "add_stroke", bar: 2, place: "1/2", part: "kick", limb: "RF" }),
      { operation: "set_dynamic", id: "b3", dynamic: "accent" },
      { operation: "set_part", id: "b4", part: "hat_open" },
      { operation: "remove_stroke", id: "b5" },
    ]);
  });
  it("leaves how loud strokes are where another take is louder or softer as a whole", () => {
    expect(takenOver(found, 2, true).map((e) => e.operation)).not.toContain("set_dynamic");
  });
});
