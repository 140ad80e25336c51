/** Our own kit: one-shots chosen and scaled by the core's rule (orchesis/sounding). */
import { SAMPLES, part } from "@/kit";

export interface Sounding {
  time: number;
  part: string;
  loudness: number;
}

const CHOKE = 0.03;

export function layerFor(name: string, loudness: number): { file: string; gain: number } {
  const known = part(name);
  const layers = SAMPLES[known.sample]!;
  const layer = layers.reduce((best, l) =>
    Math.abs(l.velocity - loudness) < Math.abs(best.velocity - loudness) ? l : best,
  );
  return { file: layer.file, gain: (loudness / layer.velocity) ** 2 * known.gain };
}

export class Kit {
  readonly output: GainNode;
  private readonly shots = new Map<string, Promise<AudioBuffer>>();
  private readonly ready = new Map<string, AudioBuffer>();
  private ringing: { gain: GainNode; source: AudioBufferSourceNode; when: number }[] = [];
  private readonly sources = new Set<AudioBufferSourceNode>();

  constructor(private readonly context: BaseAudioContext) {
    this.output = new GainNode(context);
  }

  /** Fetches every one-shot that these parts need. */
  async load(parts: Iterable<string>): Promise<void> {
    const files = new Set<string>();
    for (const name of parts) for (const layer of SAMPLES[part(name).sample]!) files.add(layer.file);
    await Promise.all([...files].map((f) => this.shot(f)));
  }

  private shot(file: string): Promise<AudioBuffer> {
    let held = this.shots.get(file);
    if (!held) {
      held = fetch(`/static/kit/${file}`)
        .then((r) => r.arrayBuffer())
        .then((b) => this.context.decodeAudioData(b));
      this.shots.set(file, held);
      held.then(
        (b) => this.ready.set(file, b),
        () => this.shots.delete(file),
      );
    }
    return held;
  }

  /** Sounds one stroke at a context time; a stroke whose one-shot is not loaded is left out. */
  strike(name: string, loudness: number, when: number): void {
    const { file, gain } = layerFor(name, loudness);
    const buffer = this.ready.get(file);
    if (!buffer) return;
    const source = new AudioBufferSourceNode(this.context, { buffer });
    const level = new GainNode(this.context, { gain });
    source.connect(level).connect(this.output);
    source.start(when);
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
    if (part(name).family === "hat") {
      for (const open of this.ringing) {
        if (open.when < when - 0.005) {
          open.gain.gain.setValueAtTime(open.gain.gain.value, when);
          open.gain.gain.linearRampToValueAtTime(0, when + CHOKE);
        }
      }
      this.ringing = [{ gain: level, source, when }];
    }
  }

  stop(): void {
    for (const source of this.sources) source.stop();
    this.sources.clear();
    this.ringing = [];
  }
}
