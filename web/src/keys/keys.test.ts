import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { effectScope, type EffectScope } from "vue";
import { PARTS } from "@/kit";
import { PART_KEYS, PART_OF } from "./parts";
import { mine } from "./mine";
import { cap, exchanged, KEYS, markdown, partKey, row, SCOPES, shown, usersOf, type Key, type Scope } from "./table";
import { by, useKeys, type Handlers } from "./useKeys";

const rows = (scope: Scope) => Object.entries(KEYS[scope] as Record<string, Key>);

describe("the table", () => {
  it("has only keys that US, British, German and French keyboards have, without AltGr", () => {
    const signs = SCOPES.flatMap((s) => rows(s).flatMap(([, k]) => k.keys)).filter((k) => k.length === 1);
    expect(signs.filter((k) => !/^[a-zA-Z0-9 ,.;:\-+=/'"?!<>()_*&]$/.test(k))).toEqual([]);
  });
  it.each(SCOPES)("gives each key of %s one meaning", (scope) => {
    const keys = rows(scope).flatMap(([, k]) => k.keys);
    expect(keys.filter((k, n) => keys.indexOf(k) !== n)).toEqual([]);
  });
  it.each(["pulse", "map", "grooves", "fills", "feel", "bench"] as const)("takes no key from everywhere in %s", (scope) => {
    const everywhere = rows("desk").flatMap(([, k]) => k.keys);
    expect(rows(scope).flatMap(([, k]) => k.keys).filter((k) => everywhere.includes(k))).toEqual([]);
  });
  it("gives every part of the kit a key of its own, and leads back from it", () => {
    expect(Object.keys(PART_KEYS).sort()).toEqual(PARTS.map((p) => p.name).sort());
    expect(new Set(Object.values(PART_KEYS)).size).toBe(PARTS.length);
    for (const p of PARTS) expect(PART_OF[PART_KEYS[p.name]!]).toBe(p.name);
  });
  it("prints caps", () => {
    expect(["Ctrl+Z", "Ctrl+z", "Ctrl+Enter", "Shift+ArrowLeft", "+", " "].map(cap)).toEqual([
      "Ctrl Shift Z", "Ctrl Z", "Ctrl ⏎", "Shift ←", "+", "Space",
    ]);
  });
  it("is the page of the guide (npx vitest run src/keys -u writes it)", async () => {
    await expect(markdown()).toMatchFileSnapshot("../../../docs/keys.md");
  });
});

let calls: string[];
let scope: EffectScope;
const isOn = { review: false, playing: false };
/** Handlers that note which action was asked for. */
function noting<S extends Scope>(of: S, but: Partial<Handlers<S>> = {}): Handlers<S> {
  const made = rows(of).map(([name]) => [name, (_: unknown, which: number) => void calls.push(`${of}.${name} ${which}`)]);
  return { ...Object.fromEntries(made), ...but } as Handlers<S>;
}
beforeEach(() => {
  calls = [];
  isOn.review = isOn.playing = false;
  scope = effectScope();
  scope.run(() => {
    // The inner ones first: the table's order counts, not that of coming.
    useKeys("playing", noting("playing"), { isOn: () => isOn.playing, whereTyped: true });
    useKeys("review", noting("review"), { isOn: () => isOn.review });
    useKeys("bench", noting("bench", { otherLimb: () => false }));
    useKeys("desk", noting("desk"));
  });
});
afterEach(() => scope.stop());

function press(key: string, more: KeyboardEventInit = {}, on: EventTarget = document.body): boolean {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more });
  on.dispatchEvent(event);
  return event.defaultPrevented;
}

describe("a key", () => {
  it.each([
    ["s", {}, "bench.part 1"],
    ["S", { shiftKey: true }, "bench.part 3"],
    ["ArrowRight", {}, "bench.cursor 1"],
    ["ArrowLeft", { shiftKey: true }, "bench.cursorBeat 0"],
    ["2", { shiftKey: true }, "bench.grid 0"], // as a French keyboard writes digits
    ["z", { ctrlKey: true }, "desk.undo 0"],
    ["Z", { metaKey: true, shiftKey: true }, "desk.redo 0"],
    ["&", {}, "desk.countIn 0"],
    [" ", {}, "desk.play 0"],
  ])("%s does one thing", (key, more, call) => {
    expect(press(key, more)).toBe(true);
    expect(calls).toEqual([call]);
  });
  it("that nobody asks for, or with Alt, is the browser's", () => {
    expect(press("p", { ctrlKey: true })).toBe(false);
    expect(press("s", { altKey: true })).toBe(false);
    expect(press("F5")).toBe(false);
    expect(calls).toEqual([]);
  });
  it("goes on where a handler has nothing to do", () => {
    expect(press("Tab")).toBe(false);
  });
  it("is let through where somebody types, but while the part is played in", () => {
    const field = document.body.appendChild(document.createElement("textarea"));
    expect(press("s", {}, field)).toBe(false);
    isOn.playing = true;
    expect(press("s", {}, field)).toBe(true);
    expect(calls).toEqual(["playing.strike 1"]);
    field.remove();
  });
  it("is an answer first while the queue is walked, else what it is on the Bench", () => {
    isOn.review = true;
    for (const key of ["Enter", "s", "Q", "="]) press(key);
    expect(calls).toEqual(["review.right 0", "review.part 1", "review.stop 1", "bench.confirm 0"]);
  });
  it("is heard no longer once its view has gone", () => {
    scope.stop();
    expect(press("s")).toBe(false);
  });
});

describe("a key of one's own", () => {
  afterEach(() => (mine.value = {}));
  it("does what the usual one did, and is shown", () => {
    mine.value = exchanged("desk", "undo", 0, "F6");
    expect(shown(row("desk", "undo"))).toBe("F6");
    expect([press("F6"), press("z", { ctrlKey: true })]).toEqual([true, false]);
    expect(calls).toEqual(["desk.undo 0"]);
  });
  it("is exchanged with the row that had it", () => {
    mine.value = exchanged("bench", "ghost", 0, "v");
    press("v");
    press("g");
    expect(calls).toEqual(["bench.ghost 0", "bench.accent 0"]);
  });
  it("may be exchanged within its row", () => {
    mine.value = exchanged("bench", "bar", 0, ">");
    press(">");
    press("<");
    expect(calls).toEqual(["bench.bar 0", "bench.bar 1"]);
  });
  it("of a part holds wherever the part is written, and says which part it was", () => {
    const which = Object.keys(PART_KEYS).indexOf("snare");
    mine.value = exchanged("bench", "part", which, "Insert");
    expect(partKey("snare")).toBe("Insert");
    press("Insert");
    isOn.review = true;
    press("Insert");
    expect(calls).toEqual([`bench.part ${which}`, `review.part ${which}`]);
  });
  it("tells who has it already", () => {
    expect(usersOf("g", "bench").here).toEqual([{ scope: "bench", action: "ghost", which: 0 }]);
    expect(usersOf("!", "bench").elsewhere).toEqual([{ scope: "desk", action: "click", which: 0 }]);
    expect(usersOf("F7", "bench")).toEqual({ here: [], elsewhere: [] });
  });
  it("of an older table is no more", () => {
    mine.value = { "bench.bar": ["x"] };
    expect(row("bench", "bar").keys).toEqual(["<", ">"]);
  });
});

it("back and on are told by which key it was", () => {
  expect([by(0), by(1)]).toEqual([-1, 1]);
});
