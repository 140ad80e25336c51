/** Writing on the spine: the cursor, the chosen stroke, the part in hand, and dragging. */
import { computed, ref, type Ref } from "vue";
import type { Stroke } from "@/api/client";
import { LIMBS, usualLimb, type Limb } from "@/kit";
import { placeText, placeValue } from "@/score/time";
import { useSong } from "@/stores/song";

export const GRIDS = [
  { parts: 2, label: "8ths", key: "2" },
  { parts: 3, label: "Triplets", key: "3" },
  { parts: 4, label: "16ths", key: "4" },
  { parts: 6, label: "Sextuplets", key: "6" },
];
const ORDER = ["ghost", "normal", "accent"] as const;
const OTHER: Record<Limb, Limb> = { RH: "LH", LH: "RH", RF: "LF", LF: "RF" };
const NEAR = 0.5; // of a grid step

export function useWriting(bar: Ref<number>) {
  const desk = useSong();
  const grid = ref(4);
  const selected = ref<string | null>(null);
  const part = ref("snare");
  const steps = ref<number | null>(null); // the cursor, in steps of the grid
  const limb = ref<Limb>("RH");

  const stroke = computed(() => desk.score?.strokes.find((s) => s.id === selected.value) ?? null);
  const beats = computed(() => desk.clock!.meters[bar.value - 1]!.beats);
  const cursor = computed(() =>
    steps.value === null ? null : { place: steps.value / grid.value, limb: limb.value },
  );

  function leave(): void {
    selected.value = null;
  }
  function moveCursor(by: number): void {
    const last = beats.value * grid.value - 1;
    steps.value = steps.value === null ? 0 : Math.min(Math.max(0, steps.value + by), last);
    selected.value = null;
  }
  function moveLimb(by: number): void {
    steps.value ??= 0;
    const at = LIMBS.indexOf(limb.value) + by;
    limb.value = LIMBS[Math.min(Math.max(at, 0), 3)]!;
    selected.value = null;
  }
  function setGrid(parts: number): void {
    if (steps.value !== null) steps.value = Math.round((steps.value / grid.value) * parts);
    grid.value = parts;
  }
  function here(): Stroke[] {
    const at = cursor.value;
    if (!at) return [];
    return (desk.byBar.get(bar.value) ?? []).filter((s) => Math.abs(placeValue(s.place) - at.place) < 1e-6);
  }
  function chooseHere(): void {
    const own = here();
    selected.value = (own.find((s) => s.limb === limb.value) ?? own[0])?.id ?? null;
  }

  function add(inBar: number, at: number, name: string, by: Limb): void {
    const id = `w${Date.now().toString(36)}${Math.floor(Math.random() * 1e6).toString(36)}`;
    const place = placeText(Math.round(at * grid.value), grid.value);
    desk.edit("add_stroke", { id, bar: inBar, place, part: name, limb: by });
    selected.value = id;
  }
  /** The part to write next; a chosen stroke becomes it. True if a stroke was changed. */
  function takePart(name: string): boolean {
    part.value = name;
    if (!stroke.value) return false;
    if (stroke.value.part !== name) desk.edit("set_part", { id: stroke.value.id, part: name });
    return true;
  }
  /** A part's key: write it at the cursor, or take it away; a chosen stroke becomes it. */
  function usePart(name: string): void {
    if (takePart(name) || steps.value === null) return;
    const own = here().find((s) => s.part === name);
    if (own) desk.edit("remove_stroke", { id: own.id });
    else {
      const usual = usualLimb(name);
      const isFoot = (l: Limb) => l === "RF" || l === "LF";
      const by = isFoot(usual) === isFoot(limb.value) && name !== "kick" ? limb.value : usual;
      add(bar.value, cursor.value!.place, name, by);
      selected.value = null;
    }
  }
  /** A click on a free place of a lane writes the part in hand there. */
  function click(inBar: number, by: Limb, at: number): void {
    const total = desk.clock!.meters[inBar - 1]!.beats;
    const step = Math.round(at * grid.value);
    if (step < 0 || step >= total * grid.value) return;
    if (selected.value) {
      selected.value = null;
      return;
    }
    limb.value = by;
    steps.value = step;
    const isFootLane = by === "RF" || by === "LF";
    const inHand = usualLimb(part.value);
    const fits = (inHand === "RF" || inHand === "LF") === isFootLane;
    add(inBar, step / grid.value, fits ? part.value : by === "RF" ? "kick" : by === "LF" ? "hat_foot" : "snare", by);
  }

  /** Choose a stroke; dragging it moves it along the bar, by the grid. */
  function grab(own: Stroke, event: PointerEvent, width: number, total: number): void {
    selected.value = own.id;
    const target = event.currentTarget as Element;
    const startX = event.clientX;
    const start = placeValue(own.place);
    let place = own.place;
    const pixels = (width - 52) / total;
    const onMove = (e: PointerEvent) => {
      const by = (e.clientX - startX) / pixels;
      if (Math.abs(by) * grid.value < NEAR) place = own.place;
      else {
        const step = Math.round((start + by) * grid.value);
        place = placeText(Math.min(Math.max(0, step), total * grid.value - 1), grid.value);
      }
    };
    const onUp = () => {
      window.removeEventListener("pointermove", onMove);
      window.removeEventListener("pointerup", onUp);
      if (place !== own.place) desk.edit("move_stroke", { id: own.id, bar: own.bar, place });
    };
    window.addEventListener("pointermove", onMove);
    window.addEventListener("pointerup", onUp);
    target.setAttribute("data-grabbed", "");
  }

  function nudge(by: number): void {
    const own = stroke.value;
    if (!own) return;
    const step = Math.round(placeValue(own.place) * grid.value) + by;
    if (step < 0 || step >= beats.value * grid.value) return;
    desk.edit("move_stroke", { id: own.id, bar: own.bar, place: placeText(step, grid.value) });
  }
  function nextDynamic(): void {
    const own = stroke.value ?? here().find((s) => s.limb === limb.value);
    if (!own) return;
    const dynamic = ORDER[(ORDER.indexOf(own.dynamic) + 1) % 3]!;
    desk.edit("set_dynamic", { id: own.id, dynamic });
  }
  function otherLimb(): void {
    const own = stroke.value;
    if (own) desk.edit("set_limb", { id: own.id, limb: OTHER[own.limb as Limb] });
  }
  function remove(): void {
    const own = stroke.value ?? here().find((s) => s.limb === limb.value);
    if (!own) return;
    desk.edit("remove_stroke", { id: own.id });
    selected.value = null;
  }

  return {
    GRIDS, grid, selected, part, cursor, stroke, limb,
    leave, moveCursor, moveLimb, setGrid, chooseHere, takePart, usePart, click, grab, nudge,
    nextDynamic, otherLimb, remove,
  };
}

export type Writing = ReturnType<typeof useWriting>;
