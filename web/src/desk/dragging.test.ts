import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ref } from "vue";
import type { Stroke } from "@/api/client";
import { useSong } from "@/stores/song";
import { useDragging } from "./dragging";
import type { Writing } from "./writing";

const snare = { id: "a", bar: 1, place: "1", part: "snare", limb: "LH", loudness: 0.5 } as Stroke;
const kick = { id: "k", bar: 1, place: "0", part: "kick", limb: "RF", loudness: 0.5 } as Stroke;
const BEAT = 80; // pixels
const REACH = 100;
let edits: Record<string, unknown>[];
let clicked: unknown[][];
let dragging: ReturnType<typeof useDragging>;
const chosen = ref<string[]>([]);

function at(kind: string, x: number, y: number): PointerEvent {
  return Object.assign(new Event(kind), { pointerId: 1, clientX: x, clientY: y }) as unknown as PointerEvent;
}
const down = (x: number, y: number, more: object = {}) =>
  ({ pointerId: 1, clientX: x, clientY: y, shiftKey: false, target: document.body, ...more }) as unknown as PointerEvent;
const move = (x: number, y: number) => window.dispatchEvent(at("pointermove", x, y));
const letGo = () => window.dispatchEvent(at("pointerup", 0, 0));

beforeEach(() => {
  setActivePinia(createPinia());
  const song = useSong();
  song.shown = { score: { meters: ["4/4"], pulse: [0, 1, 2, 3, 4], swing: ["none", 0.5], strokes: [snare, kick], sections: [] } } as never;
  [edits, clicked, chosen.value] = [[], [], []];
  vi.spyOn(song, "edit").mockImplementation((e) => void edits.push(e));
  const writing = {
    chosen, grid: ref(4), choose: (ids: string[]) => (chosen.value = ids),
    click: (...args: unknown[]) => void clicked.push(args),
  };
  dragging = useDragging(writing as unknown as Writing);
});
const grab = (own: Stroke, more: object = {}) => dragging.grab(own, down(100, 100, more), BEAT, REACH);

describe("a stroke under the pointer", () => {
  it("is chosen where it is pressed, and nothing else happens", () => {
    grab(snare);
    move(103, 102);
    letGo();
    expect(chosen.value).toEqual(["a"]);
    expect(edits).toEqual([]);
  });

  it("moves along the bar by the grid, and never out of it", () => {
    grab(snare);
    move(100 + 0.8 * BEAT, 104);
    expect(dragging.dragged.value).toEqual({ id: "a", place: "7/4", loudness: 0.5 });
    move(100 + 9 * BEAT, 104);
    letGo();
    expect(edits).toEqual([{ operation: "move_stroke", id: "a", bar: 1, place: "15/4" }]);
    expect(dragging.dragged.value).toBeNull();
  });

  it("stays where it is if it was hardly moved, also between the lines of the grid", () => {
    grab({ ...snare, place: "4/3" } as Stroke);
    move(100 + 0.1 * BEAT, 100);
    letGo();
    expect(edits).toEqual([]);
  });

  it("gets louder upward for a hand, downward for a foot", () => {
    grab(snare);
    move(101, 80);
    letGo();
    grab(kick);
    move(101, 80);
    letGo();
    expect(edits).toEqual([
      { operation: "set_loudness", id: "a", loudness: 0.7 },
      { operation: "set_loudness", id: "k", loudness: 0.3 },
    ]);
  });

  it("keeps the way of its first pixels: what goes up does not slip aside", () => {
    grab(snare);
    move(101, 90);
    move(180, 60);
    letGo();
    expect(edits).toEqual([{ operation: "set_loudness", id: "a", loudness: 0.9 }]);
  });

  it("is never silent and never louder than full", () => {
    grab(snare);
    move(100, 300);
    expect(dragging.dragged.value!.loudness).toBe(0.08);
    move(100, -300);
    expect(dragging.dragged.value!.loudness).toBe(1);
    letGo();
  });

  it("does nothing where the touch was taken away", () => {
    grab(snare);
    move(180, 100);
    window.dispatchEvent(at("pointercancel", 180, 100));
    expect([edits, dragging.dragged.value]).toEqual([[], null]);
  });

  it("joins the chosen ones with Shift, and leaves them with Shift again", () => {
    grab(snare);
    letGo();
    grab(kick, { shiftKey: true });
    expect(chosen.value).toEqual(["a", "k"]);
    grab(snare, { shiftKey: true });
    expect(chosen.value).toEqual(["k"]);
  });
});

describe("a free place under the pointer", () => {
  it("is written on by a click", () => {
    dragging.sweep(down(10, 10), 2, "RH", 1.5);
    move(13, 11);
    letGo();
    expect(clicked).toEqual([[2, "RH", 1.5]]);
  });

  it("begins a box that chooses what lies in it", () => {
    document.body.innerHTML = '<svg class="spines"><g data-stroke="in"></g><g data-stroke="out"></g></svg>';
    const rects: Record<string, [number, number]> = { in: [40, 40], out: [140, 40] };
    for (const el of document.querySelectorAll<SVGGElement>("[data-stroke]")) {
      const [left, top] = rects[el.dataset.stroke!]!;
      el.getBoundingClientRect = () => ({ left, top, width: 10, height: 10 }) as DOMRect;
    }
    dragging.sweep(down(100, 80), 2, "RH", 1.5);
    move(20, 20);
    expect(dragging.box.value).toEqual({ left: 20, top: 20, width: 80, height: 60 });
    letGo();
    expect([chosen.value, clicked, dragging.box.value]).toEqual([["in"], [], null]);
  });
});
