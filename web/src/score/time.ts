/** Exact places and the pulse map on the page: the same arithmetic as the core's. */
import type { Score, Stroke } from "@/api/client";

export interface Meter {
  count: number;
  unit: number;
  beats: number;
  isCompound: boolean;
}

export function meterOf(text: string): Meter {
  const [count = 4, unit = 4] = text.split("/").map(Number);
  const isCompound = unit === 8 && count % 3 === 0 && count > 3;
  return { count, unit, beats: isCompound ? count / 3 : count, isCompound };
}

/** "3/4" -> 0.75 */
export function placeValue(place: string): number {
  const [above = 0, below = 1] = place.split("/").map(Number);
  return above / below;
}

function gcd(a: number, b: number): number {
  return b ? gcd(b, a % b) : a;
}

/** 3, 6 -> "1/2"; 4, 2 -> "2" */
export function placeText(above: number, below: number): string {
  const g = gcd(above, below) || 1;
  return below / g === 1 ? `${above / g}` : `${above / g}/${below / g}`;
}

/** Seconds <-> beats of one score, and where its bars begin. */
export class Clock {
  readonly starts: number[] = [0];
  readonly meters: Meter[];
  private readonly pulse: number[];
  private readonly swing: [string, number];

  constructor(score: Pick<Score, "meters" | "pulse" | "swing">) {
    this.meters = score.meters.map(meterOf);
    this.pulse = score.pulse;
    this.swing = score.swing as [string, number];
    for (const m of this.meters) this.starts.push(this.starts[this.starts.length - 1]! + m.beats);
  }

  get bars(): number {
    return this.meters.length;
  }

  get end(): number {
    return this.pulse[this.pulse.length - 1]!;
  }

  seconds(beat: number): number {
    const last = this.pulse.length - 2;
    const i = Math.min(Math.max(Math.floor(beat), 0), last);
    return this.pulse[i]! + (beat - i) * (this.pulse[i + 1]! - this.pulse[i]!);
  }

  /** The position in beats of a moment. */
  beat(seconds: number): number {
    let lo = 0;
    let hi = this.pulse.length - 2;
    while (lo < hi) {
      const mid = (lo + hi + 1) >> 1;
      if (this.pulse[mid]! <= seconds) lo = mid;
      else hi = mid - 1;
    }
    return lo + (seconds - this.pulse[lo]!) / (this.pulse[lo + 1]! - this.pulse[lo]!);
  }

  barStart(bar: number): number {
    return this.seconds(this.starts[bar - 1]!);
  }

  barEnd(bar: number): number {
    return this.seconds(this.starts[bar]!);
  }

  /** The moment a written place is played, with the song's swing. */
  played(stroke: Pick<Stroke, "bar" | "place">): number {
    return this.seconds(this.starts[stroke.bar - 1]! + this.swung(placeValue(stroke.place)));
  }

  /** The bar (from 1) that sounds at a moment; 0 before the first. */
  barAt(seconds: number): number {
    let lo = 0;
    let hi = this.bars;
    while (lo < hi) {
      const mid = (lo + hi + 1) >> 1;
      if (this.seconds(this.starts[mid - 1]!) <= seconds + 1e-6) lo = mid;
      else hi = mid - 1;
    }
    return lo;
  }

  /** Position inside a bar (0..1) of a moment. */
  within(bar: number, seconds: number): number {
    const a = this.barStart(bar);
    return (seconds - a) / (this.barEnd(bar) - a);
  }

  private swung(place: number): number {
    const [level, ratio] = this.swing;
    const whole = Math.floor(place);
    const inside = place - whole;
    if (level === "sixteenth" && (inside === 0.25 || inside === 0.75)) {
      return whole + Math.floor(inside * 2) / 2 + ratio / 2;
    }
    if (level === "eighth" && [0.25, 0.5, 0.75].includes(inside)) {
      return whole + { 0.25: ratio / 2, 0.5: ratio, 0.75: (1 + ratio) / 2 }[inside]!;
    }
    return place;
  }
}

/** Minutes and whole seconds, as a running clock shows them (orchesis/score/moments.py). */
export function clockText(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds + 1e-6));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
