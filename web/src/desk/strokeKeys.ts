/** The keys of the Bench: one for each part, the rest for cursor, place and loudness. */
import type { PartName } from "@/api/client";
import { useEventListener } from "@vueuse/core";
import type { Ref } from "vue";
import { PARTS } from "@/kit";
import type { Reviewing } from "./reviewing";
import type { Writing } from "./writing";

/** A part's key is its letter on the spine; shift (a capital) for the second of a pair. */
export const PART_KEYS: Record<string, string> = Object.fromEntries(
  PARTS.filter((p) => /^[a-z]$/i.test(p.letter)).map((p) => [p.name, p.letter]),
);
Object.assign(PART_KEYS, {
  rimshot: "S", hat_open: "o", hat_half: "H", crash: "x", crash_2: "X", hat_splash: "F", block: "K",
  tom_high: "q", tom_mid: "w", tom_low: "e", tom_floor: "t", cowbell: "W", tambourine: "T",
});
export const PART_OF = Object.fromEntries(
  Object.entries(PART_KEYS).map(([name, key]) => [key, name]),
) as Record<string, PartName>;

export interface Bench {
  bar: Ref<number>;
  go: (bar: number) => void;
  confirm: () => void;
  /** More or fewer bars side by side; one beat close up. */
  nextView: () => void;
  zoom: () => void;
  show: (panel: "stroke" | "text" | "compare" | "review") => void;
  /** To the bars alike: all of them, a choice, none. */
  applyAll: () => void;
  pickAlike: () => void;
  tap: () => void;
}

export function useStrokeKeys(writing: Writing, review: Reviewing, bench: Bench): void {
  useEventListener("keydown", (e: KeyboardEvent) => {
    if (e.target instanceof HTMLElement && e.target.closest("input, select, textarea, [role=dialog]")) return;
    if (e.altKey || (e.shiftKey && /^Digit/.test(e.code))) return;
    const done = e.ctrlKey || e.metaKey ? withControl(e) : review.isOn.value ? answer(e) || act(e) : act(e);
    if (done) {
      e.preventDefault();
      e.stopImmediatePropagation();
    }
  });

  function withControl(e: KeyboardEvent): boolean {
    switch (e.key.toLowerCase()) {
      case "c": writing.copy(); return true;
      case "x": writing.copy(); writing.remove(); return true;
      case "v": writing.paste(); return true;
      case "a": writing.chooseAll(); return true;
    }
    return false;
  }

  /** While the queue is walked: one key an answer. */
  function answer(e: KeyboardEvent): boolean {
    switch (e.key) {
      case "Enter": review.right(); return true;
      case "Delete":
      case "Backspace": review.wrong(); return true;
      case "L": review.leaveOut(); return true;
      case "D": review.keepDoubtful(); return true;
      case "N": case "]": review.skip(); return true;
      case "[": review.back(); return true;
      case "ArrowRight": case "ArrowLeft": review.nextBar(e.key === "ArrowRight" ? 1 : -1); return true;
      case "Escape": case "Q": review.stop(); return true;
    }
    const part = PART_OF[e.key];
    if (part) review.change(part);
    return !!part;
  }

  function act(e: KeyboardEvent): boolean {
    const beat = e.shiftKey ? writing.grid.value : 1;
    switch (e.key) {
      case "ArrowLeft": writing.moveCursor(-beat); return true;
      case "ArrowRight": writing.moveCursor(beat); return true;
      case "ArrowUp": writing.moveLimb(-1); return true;
      case "ArrowDown": writing.moveLimb(1); return true;
      case "[": bench.go(bench.bar.value - 1); return true;
      case "]": bench.go(bench.bar.value + 1); return true;
      case "=": bench.confirm(); return true;
      case "1": bench.nextView(); return true;
      case "9": bench.zoom(); return true;
      case "Enter": writing.chooseHere(); return true;
      case "Escape": writing.leave(); return true;
      case ".": writing.nextDynamic(); return true;
      case "g": writing.setTouch("ghost"); return true;
      case "v": writing.setTouch("accent"); return true;
      case "i": writing.nextOrnament(); return true;
      case "d": writing.nextDoubt(); return true;
      case "z": writing.choke(); return true;
      case "m": writing.isStepping.value = !writing.isStepping.value; return true;
      case "u": writing.isFilling.value = !writing.isFilling.value; return true;
      case ",": writing.nudge(-1); return true;
      case "/": writing.nudge(1); return true;
      case ";": bench.applyAll(); return true;
      case ":": bench.pickAlike(); return true;
      case "j": bench.show("compare"); return true;
      case "y": bench.show("text"); return true;
      case "Y": bench.tap(); return true;
      case "Q": bench.show("review"); return true;
      case "Tab": if (!writing.stroke.value) return false; writing.otherLimb(); return true;
      case "Delete":
      case "Backspace": writing.remove(); return true;
    }
    const grid = writing.GRIDS.find((g) => g.key === e.key);
    if (grid) {
      writing.setGrid(grid.parts);
      return true;
    }
    const part = PART_OF[e.key];
    if (!part) return false;
    writing.usePart(part);
    return true;
  }
}
