import { describe, expect, it } from "vitest";
import type { Stroke } from "@/api/client";
import { PARTS } from "@/kit";
import { Clock } from "@/score/time";
import { countRow, heads, lanes, likeness, phraseRows, heightOf } from "./layout";
import { shape } from "./shapes";

const clock = new Clock({ meters: ["4/4", "4/4", "4/4"], pulse: Array.from({ length: 13 }, (_, i) => i / 2), swing: ["none", 0.5] });
let n = 0;
const stroke = (place: string, part = "snare", limb = "LH", more = {}): Stroke =>
  ({ id: `s${n++}`, bar: 1, place, part, limb, dynamic: "normal", loudness: 0.7, ornament: null, measured: null, confidence: 1, placed_by: "person", limb_by: "program", ...more }) as Stroke;

describe("the spine", () => {
  const at = lanes(400);
  it("hangs feet below the count row and raises hands above it", () => {
    const [hand, foot] = heads([stroke("0"), stroke("0", "kick", "RF")], 1, clock, 1000, at, 26);
    expect(hand!.y).toBeLessThan(hand!.base);
    expect(foot!.y).toBeGreaterThan(foot!.base);
    expect(hand!.base).toBeLessThan(at.count);
    expect(foot!.base).toBeGreaterThan(at.count);
  });
  it("makes louder strokes longer, and ghosts stubs", () => {
    const [ghost, accent] = heads([stroke("0", "snare", "LH", { loudness: 0.3 }), stroke("1", "snare", "LH", { loudness: 0.95 })], 1, clock, 1000, at, 26);
    expect(ghost!.base - ghost!.y).toBeLessThan((accent!.base - accent!.y) / 2);
  });
  it("leans late strokes right and early ones left", () => {
    const [late, early] = heads([stroke("1", "snare", "LH", { measured: { time: 0.51, level: null, openness: null } }), stroke("2", "snare", "LH", { measured: { time: 0.99, level: null, openness: null } })], 1, clock, 1000, at, 26);
    expect(late!.lean).toBeGreaterThan(5);
    expect(early!.lean).toBeLessThan(-5);
  });
  it("speaks the syllables that sound and dims the others", () => {
    const row = countRow([stroke("0"), stroke("3/4")], 1, clock, 4);
    expect(row.filter((s) => s.isSpoken).map((s) => s.text)).toEqual(["1", "a"]);
    expect(row).toHaveLength(16);
  });
  it("tells every part by outline and letter", () => {
    const looks = PARTS.filter((p) => p.name !== "rimshot").map((p) => `${shape(p.shape).path}${shape(p.shape).extra}${shape(p.shape).isHollow}${p.letter}`);
    expect(new Set(looks).size).toBe(looks.length);
  });
});

describe("the map", () => {
  it("is quiet where a bar is like an earlier one and loud where it differs", () => {
    const groove = ["0", "1", "2", "3"].map((p) => stroke(p));
    const bars = new Map([[1, groove], [2, groove], [3, [...groove, stroke("7/2", "tom_high")]]]);
    const different = likeness(bars, 3);
    expect(different.get(1)!.size).toBe(4);
    expect(different.get(2)!.size).toBe(0);
    expect([...different.get(3)!]).toEqual(["7/2 tom_high "]);
  });
  it("lets odd phrases stick out", () => {
    expect(phraseRows(1, 8).map((r) => r.length)).toEqual([4, 4]);
    expect(phraseRows(5, 5)).toEqual([[5, 6, 7, 8, 9]]);
    expect(phraseRows(1, 7).map((r) => r.length)).toEqual([4, 3]);
  });
});

it("gives no lane to limbs that play nothing, and keeps the others as high", () => {
  const whole = lanes(400);
  const some = lanes(heightOf(400, ["RH", "RF"]), ["RH", "RF"]);
  expect(some.reach).toBeGreaterThanOrEqual(whole.reach);
  expect(some.base.RH).toBeLessThan(some.count);
  expect(some.base.RF).toBeGreaterThan(some.count);
  expect(some.base.RF + some.reach).toBeLessThan(some.height);
  expect(lanes(200, ["RF"]).count).toBeCloseTo(11);
});
