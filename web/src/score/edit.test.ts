import { describe, expect, it } from "vitest";
import type { Edit, Score } from "@/api/client";
import { foreseen, patched } from "./edit";

const stroke = { id: "a", bar: 1, place: "0", part: "kick", limb: "RF", dynamic: "normal", loudness: 0.7, ornament: null, measured: { time: 1, level: null, openness: null }, confidence: 0.9, placed_by: "heard", limb_by: "program" } as const;
const score = {
  title: "", artist: "", meters: ["4/4"], pulse: [0, 1, 2, 3, 4], swing: ["none", 0.5],
  sections: [{ id: "s", name: "A", label: "A", first_bar: 1, bars: 1 }],
  strokes: [stroke],
} as unknown as Score;

describe("an edit is shown before the server confirms", () => {
  const after = (operation: string, args: Record<string, unknown>) => {
    const patch = foreseen(score, { operation, ...args } as Edit);
    return patch ? patched(score, patch) : null;
  };
  it("adds, moves, changes and removes strokes", () => {
    expect(after("add_stroke", { id: "b", bar: 1, place: "1", part: "snare", limb: "LH" })!.strokes).toHaveLength(2);
    expect(after("move_stroke", { id: "a", bar: 1, place: "1/2" })!.strokes[0]).toMatchObject({ place: "1/2", measured: { time: 1 }, placed_by: "person", limb_by: "program" });
    expect(after("set_dynamic", { id: "a", dynamic: "ghost" })!.strokes[0]).toMatchObject({ dynamic: "ghost", loudness: 0.3 });
    expect(after("set_part", { id: "a", part: "snare" })!.strokes[0]!.part).toBe("snare");
    expect(after("set_limb", { id: "a", limb: "LF" })!.strokes[0]).toMatchObject({ limb: "LF", limb_by: "person", placed_by: "heard" });
    expect(after("remove_stroke", { id: "a" })!.strokes).toHaveLength(0);
    expect(after("rename_section", { id: "s", name: "Verse" })!.sections[0]!.name).toBe("Verse");
  });
  it("leaves to the core what must be computed", () => {
    expect(after("halve_tempo", {})).toBeNull();
    expect(after("remove_stroke", { id: "gone" })).toBeNull();
  });
  it("changes what is perhaps a stroke by its id", () => {
    const maybe = (id: string) => ({ ...stroke, id, part: "crash" });
    const own = { ...score, perhaps: [maybe("p1"), maybe("p2")] } as unknown as Score;
    const now = patched(own, { perhaps: { p1: null, p3: maybe("p3") } } as never);
    expect(now.perhaps.map((p) => p.id)).toEqual(["p2", "p3"]);
    expect(now.strokes).toBe(own.strokes);
  });
  it("keeps the identity of what did not change", () => {
    const now = patched(score, { strokes: { b: { ...stroke, id: "b" } } } as never);
    expect(now.strokes[0]).toBe(score.strokes[0]);
    expect(now.sections).toBe(score.sections);
  });
});
