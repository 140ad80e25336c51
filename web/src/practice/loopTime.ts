/** Time along a loop that goes on and on: the beat since its first pass began. */
import type { Clock } from "@/score/time";

/** A jump back by more than this share of the loop is another pass. */
const BACK = 0.5;

export class LoopTime {
  private pass = 0;
  private last: number;
  readonly beats: number;

  constructor(
    private readonly clock: Clock,
    private readonly first: number,
    last: number,
  ) {
    this.beats = clock.starts[last]! - clock.starts[first - 1]!;
    this.last = 0;
  }

  /** Where a moment of the song lies: beats from the loop's start. */
  private inside(moment: number): number {
    return this.clock.beat(moment) - this.clock.starts[this.first - 1]!;
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
