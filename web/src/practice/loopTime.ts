/** Time along a loop that goes on and on: the beat since its first pass began. */
import type { Clock } from "@/score/time";

/** A jump back by more than this share of the loop is another pass. */
const BACK = 0.5;

export class LoopTime {
  private pass = 0;
  private last = 0;

  /** start: beat of the song at which the loop begins; beats: how long it is. */
  constructor(
    private readonly clock: Clock,
    private readonly start: number,
    readonly beats: number,
  ) {}

  /** Where a moment of the song lies: beats from the loop's start. */
  private inside(moment: number): number {
    return this.clock.beat(moment) - this.start;
  }

  /** Follows the song: to be told each moment that sounds. Gives the beat since the first pass. */
  follow(moment: number): number {
    const at = this.inside(moment);
    if (at < this.last - BACK * this.beats) this.pass++;
    this.last = at;
    return this.pass * this.beats + at;
  }

  /** The beat of something that happened at a moment near the one followed last. */
  beat(moment: number): number {
    const at = this.inside(moment);
    const over = at - this.last;
    const pass = over > BACK * this.beats ? this.pass - 1 : over < -BACK * this.beats ? this.pass + 1 : this.pass;
    return pass * this.beats + at;
  }
}

/** What goes round of a step: its first beat in the song, and how many. */
export function loopBeats(clock: Clock, first: number, last: number, step: { first_beat: number; beats: number } | null): { start: number; beats: number } {
  const start = clock.starts[first - 1]!;
  if (!step?.beats) return { start, beats: clock.starts[last]! - start };
  return { start: start + step.first_beat, beats: step.beats };
}
