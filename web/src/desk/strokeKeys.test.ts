import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { effectScope, ref, type EffectScope } from "vue";
import { KEYS } from "@/keys/table";
import { useStrokeKeys, type Bench } from "./strokeKeys";

let scope: EffectScope;
let calls: string[];
const [isReviewing, isStepping, isFilling] = [ref(false), ref(false), ref(false)];

/** Notes every call of anything. */
function notes(name: string, more: object): never {
  return new Proxy(more, {
    get: (own: Record<string, unknown>, key: string) =>
      own[key] ?? ((...args: unknown[]) => void calls.push([`${name}.${key}`, ...args.filter((a) => typeof a !== "object")].join(" "))),
  }) as never;
}

beforeEach(() => {
  calls = [];
  isReviewing.value = isStepping.value = isFilling.value = false;
  scope = effectScope();
  const writing = notes("writing", { grid: ref(4), stroke: ref(null), isStepping, isFilling });
  const bench = notes("bench", { bar: ref(9) }) as Bench;
  scope.run(() => useStrokeKeys(writing, notes("review", { isOn: isReviewing }), bench));
});
afterEach(() => scope.stop());

function press(key: string, more: KeyboardEventInit = {}): boolean {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more });
  document.body.dispatchEvent(event);
  return event.defaultPrevented;
}

describe("a key on the Bench", () => {
  it.each([
    ["s", "writing.usePart snare"], ["S", "writing.usePart rimshot"],
    ["ArrowRight", "writing.moveCursor 1"], ["ArrowUp", "writing.moveLimb -1"],
    ["6", "writing.setGrid 6"], ["g", "writing.setTouch ghost"], ["v", "writing.setTouch accent"],
    [">", "bench.go 10"], ["<", "bench.go 8"], ["=", "bench.confirm"], ["1", "bench.nextView"], ["9", "bench.zoom"],
    [",", "writing.nudge -1"], ["/", "writing.nudge 1"], ["Delete", "writing.remove"], ["Backspace", "writing.remove"],
    ["y", "bench.show text"], ["j", "bench.show compare"], ["Q", "bench.show review"], ["Y", "bench.tap"],
    [";", "bench.applyAll"], [":", "bench.pickAlike"], ["7", "bench.perhaps"],
  ])("%s does one thing", (key, call) => {
    expect(press(key)).toBe(true);
    expect(calls.map((c) => c.slice(0, call.length))).toEqual([call]);
  });
  it("goes by beats with shift, and cuts by copying first", () => {
    press("ArrowLeft", { shiftKey: true });
    press("x", { ctrlKey: true });
    expect(calls.map((c) => c.split(" 0")[0])).toEqual(["writing.moveCursor -4", "writing.copy", "writing.remove"]);
  });
  it("turns stepping and filling on and off, and never lets the key go on", () => {
    for (const key of ["m", "u", "m"]) expect(press(key)).toBe(true);
    expect([isStepping.value, isFilling.value]).toEqual([false, true]);
  });
  it("leaves Tab to the page without a stroke", () => expect(press("Tab")).toBe(false));
  it("has something to do for every row of the table", () => {
    for (const row of Object.values(KEYS.bench)) {
      if (row === KEYS.bench.otherLimb) continue;
      const name = row.keys[0]!;
      const [, held, key] = /^(Ctrl|Shift)?\+?(.+)$/.exec(name)!;
      expect(press(key!, { ctrlKey: held === "Ctrl", shiftKey: held === "Shift" }), name).toBe(true);
    }
  });
});

describe("a key in review", () => {
  beforeEach(() => void (isReviewing.value = true));
  it.each([
    ["Enter", "review.right"], ["Delete", "review.wrong"], ["L", "review.leaveOut"], ["D", "review.keepDoubtful"],
    [">", "review.skip"], ["<", "review.back"], ["ArrowLeft", "review.nextBar -1"], ["s", "review.change snare"],
    ["Escape", "review.stop"], ["Q", "review.stop"],
  ])("%s is an answer", (key, call) => {
    press(key);
    expect(calls.map((c) => c.slice(0, call.length))).toEqual([call]);
  });
  it("is no answer where it is none", () => {
    press("=");
    expect(calls[0]).toMatch(/^bench.confirm/);
  });
});
