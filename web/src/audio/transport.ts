/**
 * The one transport: where we are, what sounds, how fast, in which loop.
 *
 * The song is laid on the audio clock in slices of whole samples; recording and kit are both scheduled from
 * them, so that they can't drift apart. A slice never crosses a piece, a loop's end or the song's end. Each
 * click and stroke belongs to the slice that holds its sample (`sampleAt`), so it sounds once a pass.
 */
import { Kit } from "./kit";
import { type Drums, PIECE_SAMPLES, Pieces, RATE, sampleAt } from "./pieces";
import { Recording, type Slice } from "./recording";

export interface Written {
  /** Seconds of the song at which it sounds. */
  time: number;
  /** Seconds at which it is written, which decides the loop that it belongs to: a stroke on the 1 that is played
   *  early sounds with its bar. Without it: `time`. */
  writtenAt?: number;
  part: string;
  loudness: number;
  choked?: boolean;
}
export interface Tick {
  time: number;
  isStrong: boolean;
  /** Said by our counting voice in the click's place. */
  word?: string;
  /** Which bar of the loop it is in, from 0. */
  bar?: number;
}
/** What makes a loop harder to lean on: clicks that rest four bars in eight, a bar of rest between passes
 *  (its clicks in seconds of song time from the pass's end; seconds: how long it is). */
export interface Practising {
  fades: number; // bars of a pass; 0: the click does not fade
  breath: { seconds: number; clicks: Tick[] } | null;
}
const FADED = 4; // bars on, bars off
/** What sounds; alternate: the recording and the written part, each for one pass of the loop. */
export type Sounding = "recording" | "written" | "both" | "alternate";

const LEVEL = 0.85;

const AHEAD = 0.8; // seconds of slices kept scheduled: a busy page must not come too late
const READY = 4; // seconds whose sound is there before anything begins
const KIT_AHEAD = 0.4;
/** What comes later than this, in seconds, is better not heard: a late click is a wrong one. */
const TOO_LATE = 0.015;
const START_DELAY = 0.1; // the graces of a first stroke sound before it
const STRETCH_DELAY = 0.25;
const BETWEEN = 0.15; // seconds of silence between two excerpts

export class Transport {
  readonly recording: Recording;
  readonly kit: Kit;
  onstate: (state: { playing: boolean; waiting: boolean }) => void = () => {};
  /** struck: the first sample of each slice whose clicks and strokes have not been scheduled. */
  private slices: (Slice & { struck: number })[] = [];
  /** Where the next slice begins: context time, and a sample of the song. */
  private next: { when: number; song: number } | null = null;
  private timer: ReturnType<typeof setInterval> | null = null;
  private resting = 0;
  private pass = 0;
  private run = 0;
  private rate = 1;
  private loop: [number, number] | null = null;
  private written: Written[] = [];
  private ticks: Tick[] = [];
  private sounding: Sounding = "recording";
  private practising: Practising = { fades: 0, breath: null };

  constructor(
    private readonly context: AudioContext,
    source: string,
    private readonly duration: number,
    words?: string,
  ) {
    this.recording = new Recording(context, new Pieces(context, source));
    this.kit = new Kit(context, words);
    this.recording.output.connect(context.destination);
    this.kit.output.connect(context.destination);
    this.kit.click.connect(context.destination);
    this.balance();
  }

  get isPlaying(): boolean {
    return this.timer !== null;
  }

  /** Song time (seconds) that is heard at this moment. */
  get position(): number {
    if (!this.isPlaying) return this.resting;
    const now = this.context.currentTime - (this.context.outputLatency || 0);
    for (let i = this.slices.length - 1; i >= 0; i--) {
      const s = this.slices[i]!;
      if (now >= s.when) return Math.min(s.from / RATE + (now - s.when) * s.rate, s.to / RATE);
    }
    return this.resting;
  }

  /** Strokes to sound, by song time; may be changed while playing. */
  setWritten(strokes: Written[]): void {
    this.written = [...strokes].sort((a, b) => ownTime(a) - ownTime(b));
    void this.kit.load(new Set(strokes.map((s) => s.part)));
  }

  /** Clicks by song time; none: no click. */
  setTicks(ticks: Tick[]): void {
    this.ticks = [...ticks].sort((a, b) => a.time - b.time);
    void this.kit.loadWords(ticks.flatMap((t) => (t.word ? [t.word] : [])));
  }

  setPractising(practising: Practising): void {
    this.practising = practising;
  }

  /** Another source sounds in the recording's place; it lies on the same timeline. */
  setSource(source: string): void {
    const at = this.position;
    this.recording.change(source);
    if (this.isPlaying) void this.play(at);
  }

  setSounding(sounding: Sounding): void {
    const at = this.position;
    const wasTurning = this.sounding === "alternate";
    this.sounding = sounding;
    this.balance();
    if (this.isPlaying && (wasTurning || sounding === "alternate")) void this.play(at);
  }

  /** Only a band of the recording sounds, in Hz; null: all of it. */
  setBand(band: [number, number] | null): void {
    this.recording.filter(band, this.context.destination);
  }

