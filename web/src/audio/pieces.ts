/**
 * The sound of a take in pieces of ten seconds, fetched and decoded when they are needed.
 * `source`: where they lie in the API. Only the newest few stay decoded, so that a long song never lies in memory whole.
 */
import { askBytes, Refusal } from "@/api/client";

export const PIECE_SECONDS = 10;
export const RATE = 44100;
export const PIECE_SAMPLES = PIECE_SECONDS * RATE;
/**
 * A moment of the song in whole samples: the one rounding rule of loops, slices, clicks and strokes, so that what
 * lies on a loop's start is in the loop. Halves go up, also where arithmetic left them a hair below a half
 * (beats often lie on half samples: 80 bpm in 16ths).
 */
export function sampleAt(seconds: number): number {
  return Math.floor(seconds * RATE + 0.5 + 1e-4);
}
const KEPT = 8;
/** How the drums stand in the recording; the server mixes it. */
export type Drums = "recorded" | "forward" | "back";

export class Pieces {
  private readonly held = new Map<number, Promise<AudioBuffer | null>>();
  private readonly ready = new Map<number, AudioBuffer | null>();
  private drums: Drums = "recorded";

  constructor(
    private readonly context: BaseAudioContext,
    private source: string,
  ) {}

  /** The piece that holds a sample of the song. */
  static at(sample: number): number {
    return Math.max(0, Math.floor(sample / PIECE_SAMPLES));
  }

  /** All pieces are fetched anew with another balance. */
  turn(drums: Drums): void {
    this.drums = drums;
    this.forget();
  }

  /** The same places of another source. */
  change(source: string): void {
    this.source = source;
    this.forget();
  }

  /** Whether there is any: a part without a recording has none. */
  get hasSound(): boolean {
    return this.source !== "";
  }

  private forget(): void {
    this.held.clear();
    this.ready.clear();
  }

  /** The decoded piece; null behind the song's end. */
  load(number: number): Promise<AudioBuffer | null> {
    let piece = this.held.get(number);
    if (!piece) {
      piece = this.fetch(number);
      piece.catch(() => this.held.delete(number));
    } else {
      this.held.delete(number); // the newest used stands last
    }
    this.held.set(number, piece);
    for (const old of this.held.keys()) {
      if (this.held.size <= KEPT) break;
      this.held.delete(old);
      this.ready.delete(old);
    }
    return piece;
  }

  /** The piece if it is decoded already. */
  now(number: number): AudioBuffer | null | undefined {
    return this.ready.get(number);
  }

  get count(): number {
    return this.held.size;
  }

  private async fetch(number: number): Promise<AudioBuffer | null> {
    const [drums, source] = [this.drums, this.source];
    let decoded: AudioBuffer | null = null;
    try {
      if (!source) throw new Refusal("", 404);
      const query = drums === "recorded" ? "" : `?drums=${drums}`;
      const bytes = await askBytes(`${source}/${number}${query}`);
      decoded = await this.context.decodeAudioData(bytes);
    } catch (problem) {
      if ((problem as { status?: number }).status !== 404) throw problem;
    }
    if (drums === this.drums && source === this.source) this.ready.set(number, decoded);
    return decoded;
  }
}
