import { beforeEach, describe, expect, it } from "vitest";
import type { Stroke, StrokeEdit } from "@/api/client";
import { KEYS, SCOPES, type Key } from "@/keys/table";
import { answersTo, type World } from "./commands";

const SECTIONS = [
  { name: "Intro", first_bar: 1, bars: 4 },
  { name: "Verse", first_bar: 5, bars: 8 },
  { name: "Chorus", first_bar: 13, bars: 8 },
  { name: "Verse", first_bar: 21, bars: 8 },
  { name: "Chorus", first_bar: 29, bars: 8 },
];
let done: unknown[];
let world: World;
const stroke = (id: string, bar: number, part: string, dynamic: string, loudness: number) =>
  ({ id, bar, part, dynamic, loudness, doubt: "", place: "0" }) as unknown as Stroke;
beforeEach(() => {
  done = [];
  const doable = SCOPES.filter((s) => s === "desk" || s === "bench").flatMap((scope) =>
    Object.entries(KEYS[scope] as Record<string, Key>).map(([action, k]) => ({ scope, action, does: k.does, run: (which: number) => void done.push([action, which]) })),
  );
  world = {
    bars: 36, bar: 6, sections: SECTIONS, mayEdit: true, doable,
    strokes: [
      stroke("a", 5, "snare", "ghost", 0.3), stroke("b", 6, "snare", "ghost", 0.2), stroke("c", 6, "snare", "accent", 0.9),
      stroke("d", 30, "hat_closed", "normal", 0.6), stroke("e", 30, "hat_open", "accent", 1), stroke("f", 6, "tom_floor", "normal", 0.6),
    ],
    go: (bar) => done.push(["go", bar]),
    loop: (first, last) => done.push(["loop", first, last]),
    speed: (share) => done.push(["speed", share]),
    edit: (edits) => done.push(edits),
  };
});
const first = (said: string) => {
  const [answer] = answersTo(said, world);
  answer?.run();
  return answer?.says;
};

describe("what is said in words", () => {
  it.each([
    ["bar 34", ["go", 34]], ["go to bar 7", ["go", 7]], ["12", ["go", 12]], ["Chorus 2", ["go", 29]], ["go to chorus 2", ["go", 29]],
    ["last verse", ["go", 21]], ["intro", ["go", 1]], ["loop bars 5 to 8", ["loop", 5, 8]], ["loop 5-8", ["loop", 5, 8]],
    ["loop bar 3", ["loop", 3, 3]], ["loop the chorus", ["loop", 13, 20]], ["60 %", ["speed", 0.6]], ["slower to 70", ["speed", 0.7]],
    ["loop phrase", ["loopPhrase", 0]], ["undo", ["undo", 0]], ["to the chart", ["chart", 0]], ["count in", ["countIn", 0]],
    ["copy", ["copy", 0]], ["next bar", ["bar", 1]],
  ])("%s", (said, what) => {
    first(said);
    expect(done).toEqual([what]);
  });
  it("a bar that the song has not is told, and nothing done", () => {
    expect(first("bar 99")).toBe("The song has 36 bars");
    expect(done).toEqual([]);
  });
  it.each<[string, string[], Partial<StrokeEdit>]>([
    ["all ghosts softer", ["a", "b"], { operation: "set_loudness" }],
    ["all ghosts in this bar louder", ["b"], { operation: "set_loudness" }],
    ["all hats normal", ["e"], { operation: "set_dynamic" }],
    ["make all the accents normal", ["c", "e"], { operation: "set_dynamic" }],
    ["every snare in this section to ghosts", ["c"], { operation: "set_dynamic" }],
    ["all toms left out", ["f"], { operation: "set_doubt" }],
    ["all strokes of bar 30 accented", ["d"], { operation: "set_dynamic" }],
    ["all open hats softer", ["e"], { operation: "set_loudness" }],
  ])("%s", (said, ids, edit) => {
    const says = first(said);
    const edits = done[0] as StrokeEdit[];
    expect(edits.map((e) => e.id)).toEqual(ids);
    expect(edits[0]).toMatchObject(edit);
    expect(says).toContain(`${ids.length} stroke`);
  });
  it("softer is a fifth softer, and nothing gets louder than all", () => {
    first("all ghosts softer");
    expect(done[0]).toMatchObject([{ loudness: 0.24 }, { loudness: 0.16 }]);
    done = [];
    first("all open hats louder");
    expect(done).toEqual([]);
  });
  it("whoever only plays a song changes nothing", () => {
    world.mayEdit = false;
    expect(first("all ghosts softer")).toContain("play along");
    expect(done).toEqual([]);
  });
  it("the key that does the same stands beside", () => {
    expect(answersTo("loop phrase", world)[0]).toMatchObject({ key: ")", says: "Loop this phrase" });
  });
  it("nonsense has no answer", () => {
    expect(answersTo("qwertz uiop", world)).toEqual([]);
    expect(answersTo("   ", world)).toEqual([]);
  });
});
