/**
 * The recording. At full speed the decoded samples themselves are played, one piece joined
 * to the next by sample; at other speeds a stretcher changes the tempo and not the pitch.
 */
import type { StretchNode } from "signalsmith-stretch";
import { type Drums, PIECE_SAMPLES, Pieces, RATE } from "./pieces";

/** A run of the song laid on context time. */
export interface Slice {
  /** Seconds of context time at which it begins. */
  when: number;
  /** Samples of the song: the first, and the first behind it. */
  from: number;
  to: number;
  rate: number;
  /** How often the loop has gone round before it. */
  pass: number;
}

export class Recording {
  readonly output: GainNode;
  private narrow: BiquadFilterNode[] = [];
  private sources = new Set<AudioBufferSourceNode>();
  private stretch: StretchNode | null = null;
  private fed: { base: number; next: number } | null = null;

  constructor(
    private readonly context: BaseAudioContext,
    readonly pieces: Pieces,
  ) {
    this.output = new GainNode(context);
  }

  /** Only the band between two frequencies sounds; null: all of it. */
  filter(band: [number, number] | null, to: AudioNode): void {
    this.output.disconnect();
    this.narrow.forEach((n) => n.disconnect());
    this.narrow = [];
    if (!band) {
      this.output.connect(to);
      return;
    }
    const [low, high] = band;
    this.narrow = [
      new BiquadFilterNode(this.context, { type: "highpass", frequency: low, Q: 0.7 }),
      new BiquadFilterNode(this.context, { type: "highpass", frequency: low, Q: 0.7 }),
      new BiquadFilterNode(this.context, { type: "lowpass", frequency: high, Q: 0.7 }),
      new BiquadFilterNode(this.context, { type: "lowpass", frequency: high, Q: 0.7 }),
    ];
    let at: AudioNode = this.output;
    for (const n of this.narrow) at = at.connect(n);
    at.connect(to);
  }

  /** Sounds one slice that lies within one piece; the piece must have been loaded. */
  play(slice: Slice): void {
    if (slice.rate !== 1) return;
    const number = Pieces.at(slice.from);
    const piece = this.pieces.now(number);
    if (!piece) return;
    const source = new AudioBufferSourceNode(this.context, { buffer: piece });
    source.connect(this.output);
    // A slice that is laid too late begins further on: what follows stays in time.
    const late = Math.max(0, this.context.currentTime - slice.when);
    const length = (slice.to - slice.from) / RATE - late;
    if (length <= 0) return;
    source.start(slice.when + late, (slice.from - number * PIECE_SAMPLES) / RATE + late, length);
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
  }

  /** Begins (or moves) stretched playing: sample `from` of the song sounds at `when`. */
  async playStretched(slice: Slice): Promise<void> {
    if (!this.pieces.hasSound) return;
    const node = await this.stretcher();
    const first = Pieces.at(slice.from);
    if (!this.fed || first < this.fed.base || first >= this.fed.next) {
      await node.dropBuffers();
      this.fed = { base: first, next: first };
      await this.feed(first);
    }
    const input = (slice.from - this.fed.base * PIECE_SAMPLES) / RATE;
    await node.schedule({ output: slice.when, input, rate: slice.rate, active: true });
  }

  /** Feeds the stretcher all pieces up to one. */
  async feed(upTo: number): Promise<void> {
    const fed = this.fed;
    if (!fed || !this.stretch) return;
    while (fed.next <= upTo) {
      const number = fed.next++;
      const piece = await this.pieces.load(number);
      if (!piece) return;
      const channels = Array.from({ length: 2 }, (_, c) =>
        piece.getChannelData(Math.min(c, piece.numberOfChannels - 1)).slice(),
      );
      await this.stretch.addBuffers(channels);
    }
  }

  private async stretcher(): Promise<StretchNode> {
    if (!this.stretch) {
      // Fetched where it is needed first: a player's page can be read without it.
      const { default: SignalsmithStretch } = await import("signalsmith-stretch");
      this.stretch = await SignalsmithStretch(this.context, { outputChannelCount: [2] });
      this.stretch.connect(this.output);
    }
    return this.stretch;
  }

  async prepare(rate: number): Promise<void> {
    if (rate !== 1 && this.pieces.hasSound) await this.stretcher();
  }

  /** Drums forward, back or as recorded, from the next sound on. */
  turn(drums: Drums): void {
    this.pieces.turn(drums);
    this.fed = null;
  }

  /** The sound of another take, from the next sound on. */
  change(source: string): void {
    this.pieces.change(source);
    this.fed = null;
  }

  stop(): void {
    for (const source of this.sources) {
      source.onended = null;
      source.stop();
    }
    this.sources.clear();
    if (this.stretch) void this.stretch.schedule({ active: false });
  }
}