  /** Whether the recording or the written part sounds in a pass of the loop. */
  private sounds(what: "recording" | "written", pass: number): boolean {
    if (this.sounding === "both") return true;
    if (this.sounding === "alternate") return (what === "recording") === (pass % 2 === 0);
    return this.sounding === what;
  }

  private balance(): void {
    this.kit.output.gain.value = LEVEL;
    this.recording.output.gain.cancelScheduledValues(0);
    this.recording.output.gain.value = this.sounds("recording", 0) ? LEVEL : 0;
  }

  setLoop(loop: [number, number] | null): void {
    this.loop = loop;
    if (this.isPlaying) void this.play(loop && !inside(loop, this.position) ? loop[0] : undefined);
  }

  setRate(rate: number): void {
    if (rate === this.rate) return;
    const at = this.position;
    this.rate = rate;
    if (this.isPlaying) void this.play(at);
  }

  setDrums(drums: Drums): void {
    const at = this.position;
    this.recording.turn(drums);
    if (this.isPlaying) void this.play(at);
  }

  seek(seconds: number): void {
    const to = Math.min(Math.max(0, seconds), this.duration);
    if (this.isPlaying) void this.play(to);
    else this.resting = to;
  }

  /** lead: clicks counted in before, in seconds of song time before the start. */
  async play(from = this.position, lead: Tick[] = []): Promise<void> {
    const run = ++this.run;
    this.halt();
    if (from >= this.duration - 0.05) from = this.loop?.[0] ?? 0;
    this.resting = from;
    this.onstate({ playing: true, waiting: true });
    try {
      await this.context.resume();
      const [first, ...others] = this.soon(from).map((number) => this.recording.pieces.load(number));
      await first;
      await Promise.allSettled(others); // what can't be had yet is asked for again when its turn comes
      await this.recording.prepare(this.rate);
    } catch (problem) {
      if (run === this.run) this.onstate({ playing: false, waiting: false });
      throw problem;
    }
    if (run !== this.run) return;
    const delay = this.rate === 1 ? START_DELAY : STRETCH_DELAY;
    const when = Math.ceil((this.context.currentTime + delay) * RATE) / RATE;
    this.balance();
    const wait = Math.max(0, ...lead.map((t) => t.time)) / this.rate;
    const start = Math.ceil((when + wait) * RATE) / RATE;
    for (const t of lead) this.kit.tick(t.isStrong, start - t.time / this.rate);
    this.next = { when: start, song: sampleAt(from) };
    this.pass = 0;
    this.timer = setInterval(() => this.tick(), 40);
    this.tick();
    this.onstate({ playing: true, waiting: false });
  }

  /** The pieces that sound in the first seconds from a moment on: a busy page has them before it begins. */
  private soon(from: number): number[] {
    const loop = this.loop && from < this.loop[1] ? this.loop : null;
    const until = from + READY * this.rate;
    const spans: [number, number][] = [[from, Math.min(until, loop?.[1] ?? this.duration)]];
    if (loop && until > loop[1]) spans.push([loop[0], Math.min(loop[0] + until - loop[1], loop[1])]);
    const numbers = spans.flatMap(([a, b]) => [Pieces.at(sampleAt(a)), Pieces.at(Math.max(sampleAt(a), sampleAt(b) - 1))]);
    return [...new Set(numbers)];
  }

  /** Excerpts of the recording, one after the other, at full speed; nothing else sounds. */
  async excerpts(spans: [number, number][]): Promise<void> {
    const run = ++this.run;
    this.halt();
    if (!spans.length) return;
    this.resting = spans[0]![0];
    this.onstate({ playing: true, waiting: true });
    this.recording.output.gain.cancelScheduledValues(0);
    this.recording.output.gain.value = LEVEL;
    let when = 0;
    try {
      await this.context.resume();
      for (const [from, to] of spans.map((span) => span.map(sampleAt) as [number, number])) {
        for (let at = from; at < to; ) {
          const number = Pieces.at(at);
          // Each is laid as soon as its piece is there: few pieces stay decoded.
          await this.recording.pieces.load(number);
          if (run !== this.run) return;
          const stop = Math.min(to, (number + 1) * PIECE_SAMPLES);
          const start = Math.max(when, this.context.currentTime + START_DELAY);
          const slice: Slice = { when: Math.ceil(start * RATE) / RATE, from: at, to: stop, rate: 1, pass: 0 };
          this.slices.push({ ...slice, struck: stop });
          this.recording.play(slice);
          when = end(slice);
          at = stop;
        }
        when += BETWEEN;
      }
    } catch (problem) {
      if (run === this.run) this.onstate({ playing: false, waiting: false });
      throw problem;
    }
    this.timer = setInterval(() => this.tick(), 40);
    this.onstate({ playing: true, waiting: false });
  }

  pause(): void {
    this.run++;
    const at = this.position;
    this.halt();
    this.resting = at;
    this.onstate({ playing: false, waiting: false });
  }

