/** Heads of the spine: told apart by outline, then by letter, colour only helps. */
import { SHAPES } from "@/kit";

export interface Shape {
  path: string;
  /** drawn over the head in the lane's colour */
  extra: string;
  isHollow: boolean;
  letterY: number;
}

export function shape(name: string): Shape {
  const s = SHAPES[name] ?? SHAPES.disc!;
  return { path: s.path, extra: s.extra, isHollow: s.is_hollow, letterY: s.letter_y };
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
