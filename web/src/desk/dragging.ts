/** The pointer on the spine: strokes are moved in place, made louder or softer, or boxed in. */
import { ref, shallowRef } from "vue";
import type { Stroke } from "@/api/client";
import type { Limb } from "@/kit";
import { placeText, placeValue } from "@/score/time";
import { useSong } from "@/stores/song";
import { follow } from "./follow";
import type { Writing } from "./writing";

const SLACK = 6; // pixels that are still a click

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}
/** What a drag would make of a stroke if it ended now. */
export interface Dragged {
  id: string;
  place: string;
  loudness: number;
}

export function useDragging(writing: Writing) {
  const desk = useSong();
  const box = ref<Box | null>(null);
  const dragged = shallowRef<Dragged | null>(null);

  /** Along the bar: its place, by the grid. Up and down: its loudness. */
  function grab(own: Stroke, event: PointerEvent, pixelsABeat: number, reach: number): void {
    if (event.shiftKey) {
      const others = writing.chosen.value.filter((id) => id !== own.id);
      writing.choose(others.length < writing.chosen.value.length ? others : [...others, own.id]);
      return;
    }
    if (!writing.chosen.value.includes(own.id)) writing.choose([own.id]);
    const { clientX, clientY } = event;
    const total = desk.clock!.meters[own.bar - 1]!.beats;
    const grid = writing.grid.value;
    const isUp = own.limb === "RH" || own.limb === "LH";
    let way: "along" | "stem" | null = null;
    const end = { place: own.place, loudness: own.loudness };
    follow(event, {
      move: (e) => {
        const [dx, dy] = [e.clientX - clientX, e.clientY - clientY];
        if (!way && Math.hypot(dx, dy) > SLACK) way = Math.abs(dx) >= Math.abs(dy) ? "along" : "stem";
        if (way === "along") {
          const step = Math.round((placeValue(own.place) + dx / pixelsABeat) * grid);
          const near = Math.abs(dx / pixelsABeat) * grid < 0.5;
          end.place = near ? own.place : placeText(Math.min(Math.max(0, step), total * grid - 1), grid);
        } else if (way === "stem") {
          end.loudness = Math.min(1, Math.max(0.08, own.loudness + ((isUp ? -dy : dy) / reach)));
        }
        dragged.value = way ? { id: own.id, ...end } : null;
      },
      cancel: () => (dragged.value = null),
      end: () => {
        dragged.value = null;
        if (end.place !== own.place) desk.edit({ operation: "move_stroke", id: own.id, bar: own.bar, place: end.place });
        if (way === "stem" && Math.abs(end.loudness - own.loudness) > 0.01) {
          desk.edit({ operation: "set_loudness", id: own.id, loudness: Math.round(end.loudness * 100) / 100 });
        }
      },
    });
  }

  /** A click on a free place writes; a drag from there boxes strokes in. */
  function sweep(event: PointerEvent, bar: number, limb: Limb, at: number): void {
    const { clientX: x, clientY: y } = event;
    follow(event, {
      move: (e) => {
        if (Math.hypot(e.clientX - x, e.clientY - y) < SLACK && !box.value) return;
        box.value = {
          left: Math.min(x, e.clientX), top: Math.min(y, e.clientY),
          width: Math.abs(e.clientX - x), height: Math.abs(e.clientY - y),
        };
      },
      cancel: () => (box.value = null),
      end: () => {
        const b = box.value;
        box.value = null;
        if (!b) writing.click(bar, limb, at);
        else writing.choose(inside(b));
      },
    });
  }

  function inside(b: Box): string[] {
    return [...document.querySelectorAll<SVGGElement>(".spines [data-stroke]")]
      .filter((el) => {
        const r = (el.querySelector(".head") ?? el).getBoundingClientRect();
        const [cx, cy] = [r.left + r.width / 2, r.top + r.height / 2];
        return cx >= b.left && cx <= b.left + b.width && cy >= b.top && cy <= b.top + b.height;
      })
      .map((el) => el.dataset.stroke!);
  }

  return { box, dragged, grab, sweep };
}
