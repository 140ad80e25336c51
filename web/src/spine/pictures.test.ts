/** The small pictures: what they draw for what they are given, and what a click on them says. */
import { afterEach, describe, expect, it } from "vitest";
import { createApp, h, type App, type Component } from "vue";
import type { Stroke } from "@/api/client";
import SoundPicture from "@/desk/SoundPicture.vue";
import { PICTURE } from "@/kit";
import { Clock } from "@/score/time";
import CellBrackets from "./CellBrackets.vue";
import PlacementStrip from "./PlacementStrip.vue";
import SpineThumb from "./SpineThumb.vue";

const clock = new Clock({
  meters: ["4/4", "4/4"], pulse: Array.from({ length: 9 }, (_, k) => k / 2), swing: ["none", 0.5],
});
let app: App | null = null;
afterEach(() => app?.unmount());

function shown(component: Component, props: object): HTMLElement {
  const root = document.createElement("div");
  app = createApp({ render: () => h(component, props) });
  app.mount(root);
  return root;
}
const all = (root: HTMLElement, selector: string) => [...root.querySelectorAll(selector)];
const click = (el: Element) => el.dispatchEvent(new MouseEvent("click", { bubbles: true }));

describe("brackets over a fill", () => {
  const cell = (strokes: number, turns: number, starts: [number, string][]) => ({
    strokes, turns, bar: starts[0]![0], place: starts[0]![1], starts: starts.map(([bar, place]) => ({ bar, place })),
  });
  const props = { first: 1, last: 2, endPlace: "4", clock, width: 400 };
  /** Left and right end of every bracket. */
  const ends = (root: HTMLElement) =>
    all(root, "path").map((p) => /M([\d.]+) 21V11H([\d.]+)V21/.exec(p.getAttribute("d")!)!.slice(1).map(Number));

  it("draws each turn with its count, one after the other", () => {
    const root = shown(CellBrackets, { ...props, cells: [cell(6, 2, [[1, "0"], [1, "3/2"]])] });
    const [first, second] = ends(root);
    expect(all(root, "text").map((t) => t.textContent)).toEqual(["6", "6"]);
    expect(first![1]).toBeLessThan(second![0]!);
    expect(first![0]).toBeLessThan(first![1]!);
  });
  it("draws the rest of a turn as a part", () => {
    const root = shown(CellBrackets, { ...props, cells: [cell(6, 2, [[1, "0"], [1, "3/2"], [1, "3"]])] });
    expect(all(root, "g").map((g) => g.classList.contains("part"))).toEqual([false, false, true]);
  });
  it("ends a cell where the next one begins, also over a bar line", () => {
    const root = shown(CellBrackets, {
      ...props, cells: [cell(3, 1, [[1, "3"]]), cell(5, 1, [[2, "1"]])],
    });
    const [first, second] = ends(root);
    expect(first![1]).toBeCloseTo(second![0]! - 5);
    expect(second![0]).toBeGreaterThan(400);
  });
  it("says in words what it draws", () => {
    const svg = shown(CellBrackets, { ...props, cells: [cell(6, 2, [[1, "0"]])] }).querySelector("svg")!;
    expect(svg.getAttribute("aria-label")).toBe("6 strokes, 2 times");
    app!.unmount();
    expect(shown(CellBrackets, { ...props, cells: [] }).querySelector("svg")!.getAttribute("aria-label")).toBe("no cell");
  });
});