  private halt(): void {
    if (this.timer !== null) clearInterval(this.timer);
    this.timer = null;
    this.next = null;
    this.slices = [];
    this.recording.stop();
    this.kit.stop();
  }

  private tick(): void {
    const now = this.context.currentTime;
    const run = this.run;
    while (this.next && this.next.when < now + AHEAD) {
      if (!this.extend()) break;
    }
    if (run !== this.run) return; // a piece came too late: it begins anew where it was
    this.strikeUpTo(now + KIT_AHEAD);
    this.slices = this.slices.filter((s, i, all) => i >= all.length - 4 || end(s) > now - 1);
    if (!this.next && this.slices.every((s) => end(s) < now)) {
      const last = this.slices.at(-1);
      const rest = last ? Math.min(last.to / RATE, this.duration) : this.duration;
      this.pause();
      this.resting = rest;
    }
  }

  /** Lays the next slice; false while its piece is still on the way. */
  private extend(): boolean {
    const { when, song } = this.next!;
    const number = Pieces.at(song);
    if (this.rate === 1 && this.recording.pieces.now(number) === undefined) {
      void this.recording.pieces.load(number);
      if (when < this.context.currentTime) void this.play(song / RATE); // it came too late
      return false;
    }
    const songEnd = sampleAt(this.duration);
    const [loopStart, loopEnd] = (this.loop ?? [0, 0]).map((t) => Math.min(sampleAt(t), songEnd)) as [number, number];
    const goesRound = loopEnd > loopStart && song < loopEnd;
    const to = Math.min(goesRound ? loopEnd : songEnd, (number + 1) * PIECE_SAMPLES);
    const slice: Slice = { when, from: song, to, rate: this.rate, pass: this.pass };
    const isJump = this.slices.length === 0 || this.slices[this.slices.length - 1]!.to !== song;
    this.slices.push({ ...slice, struck: song });
    if (this.rate === 1) this.recording.play(slice);
    else if (isJump) void this.recording.playStretched(slice);
    // The next piece in time; behind the last one there is none to ask for.
    if ((number + 1) * PIECE_SAMPLES < songEnd) {
      void this.recording.pieces.load(number + 1);
      if (this.rate !== 1) void this.recording.feed(number + 1);
    }
    if (goesRound && to === loopEnd) {
      const { breath } = this.practising;
      for (const c of breath?.clicks ?? []) this.kit.tick(c.isStrong, end(slice) + c.time / this.rate);
      this.next = { when: end(slice) + (breath?.seconds ?? 0) / this.rate, song: loopStart };
      this.pass++;
      if (this.sounding === "alternate") {
        const level = this.sounds("recording", this.pass) ? LEVEL : 0;
        this.recording.output.gain.setValueAtTime(level, end(slice));
      }
    } else if (to >= songEnd) {
      this.next = null;
    } else {
      this.next = { when: end(slice), song: to };
    }
    return true;
  }

  /** Whether the click rests in this bar of this pass. */
  private fadesOut(pass: number, bar: number): boolean {
    const { fades } = this.practising;
    return fades > 0 && Math.floor((pass * fades + bar) / FADED) % 2 === 1;
  }

  /** Schedules the clicks and strokes of all slices up to a moment of context time. */
  private strikeUpTo(horizon: number): void {
    const soonest = this.context.currentTime - TOO_LATE;
    for (const s of this.slices) {
      const to = Math.min(s.to, s.from + Math.floor((horizon - s.when) * s.rate * RATE));
      if (to <= s.struck) continue;
      const at = (time: number) => s.when + (time - s.from / RATE) / s.rate;
      for (const tick of within(this.ticks, s.struck, to)) {
        if (at(tick.time) < soonest || this.fadesOut(s.pass, tick.bar ?? 0)) continue;
        if (tick.word) this.kit.say(tick.word, at(tick.time));
        else this.kit.tick(tick.isStrong, at(tick.time));
      }
      if (this.sounds("written", s.pass)) {
        for (const stroke of within(this.written, s.struck, to)) {
          if (at(stroke.time) >= soonest) this.kit.strike(stroke.part, stroke.loudness, at(stroke.time), stroke.choked);
        }
      }
      s.struck = to;
    }
  }
}

function end(s: Slice): number {
  return s.when + (s.to - s.from) / RATE / s.rate;
}

function inside([a, b]: [number, number], t: number): boolean {
  return t >= a && t < b;
}

/** The moment that decides which slice an event belongs to. */
function ownTime(event: { time: number; writtenAt?: number }): number {
  return event.writtenAt ?? event.time;
}

/** The events, sorted by their own time, that lie from one sample of the song on and before another. */
export function within<E extends { time: number; writtenAt?: number }>(events: readonly E[], from: number, to: number): E[] {
  const firstAt = (sample: number) => {
    let [lo, hi] = [0, events.length];
    while (lo < hi) {
      const mid = (lo + hi) >> 1;
      if (sampleAt(ownTime(events[mid]!)) < sample) lo = mid + 1;
      else hi = mid;
    }
    return lo;
  };
  return events.slice(firstAt(from), firstAt(to));
}
