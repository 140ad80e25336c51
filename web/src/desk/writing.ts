/** Writing on the spine: the cursor, the chosen strokes, the part in hand. */
import { computed, ref, shallowRef, type Ref } from "vue";
import type { PartName, Stroke, StrokeEdit } from "@/api/client";
import { LIMBS, ORNAMENTS, part as kitPart, type Limb } from "@/kit";
import { placeText, placeValue } from "@/score/time";
import { useSong } from "@/stores/song";
import { beatOf, copied, displaced, freshId, pasted, type Clip } from "./clipboard";

export const GRIDS = [
  { parts: 2, label: "8ths", key: "2" },
  { parts: 3, label: "Triplets", key: "3" },
  { parts: 4, label: "16ths", key: "4" },
  { parts: 5, label: "Quintuplets", key: "5" },
  { parts: 6, label: "Sextuplets", key: "6" },
  { parts: 8, label: "32nds", key: "8" },
];
export type Dynamic = Stroke["dynamic"];
const ORDER = ["ghost", "normal", "accent"] as const;
const DOUBTS = ["", "doubtful", "assumed", "left_out"] as const;
const OTHER: Record<Limb, Limb> = { RH: "LH", LH: "RH", RF: "LF", LF: "RF" };
const isFoot = (l: Limb) => l === "RF" || l === "LF";

