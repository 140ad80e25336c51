/** What the core and the page must reckon alike: one file of cases, read here and by
 *  tests/core/test_golden.py. */
import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import type { Score, Stroke } from "@/api/client";
import { layerFor } from "@/audio/kit";
import { climbed } from "@/practice/ladder";
import { eventsOf, type Feel } from "@/score/sounding";
import { Clock, clockText, meterOf } from "@/score/time";
import { placeName } from "@/spine/grooves";
import { classOf, DOUBTFUL, layerOf, part } from ".";

interface Gold {
  swung: { swing: [string, number]; place: string; at: number }[];
  names: { meter: string; place: string; name: string }[];
  classes: { loudness: number; class: string }[];
  layers: { part: string; dynamic: string; layer: string }[];
  limbs: Record<string, string>;
  shots: { part: string; loudness: number; file: string; gain: number }[];
  score: Score;
  shifts: Record<string, number>;
  bars: number[];
  clock: [number, string][];
  doubtful: string[];
  ladder: { rungs: number[]; run: number; loops: [string, number, number, boolean][] };
  sounds: { feel: Feel; mute: string[]; events: [number, string, number, boolean][] }[];
}
const gold = JSON.parse(readFileSync("../tests/golden/rules.json", "utf8")) as Gold;
const clock = new Clock(gold.score);
const beats = Array.from({ length: 9 }, (_, k) => k);

describe("the page and the core", () => {
  it.each(gold.swung)("swing $place alike ($swing)", ({ swing, place, at }) => {
    const own = new Clock({ meters: ["4/4", "4/4"], pulse: beats, swing });
    expect(own.played({ bar: 1, place })).toBeCloseTo(at, 5);
  });
  it.each(gold.names)("call $place of $meter $name", ({ meter, place, name }) => {
    expect(placeName(place, meterOf(meter).isCompound)).toBe(name);
  });
  it("class, layer and doubt strokes alike, and give them the same limbs", () => {
    for (const c of gold.classes) expect(classOf(c.loudness)).toBe(c.class);
    for (const c of gold.layers) expect(layerOf(c)).toBe(c.layer);
    for (const [name, limb] of Object.entries(gold.limbs)) expect(part(name).limb).toBe(limb);
    expect(gold.score.strokes.filter((s) => s.confidence < DOUBTFUL).map((s) => s.id).sort()).toEqual(gold.doubtful);
  });
  it.each(gold.clock)("write %s seconds as %s", (seconds, text) => expect(clockText(seconds)).toBe(text));
  it("begin bars at the same moments and choose the same one-shots", () => {
    gold.bars.forEach((at, n) => expect(clock.seconds(clock.starts[n]!)).toBeCloseTo(at, 4));
    for (const c of gold.shots) {
      const { file, gain } = layerFor(c.part, c.loudness);
      expect([file, Math.round(gain * 1e4)]).toEqual([c.file, Math.round(c.gain * 1e4)]);
    }
  });
  it.each(gold.sounds)("sound the part alike ($feel without $mute)", ({ feel, mute, events }) => {
    const made = eventsOf(gold.score, gold.score.strokes as Stroke[], clock, feel, gold.shifts, new Set(mute));
    const key = (e: (typeof events)[number]) => `${e[1]} ${Math.round(e[0] * 1e4)} ${Math.round(e[2] * 1e3)} ${e[3]}`;
    const told = made.filter((e) => e.time >= 0).map((e) => key([e.time, e.part, e.loudness, e.choked ?? false]));
    expect(told.sort()).toEqual(events.map(key).sort());
  });
});

it("climbs a ladder as the core does", () => {
  const { rungs, run, loops } = gold.ladder;
  let rung = { tempo: rungs[0]!, clean: 0, is_learned: false };
  for (const [judgement, tempo, clean, is_learned] of loops) {
    rung = climbed(rung, rungs, run, judgement);
    expect(rung).toEqual({ tempo, clean, is_learned });
  }
});
