/** Heads of the spine: told apart by outline, then by letter, colour only helps. */

export interface Shape {
  path: string;
  /** drawn over the head in the lane's colour */
  extra?: string;
  isHollow: boolean;
  letterY: number;
}

const LENS = "M-13 0Q0-11 13 0Q0 11-13 0Z";

const DRAWN: Record<string, Shape> = {
  barrel: { path: "M-10-8H10V8H-10Z", extra: "M-12-8H12M-12 8H12", isHollow: false, letterY: 4 },
  disc: { path: "M-10 0A10 10 0 1 0 10 0A10 10 0 1 0-10 0Z", isHollow: false, letterY: 4 },
  disc_bar: {
    path: "M-9 0A9 9 0 1 0 9 0A9 9 0 1 0-9 0Z",
    extra: "M-15 9L15-9",
    isHollow: true,
    letterY: 4,
  },
  disc_ring: {
    path: "M-9 0A9 9 0 1 0 9 0A9 9 0 1 0-9 0Z",
    extra: "M-12.5 0A12.5 12.5 0 1 0 12.5 0A12.5 12.5 0 1 0-12.5 0Z",
    isHollow: false,
    letterY: 4,
  },
  lens: { path: LENS, isHollow: false, letterY: 4 },
  lens_half: { path: LENS, extra: "M-9-9Q0-14 9-9", isHollow: false, letterY: 4 },
  lens_open: { path: LENS, extra: "M-11-8Q0-18 11-8", isHollow: true, letterY: 4 },
  dish: { path: "M-14 7L0-9L14 7Z", isHollow: false, letterY: 5 },
  dish_bell: { path: "M-14 7L-5-3A5 5 0 0 1 5-3L14 7Z", extra: "M-4-10H4", isHollow: true, letterY: 5 },
  burst: {
    path: "M0-13L3.5-6L11-9L8-2L14 3L7 5L6 12L0 8L-6 12L-7 5L-14 3L-8-2L-11-9L-3.5-6Z",
    isHollow: false,
    letterY: 4,
  },
  bowl: { path: "M-14-7L0 9L14-7L8-4L0-6L-8-4Z", isHollow: false, letterY: 3 },
  keg: { path: "M-6-10H6L11 0L6 10H-6L-11 0Z", isHollow: false, letterY: 4 },
  gem: { path: "M0-11L9 0L0 11L-9 0Z", isHollow: true, letterY: 4 },
};

export function shape(name: string): Shape {
  return DRAWN[name] ?? DRAWN.disc!;
}

/** The mark of a head in a thumbnail: small, but surface, crash and toms still differ. */
export function mark(shapeName: string, x: number, y: number): string {
  switch (shapeName) {
    case "burst":
    case "bowl":
      return `M${x - 4} ${y}L${x} ${y - 4}L${x + 4} ${y}L${x} ${y + 4}Z`;
    case "dish":
    case "dish_bell":
      return `M${x - 2.6} ${y + 1.6}L${x} ${y - 2.6}L${x + 2.6} ${y + 1.6}Z`;
    case "lens_open":
    case "lens_half":
      return `M${x - 2.2} ${y}a2.2 2.2 0 1 0 4.4 0a2.2 2.2 0 1 0-4.4 0ZM${x - 1.1} ${y}a1.1 1.1 0 1 1 2.2 0a1.1 1.1 0 1 1-2.2 0Z`;
    case "lens":
      return `M${x - 1.9} ${y - 0.7}h3.8v1.4h-3.8Z`;
    case "keg":
      return `M${x - 2.4} ${y - 2.4}h4.8v4.8h-4.8ZM${x - 1} ${y - 1}v2h2v-2Z`;
    case "barrel":
      return `M${x - 2} ${y - 1.6}h4v3.2h-4Z`;
    default:
      return `M${x - 1.8} ${y}a1.8 1.8 0 1 0 3.6 0a1.8 1.8 0 1 0-3.6 0Z`;
  }
}
