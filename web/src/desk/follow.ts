/** A pressed pointer, followed until it is let go. */

export interface Following {
  move?: (event: PointerEvent) => void;
  /** It was let go. */
  end: (event: PointerEvent) => void;
  /** The touch was taken away (a gesture of the system, a lost pointer): nothing of it counts. */
  cancel?: () => void;
}

/** The pointer is captured: it is followed off the element and off the page, and no other one is. */
export function follow(event: PointerEvent, { move, end, cancel }: Following): void {
  const own = (event.currentTarget ?? event.target) as Element;
  const over = new AbortController();
  const listen = (kind: string, act?: (e: PointerEvent) => void, isLast = true) =>
    window.addEventListener(
      kind,
      (e) => {
        if ((e as PointerEvent).pointerId !== event.pointerId) return;
        if (isLast) over.abort();
        act?.(e as PointerEvent);
      },
      { signal: over.signal },
    );
  try {
    own.setPointerCapture?.(event.pointerId);
  } catch {
    // The pointer is gone already; what comes of it, if anything, still arrives at the window.
  }
  listen("pointermove", move, false);
  listen("pointerup", end);
  listen("pointercancel", cancel);
}
