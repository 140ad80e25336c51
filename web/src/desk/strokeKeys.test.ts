import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { effectScope, ref, type EffectScope } from "vue";
import { PARTS } from "@/kit";
import { PART_KEYS, PART_OF, useStrokeKeys, type Bench } from "./strokeKeys";

describe("the keys of the parts", () => {
  it("gives every part a key of its own", () => {
    expect(Object.keys(PART_KEYS).sort()).toEqual(PARTS.map((p) => p.name).sort());
    expect(new Set(Object.values(PART_KEYS)).size).toBe(PARTS.length);
  });
  it("leads back from the key to the part", () => {
    for (const p of PARTS) expect(PART_OF[PART_KEYS[p.name]!]).toBe(p.name);
  });
});

let scope: EffectScope;
let calls: string[];
const isReviewing = ref(false);

/** Notes every call of anything. */
function notes(name: string, more: object): never {
  return new Proxy(more, {
    get: (own: Record<string, unknown>, key: string) =>
      own[key] ?? ((...args: unknown[]) => void calls.push([`${name}.${key}`, ...args].join(" "))),
  }) as never;
}

beforeEach(() => {
  calls = [];
  isReviewing.value = false;
  scope = effectScope();
  const writing = notes("writing", {
    grid: ref(4), stroke: ref(null), isStepping: ref(false), isFilling: ref(false),
    GRIDS: [{ key: "2", parts: 2 }, { key: "6", parts: 6 }],
  });
  const bench = notes("bench", { bar: ref(9) }) as Bench;
  scope.run(() => useStrokeKeys(writing, notes("review", { isOn: isReviewing }), bench));
});
afterEach(() => scope.stop());

function press(key: string, more: KeyboardEventInit = {}, on: EventTarget = document.body): boolean {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more });
  on.dispatchEvent(event);
  return event.defaultPrevented;
}

describe("a key on the Bench", () => {
  it.each([
    ["s", "writing.usePart snare"],
    ["S", "writing.usePart rimshot"],
    ["ArrowRight", "writing.moveCursor 1"],
    ["ArrowUp", "writing.moveLimb -1"],
    ["6", "writing.setGrid 6"],
    ["g", "writing.setTouch ghost"],
    ["]", "bench.go 10"],
    ["=", "bench.confirm"],
    ["Delete", "writing.remove"],
    ["j", "bench.show compare"],
  ])("%s does one thing", (key, call) => {
    expect(press(key)).toBe(true);
    expect(calls).toEqual([call]);
  });
  it("goes by beats with shift", () => {
    press("ArrowLeft", { shiftKey: true });
    expect(calls).toEqual(["writing.moveCursor -4"]);
  });
  it("copies, cuts and pastes with Control, and leaves the browser its own", () => {
    press("x", { ctrlKey: true });
    expect(calls).toEqual(["writing.copy", "writing.remove"]);
    expect(press("p", { ctrlKey: true })).toBe(false);
    expect(press("s", { altKey: true })).toBe(false);
  });
  it("is let through where somebody types", () => {
    const field = document.body.appendChild(document.createElement("input"));
    expect(press("s", {}, field)).toBe(false);
    expect(calls).toEqual([]);
    field.remove();
  });
  it("leaves shifted digits to the views and the ear, and Tab to the page without a stroke", () => {
    expect(press("!", { code: "Digit1", shiftKey: true })).toBe(false);
    expect(press("Tab")).toBe(false);
  });
});

describe("a key in review", () => {
  beforeEach(() => void (isReviewing.value = true));
  it.each([
    ["Enter", "review.right"],
    ["Delete", "review.wrong"],
    ["L", "review.leaveOut"],
    ["D", "review.keepDoubtful"],
    ["]", "review.skip"],
    ["[", "review.back"],
    ["ArrowLeft", "review.nextBar -1"],
    ["s", "review.change snare"],
    ["Escape", "review.stop"],
  ])("%s is an answer", (key, call) => {
    press(key);
    expect(calls).toEqual([call]);
  });
  it("is no answer where it is none", () => {
    press("=");
    expect(calls).toEqual(["bench.confirm"]);
  });
});