export function useWriting(bar: Ref<number>) {
  const desk = useSong();
  const grid = ref(4);
  const chosen = ref<string[]>([]);
  const part = ref("snare");
  /** Loudness in hand: of the strokes that are written next. */
  const touch = ref<Dynamic>("normal");
  /** Whether the cursor goes on by itself behind a stroke. */
  const isStepping = ref(false);
  /** Whether the next part's key fills the bar. */
  const isFilling = ref(false);
  const steps = ref<number | null>(null); // the cursor, in steps of the grid
  const limb = ref<Limb>("RH");
  const clip = shallowRef<Clip | null>(null);

  const strokes = computed(() => {
    const wanted = new Set(chosen.value);
    return wanted.size ? (desk.score?.strokes.filter((s) => wanted.has(s.id)) ?? []) : [];
  });
  const stroke = computed(() => strokes.value[0] ?? null);
  const beats = computed(() => desk.clock!.meters[bar.value - 1]!.beats);
  const cursor = computed(() =>
    steps.value === null ? null : { place: steps.value / grid.value, limb: limb.value },
  );

  function leave(): void {
    chosen.value = [];
    isFilling.value = false;
  }
  function choose(ids: string[]): void {
    chosen.value = ids;
  }
  function moveCursor(by: number): void {
    const last = beats.value * grid.value - 1;
    steps.value = steps.value === null ? 0 : Math.min(Math.max(0, steps.value + by), last);
    chosen.value = [];
  }
  function moveLimb(by: number): void {
    steps.value ??= 0;
    const at = LIMBS.indexOf(limb.value) + by;
    limb.value = LIMBS[Math.min(Math.max(at, 0), 3)]!;
    chosen.value = [];
  }
  function setGrid(parts: number): void {
    if (steps.value !== null) steps.value = Math.round((steps.value / grid.value) * parts);
    grid.value = parts;
  }
  function inBar(): Stroke[] {
    return desk.byBar.get(bar.value) ?? [];
  }
  function here(): Stroke[] {
    const at = cursor.value;
    if (!at) return [];
    return inBar().filter((s) => Math.abs(placeValue(s.place) - at.place) < 1e-6);
  }
  function chooseHere(): void {
    const own = here();
    const found = own.find((s) => s.limb === limb.value) ?? own[0];
    chosen.value = found ? [found.id] : [];
  }
  function chooseAll(): void {
    chosen.value = inBar().map((s) => s.id);
  }

  function added(inBar: number, step: number, name: string, by: Limb): StrokeEdit {
    return {
      operation: "add_stroke", id: freshId(), bar: inBar, place: placeText(step, grid.value),
      part: name as PartName, limb: by, ...(touch.value === "normal" ? {} : { dynamic: touch.value }),
    };
  }
  /** A part at the step nearest to a place (beats) of a bar. */
  function write(name: string, toBar: number, at: number, by: Limb): void {
    const steps = desk.clock!.meters[toBar - 1]!.beats * grid.value;
    desk.edit(added(toBar, Math.min(Math.round(at * grid.value), steps - 1), name, by));
  }
  /** The limb in whose lane the cursor stands, if it can play the part. */
  function limbFor(name: string): Limb {
    const usual = kitPart(name).limb;
    return isFoot(usual) === isFoot(limb.value) && name !== "kick" ? limb.value : usual;
  }
  /** The part to write next; chosen strokes become it. True if any was changed. */
  function takePart(name: string): boolean {
    part.value = name;
    if (!strokes.value.length) return false;
    desk.editMany(
      strokes.value
        .filter((s) => s.part !== name)
        .map((s) => ({ operation: "set_part", id: s.id, part: name as PartName })),
    );
    return true;
  }
  /** A part's key: write it at the cursor, or take it away; chosen strokes become it. */
  function usePart(name: string): void {
    if (isFilling.value) return fill(name);
    if (takePart(name) || steps.value === null) return;
    const own = here().find((s) => s.part === name);
    if (own) desk.edit({ operation: "remove_stroke", id: own.id });
    else desk.edit(added(bar.value, steps.value, name, limbFor(name)));
    if (isStepping.value) moveCursor(1);
  }
  /** The part on every free step of the bar. */
  function fill(name: string): void {
    isFilling.value = false;
    part.value = name;
    const taken = new Set(inBar().filter((s) => s.part === name).map((s) => s.place));
    const free = Array.from({ length: beats.value * grid.value }, (_, k) => k).filter(
      (k) => !taken.has(placeText(k, grid.value)),
    );
    desk.editMany(free.map((k) => added(bar.value, k, name, limbFor(name))));
  }
  /** A click on a free place of a lane writes the part in hand there. */
  function click(inBar: number, by: Limb, at: number): void {
    const total = desk.clock!.meters[inBar - 1]!.beats;
    const step = Math.round(at * grid.value);
    if (step < 0 || step >= total * grid.value) return;
    if (chosen.value.length) {
      chosen.value = [];
      return;
    }
    limb.value = by;
    steps.value = step;
    const fits = isFoot(kitPart(part.value).limb) === isFoot(by);
    const name = fits ? part.value : by === "RF" ? "kick" : by === "LF" ? "hat_foot" : "snare";
    const made = added(inBar, step, name, by);
    desk.edit(made);
    chosen.value = [made.id];
  }

  /** The strokes that a key is meant for: the chosen ones, or that at the cursor. */
  function meant(): Stroke[] {
    if (strokes.value.length) return strokes.value;
    const own = here();
    const found = own.find((s) => s.limb === limb.value) ?? own[0];
    return found ? [found] : [];
  }
  function each(edit: (s: Stroke) => StrokeEdit): void {
    desk.editMany(meant().map(edit));
  }
  function nudge(by: number): void {
    desk.editMany(displaced(desk.clock!, strokes.value, by / grid.value));
  }
  function nextDynamic(): void {
    each((s) => ({ operation: "set_dynamic", id: s.id, dynamic: ORDER[(ORDER.indexOf(s.dynamic) + 1) % 3]! }));
  }
  /** Ghost or accent: of the chosen strokes, or of those that are written next. */
  function setTouch(dynamic: Dynamic): void {
    if (strokes.value.length) {
      each((s) => ({ operation: "set_dynamic", id: s.id, dynamic: s.dynamic === dynamic ? "normal" : dynamic }));
    } else touch.value = touch.value === dynamic ? "normal" : dynamic;
  }
  function nextOrnament(): void {
    const order = [null, ...ORNAMENTS];
    each((s) => ({
      operation: "set_ornament", id: s.id, ornament: order[(order.indexOf(s.ornament ?? null) + 1) % order.length] ?? null,
    }));
  }
  function nextDoubt(): void {
    each((s) => ({
      operation: "set_doubt", id: s.id, doubt: DOUBTS[(DOUBTS.indexOf(s.doubt === "layer" ? "" : (s.doubt ?? "")) + 1) % DOUBTS.length]!,
    }));
  }
  function choke(): void {
    each((s) => ({ operation: "set_choked", id: s.id, choked: !s.choked }));
  }
  function otherLimb(): void {
    each((s) => ({ operation: "set_limb", id: s.id, limb: OTHER[s.limb as Limb] }));
  }
  function remove(): void {
    each((s) => ({ operation: "remove_stroke", id: s.id }));
    chosen.value = [];
  }

  function copy(): void {
    const whole = strokes.value.length === 0;
    clip.value = copied(desk.clock!, whole ? inBar() : strokes.value, whole ? bar.value : null);
  }
  function paste(): void {
    if (!clip.value) return;
    const clock = desk.clock!;
    const place = clip.value.isBar ? 0 : (cursor.value?.place ?? 0);
    const from = clock.starts[bar.value - 1]! + place;
    const edits = pasted(clock, clip.value, from, (b) => desk.byBar.get(b) ?? []);
    desk.editMany(edits);
    chosen.value = clip.value.isBar ? [] : edits.filter((e) => e.operation === "add_stroke").map((e) => e.id);
  }
  /** Where in the bar the cursor or the chosen stroke stands, in beats. */
  const focus = computed(() =>
    stroke.value ? beatOf(desk.clock!, stroke.value) - desk.clock!.starts[bar.value - 1]! : (cursor.value?.place ?? 0),
  );

  return {
    GRIDS, grid, chosen, part, touch, isStepping, isFilling, cursor, stroke, strokes, limb, clip, focus,
    each, leave, choose, chooseAll, moveCursor, moveLimb, setGrid, chooseHere, takePart, usePart, write, fill, click, nudge,
    nextDynamic, setTouch, nextOrnament, nextDoubt, choke, otherLimb, remove, copy, paste,
  };
}

export type Writing = ReturnType<typeof useWriting>;
