/** The keys of the Bench: one for each part, the rest for cursor, place and loudness. */
import type { Ref } from "vue";
import { PART_OF } from "@/keys/parts";
import { by, useKeys } from "@/keys/useKeys";
import type { Reviewing } from "./reviewing";
import type { Writing } from "./writing";

export interface Bench {
  bar: Ref<number>;
  go: (bar: number) => void;
  confirm: () => void;
  /** More or fewer bars side by side; one beat close up. */
  nextView: () => void;
  zoom: () => void;
  /** Shows what is perhaps a stroke, or not. */
  perhaps: () => void;
  show: (panel: "stroke" | "text" | "compare" | "review") => void;
  /** To the bars alike: all of them, a choice, none. */
  applyAll: () => void;
  pickAlike: () => void;
  tap: () => void;
  /** The bar becomes what it is compared with. */
  takeOver: () => void;
}

export function useStrokeKeys(writing: Writing, review: Reviewing, bench: Bench): void {
  useKeys("bench", {
    cursor: (_, which) => writing.moveCursor(by(which)),
    cursorBeat: (_, which) => writing.moveCursor(by(which) * writing.grid.value),
    limb: (_, which) => writing.moveLimb(by(which)),
    bar: (_, which) => bench.go(bench.bar.value + by(which)),
    confirm: bench.confirm,
    view: bench.nextView,
    zoom: bench.zoom,
    perhaps: bench.perhaps,
    grid: (_, __, usual) => writing.setGrid(Number(usual)),
    part: (_, __, usual) => writing.usePart(PART_OF[usual]!),
    fill: () => void (writing.isFilling.value = !writing.isFilling.value),
    ghost: () => writing.setTouch("ghost"),
    accent: () => writing.setTouch("accent"),
    stepping: () => void (writing.isStepping.value = !writing.isStepping.value),
    choose: writing.chooseHere,
    leave: writing.leave,
    dynamic: writing.nextDynamic,
    ornament: writing.nextOrnament,
    choke: writing.choke,
    doubt: writing.nextDoubt,
    nudge: (_, which) => writing.nudge(by(which)),
    otherLimb: () => (writing.stroke.value ? writing.otherLimb() : false),
    remove: writing.remove,
    chooseAll: writing.chooseAll,
    copy: writing.copy,
    cut: () => {
      writing.copy();
      writing.remove();
    },
    paste: writing.paste,
    applyAll: bench.applyAll,
    pickAlike: bench.pickAlike,
    text: () => bench.show("text"),
    compare: () => bench.show("compare"),
    takeOver: bench.takeOver,
    playIn: bench.tap,
    review: () => bench.show("review"),
  });
  useKeys(
    "review",
    {
      right: review.right,
      wrong: review.wrong,
      part: (_, __, usual) => review.change(PART_OF[usual]!),
      leaveOut: review.leaveOut,
      assume: review.keepDoubtful,
      skip: review.skip,
      split: review.split,
      back: review.back,
      occurrence: (_, which) => review.nextBar(by(which)),
      stop: review.stop,
    },
    { isOn: () => review.isOn.value },
  );
}