describe("the placement of strokes", () => {
  const points = (voice: string, place: string, ms: number, count = 5) =>
    Array.from({ length: count }, (_, k) => ({ id: `${voice}${place}${k}`, voice, place, ms, db: 0, bar: k + 1 }));
  const props = (own: object[], placement: object[] = []) => ({
    points: own, placement, beats: 4, isCompound: false, width: 900,
  });
  const x = (el: Element) => Number(el.getAttribute("cx"));

  it("draws late strokes to the right of early ones, and no further than its column", () => {
    const root = shown(PlacementStrip, props([...points("backbeat", "1", 12), ...points("kick", "1", -12), ...points("ghosts", "1", 900)]));
    const row = (limb: string) => all(root, `g.${limb} circle`).map(x);
    const middle = Number(root.querySelector("line.middle")!.getAttribute("x1"));
    expect(Math.min(...row("lh"))).toBeGreaterThan(middle);
    expect(Math.max(...row("rf"))).toBeLessThan(middle);
    expect(Math.max(...row("lh")) - middle).toBeLessThanOrEqual(34);
  });
  it("leaves out places and voices of fewer than three strokes", () => {
    const root = shown(PlacementStrip, props([...points("backbeat", "1", 5), ...points("kick", "1", 5, 2), ...points("backbeat", "7/4", 0, 2)]));
    expect(all(root, "text.voice").map((t) => t.textContent)).toEqual(["backbeat"]);
    expect(all(root, "line.middle")).toHaveLength(1);
  });
  it("tells the median of a voice with its sign", () => {
    const known = { voice: "backbeat", ms: -4.25, places: [{ place: "1", ms: -4.25, count: 5 }] };
    const root = shown(PlacementStrip, props(points("backbeat", "1", -4.25), [known]));
    expect(root.querySelector("text.ms")!.textContent).toBe("−4.3 ms");
    expect(all(root, "line.median")).toHaveLength(1);
  });
  it("thins a cloud of thousands", () => {
    const root = shown(PlacementStrip, props(points("time hand", "0", 1, 2000)));
    expect(all(root, "circle").length).toBeGreaterThan(500);
    expect(all(root, "circle").length).toBeLessThanOrEqual(900);
  });
  it("plays the stroke that is clicked", () => {
    const played: unknown[] = [];
    const root = shown(PlacementStrip, { ...props(points("backbeat", "1", 3)), onPlay: (...at: unknown[]) => played.push(at) });
    click(all(root, "circle")[2]!);
    expect(played).toEqual([[3, "1"]]);
  });
});

describe("a bar very small", () => {
  const stroke = (place: string, part: string, limb: string, loudness = 0.7, dynamic = "normal") =>
    ({ id: place + part, bar: 1, place, part, limb, loudness, dynamic }) as Stroke;
  const bar = [stroke("0", "kick", "RF"), stroke("1", "snare", "LH"), stroke("0", "hat_closed", "RH")];
  const drawn = (root: HTMLElement, limb: string) => root.querySelector(`g.${limb}:not(.quiet) path.stems`)?.getAttribute("d");

  it("draws hands upwards, feet downwards, and nothing for a limb that rests", () => {
    const root = shown(SpineThumb, { bar: 1, clock, strokes: bar });
    const way = (limb: string) => {
      const [, base, tip] = /M[\d.]+ ([\d.]+)V([\d.]+)/.exec(drawn(root, limb)!)!.map(Number);
      return Math.sign(tip! - base!);
    };
    expect([way("RH"), way("LH"), way("RF")]).toEqual([-1, -1, 1]);
    expect(drawn(root, "LF")).toBeUndefined();
  });
  it("draws a loud stroke longer than a soft one", () => {
    const root = shown(SpineThumb, { bar: 1, clock, strokes: [stroke("0", "snare", "LH", 0.3), stroke("1", "snare", "LH", 0.95)] });
    const [soft, loud] = [...drawn(root, "LH")!.matchAll(/M[\d.]+ ([\d.]+)V([\d.]+)/g)].map((m) => Number(m[1]) - Number(m[2]));
    expect(loud).toBeGreaterThan(soft! * 1.5);
  });
  it("keeps quiet what is as in the earlier bar", () => {
    const root = shown(SpineThumb, { bar: 1, clock, strokes: bar, different: new Set(["1 snare "]) });
    expect(all(root, "g.quiet").map((g) => g.classList[0])).toEqual(["RH", "RF"]);
    expect(drawn(root, "LH")).toBeTruthy();
  });
  it("tells a ghost from a full stroke at its place", () => {
    const root = shown(SpineThumb, { bar: 1, clock, strokes: [stroke("1", "snare", "LH", 0.3, "ghost")], different: new Set(["1 snare "]) });
    expect(all(root, "g.quiet")).toHaveLength(1);
  });
});

describe("the picture of a sound", () => {
  it("draws each loudness once, low at the bottom, nothing where it is silent", () => {
    const cells = Array(PICTURE.rows * PICTURE.columns).fill("0");
    cells[0] = cells[1] = "9"; // the lowest row, its first two columns
    cells[PICTURE.columns * (PICTURE.rows - 1)] = "3";
    const paths = all(shown(SoundPicture, { picture: cells.join("") }), "path");
    expect(paths.map((p) => p.getAttribute("opacity"))).toEqual(["1", String(3 / 9)]);
    const height = Number(paths[0]!.getAttribute("d")!.match(/^M0 (\d+)/)![1]);
    expect(height).toBeGreaterThan(20);
    expect(paths[1]!.getAttribute("d")).toMatch(/^M0 0h/);
  });
  it("is empty for a sound without one", () => {
    expect(all(shown(SoundPicture, { picture: "" }), "path")).toHaveLength(0);
  });
});
