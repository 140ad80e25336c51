/** The keys of the Bench: one for each part, the rest for cursor, place and loudness. */
import { useEventListener } from "@vueuse/core";
import type { Ref } from "vue";
import { PARTS } from "@/kit";
import type { Writing } from "./writing";

/** A part's key is its letter on the spine; shift (a capital) for the second of a pair. */
export const PART_KEYS: Record<string, string> = Object.fromEntries(
  PARTS.filter((p) => /^[a-z]$/i.test(p.letter)).map((p) => [p.name, p.letter]),
);
Object.assign(PART_KEYS, {
  rimshot: "S", hat_open: "o", hat_half: "H", crash: "x", crash_2: "X", hat_splash: "F", block: "K",
  tom_high: "q", tom_mid: "w", tom_low: "e", tom_floor: "t", cowbell: "W", tambourine: "T",
});
const BY_KEY = Object.fromEntries(Object.entries(PART_KEYS).map(([name, key]) => [key, name]));

export function useStrokeKeys(
  writing: Writing,
  { bar, go, confirm }: { bar: Ref<number>; go: (bar: number) => void; confirm: () => void },
): void {
  useEventListener("keydown", (e: KeyboardEvent) => {
    if (e.target instanceof HTMLElement && e.target.closest("input, select, textarea, [role=dialog]")) return;
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.shiftKey && /^Digit/.test(e.code)) return;
    const done = act(e);
    if (done) e.preventDefault();
  });

  function act(e: KeyboardEvent): boolean {
    switch (e.key) {
      case "ArrowLeft": writing.moveCursor(-1); return true;
      case "ArrowRight": writing.moveCursor(1); return true;
      case "ArrowUp": writing.moveLimb(-1); return true;
      case "ArrowDown": writing.moveLimb(1); return true;
      case "[": go(bar.value - 1); return true;
      case "]": go(bar.value + 1); return true;
      case "=": confirm(); return true;
      case "Enter": writing.chooseHere(); return true;
      case "Escape": writing.leave(); return true;
      case ".": writing.nextDynamic(); return true;
      case ",": writing.nudge(-1); return true;
      case "/": writing.nudge(1); return true;
      case "Tab": if (!writing.stroke.value) return false; writing.otherLimb(); return true;
      case "Delete":
      case "Backspace": writing.remove(); return true;
      case "2": case "3": case "4": case "6": writing.setGrid(Number(e.key)); return true;
    }
    const part = BY_KEY[e.key];
    if (!part) return false;
    writing.usePart(part);
    return true;
  }
}
