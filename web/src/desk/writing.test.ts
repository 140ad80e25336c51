import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ref } from "vue";
import type { Stroke } from "@/api/client";
import { useSong } from "@/stores/song";
import { PART_KEYS } from "@/keys/parts";
import { useWriting, type Writing } from "./writing";

let edits: [string, Record<string, unknown>][];
let writing: Writing;
const hat = {
  id: "hat", bar: 1, place: "1/2", part: "hat_closed", limb: "RH", dynamic: "normal", loudness: 0.7,
  ornament: null, measured: null, confidence: 1, placed_by: "heard", limb_by: "program",
} as Stroke;

beforeEach(() => {
  setActivePinia(createPinia());
  const song = useSong();
  song.shown = {
    score: { meters: ["4/4"], pulse: [0, 1, 2, 3, 4], swing: ["none", 0.5], strokes: [hat], sections: [], title: "", artist: "" },
  } as never;
  edits = [];
  vi.spyOn(song, "edit").mockImplementation(({ operation, ...fields }) => {
    edits.push([operation, fields]);
  });
  vi.spyOn(song, "editMany").mockImplementation((all) => {
    for (const { operation, ...fields } of all) edits.push([operation, fields]);
  });
  writing = useWriting(ref(1));
});

describe("writing by key", () => {
  it("writes a part at the cursor with the limb that plays it", () => {
    writing.moveCursor(1); // the cursor appears at 1
    writing.moveCursor(1); // 1e
    writing.usePart("kick");
    expect(edits[0]).toMatchObject(["add_stroke", { bar: 1, place: "1/4", part: "kick", limb: "RF" }]);
    writing.moveLimb(1); // to the left hand
    writing.usePart("snare");
    expect(edits[1]).toMatchObject(["add_stroke", { part: "snare", limb: "LH" }]);
  });
  it("takes a part away where it stands already", () => {
    writing.setGrid(2);
    writing.moveCursor(1);
    writing.moveCursor(1);
    writing.usePart("hat_closed");
    expect(edits).toEqual([["remove_stroke", { id: "hat" }]]);
  });
  it("keeps the cursor's place when the grid changes, and stays in the bar", () => {
    writing.moveCursor(1);
    for (let i = 0; i < 99; i++) writing.moveCursor(1);
    expect(writing.cursor.value!.place).toBe(15 / 4);
    writing.setGrid(6);
    expect(writing.cursor.value!.place).toBeCloseTo(3.83, 1);
    for (let i = 0; i < 99; i++) writing.moveCursor(-1);
    expect(writing.cursor.value!.place).toBe(0);
  });
});

describe("the chosen stroke", () => {
  beforeEach(() => {
    writing.setGrid(4);
    writing.choose(["hat"]);
  });
  it("moves, changes its part, loudness and limb, and goes", () => {
    writing.nudge(1);
    writing.takePart("ride");
    writing.nextDynamic();
    writing.otherLimb();
    writing.remove();
    expect(edits).toEqual([
      ["move_stroke", { id: "hat", bar: 1, place: "3/4" }],
      ["set_part", { id: "hat", part: "ride" }],
      ["set_dynamic", { id: "hat", dynamic: "accent" }],
      ["set_limb", { id: "hat", limb: "LH" }],
      ["remove_stroke", { id: "hat" }],
    ]);
    expect(writing.chosen.value).toEqual([]);
  });
  it("is let go by a click on a free place, and only the next click writes", () => {
    writing.click(1, "LH", 2);
    expect(edits).toHaveLength(0);
    writing.click(1, "LH", 2.02);
    expect(edits[0]).toMatchObject(["add_stroke", { place: "2", part: "snare", limb: "LH" }]);
  });
});

describe("writing fast", () => {
  it("fills a bar with a part by two keys, ghosts and accents by one more", () => {
    writing.setGrid(4);
    writing.isFilling.value = true;
    writing.usePart("ride");
    expect(edits).toHaveLength(16);
    expect(edits[1]).toMatchObject(["add_stroke", { place: "1/4", part: "ride", limb: "RH" }]);
    writing.setTouch("ghost");
    writing.moveCursor(1);
    writing.usePart("snare");
    expect(edits[16]).toMatchObject(["add_stroke", { part: "snare", dynamic: "ghost" }]);
  });
  it("steps on by itself where that is wanted", () => {
    writing.isStepping.value = true;
    writing.moveCursor(1);
    writing.usePart("kick");
    writing.usePart("kick");
    expect(edits.map(([, a]) => a.place)).toEqual(["0", "1/4"]);
  });
  it("copies chosen strokes to the cursor, and a whole bar over another", () => {
    writing.choose(["hat"]);
    writing.copy();
    writing.moveCursor(1);
    writing.moveCursor(1);
    writing.moveCursor(1);
    writing.paste();
    expect(edits).toHaveLength(0); // its place is taken by the hat itself
    writing.moveCursor(1);
    writing.paste();
    expect(edits[0]).toMatchObject(["add_stroke", { bar: 1, place: "3/4", part: "hat_closed" }]);
    edits = [];
    writing.leave();
    writing.copy();
    writing.paste();
    expect(edits.map(([operation]) => operation)).toEqual(["remove_stroke", "add_stroke"]);
  });
  it("moves chosen strokes along, but none out of the song", () => {
    writing.choose(["hat"]);
    writing.nudge(-2);
    expect(edits).toEqual([["move_stroke", { id: "hat", bar: 1, place: "0" }]]);
    writing.nudge(-3);
    expect(edits).toHaveLength(1);
  });
  it("sets ornament, doubt and choking of all that is chosen", () => {
    writing.choose(["hat"]);
    writing.nextOrnament();
    writing.nextDoubt();
    writing.choke();
    expect(edits).toEqual([
      ["set_ornament", { id: "hat", ornament: "flam" }],
      ["set_doubt", { id: "hat", doubt: "doubtful" }],
      ["set_choked", { id: "hat", choked: true }],
    ]);
  });
});

it("a click outside the bar writes nothing, and a foot lane gets a foot's part", () => {
  writing.click(1, "RH", 4.4);
  expect(edits).toHaveLength(0);
  writing.click(1, "LF", 1);
  expect(edits[0]).toMatchObject(["add_stroke", { part: "hat_foot", limb: "LF" }]);
});

it("every part has a key of its own", () => {
  const keys = Object.values(PART_KEYS);
  expect(new Set(keys).size).toBe(keys.length);
  expect(keys.length).toBeGreaterThan(20);
});
