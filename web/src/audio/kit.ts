/** Our own kit: one-shots chosen and scaled by the core's rule (orchesis/sounding). */
import { CLICK, SAMPLES, STOP, VOICE, part } from "@/kit";


export function layerFor(name: string, loudness: number): { file: string; gain: number } {
  const known = part(name);
  const layers = SAMPLES[known.sample]!;
  const layer = layers.reduce((best, l) =>
    Math.abs(l.velocity - loudness) < Math.abs(best.velocity - loudness) ? l : best,
  );
  return { file: layer.file, gain: (loudness / layer.velocity) ** 2 * known.gain };
}

/** Before a word that is no word of the count, but one that the house has a voice say. */
export const SAID = "say ";

export class Kit {
  readonly output: GainNode;
  /** The click has a level of its own. */
  readonly click: GainNode;
  private readonly ticks = new Map<boolean, AudioBuffer>();
  private readonly shots = new Map<string, Promise<AudioBuffer>>();
  private readonly ready = new Map<string, AudioBuffer>();
  private ringing: { gain: GainNode; source: AudioBufferSourceNode; when: number }[] = [];
  private readonly sources = new Set<AudioBufferSourceNode>();

  /** words: the address under which words are said aloud. */
  constructor(private readonly context: BaseAudioContext, private readonly words = "/api/spoken-words") {
    this.output = new GainNode(context);
    this.click = new GainNode(context, { gain: CLICK.gain });
  }

  /** Fetches every one-shot that these parts need. */
  async load(parts: Iterable<string>): Promise<void> {
    const files = new Set<string>();
    for (const name of parts) for (const layer of SAMPLES[part(name).sample]!) files.add(layer.file);
    await Promise.all([...files].map((f) => this.shot(f)));
  }

  /** Fetches the words that are counted with. */
  async loadWords(words: Iterable<string>): Promise<void> {
    await Promise.all([...new Set(words)].map((w) => {
      if (w.startsWith(SAID)) return this.shot(w, "", `${this.words}/${encodeURIComponent(w.slice(SAID.length))}`).catch(() => {}); // what nobody says here is left out
      return VOICE[w] && this.shot(VOICE[w], "voice");
    }));
  }

  /** One word of the count at a context time; what is not loaded is left out. */
  say(word: string, when: number): void {
    const buffer = this.ready.get(VOICE[word] ?? word);
    if (!buffer) return;
    const source = new AudioBufferSourceNode(this.context, { buffer });
    source.connect(this.click);
    source.start(when);
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
  }

  private shot(file: string, folder = "kit", address = `/static/${folder}/${file}`): Promise<AudioBuffer> {
    let held = this.shots.get(file);
    if (!held) {
      held = fetch(address)
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
  strike(name: string, loudness: number, when: number, choked = false): void {
    const { file, gain } = layerFor(name, loudness);
    const buffer = this.ready.get(file);
    if (!buffer) return;
    const source = new AudioBufferSourceNode(this.context, { buffer });
    const level = new GainNode(this.context, { gain });
    source.connect(level).connect(this.output);
    source.start(Math.max(0, when));
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
    if (choked) {
      level.gain.setValueAtTime(gain, when + STOP.held);
      level.gain.linearRampToValueAtTime(0, when + STOP.held + STOP.fade);
    }
    if (part(name).family === "hat") {
      for (const open of this.ringing) {
        if (open.when < when - STOP.apart) {
          open.gain.gain.setValueAtTime(open.gain.gain.value, when);
          open.gain.gain.linearRampToValueAtTime(0, when + STOP.fade);
        }
      }
      this.ringing = [{ gain: level, source, when }];
    }
  }

  /** One click at a context time. */
  tick(isStrong: boolean, when: number): void {
    let buffer = this.ticks.get(isStrong);
    if (!buffer) {
      const rate = this.context.sampleRate;
      buffer = new AudioBuffer({ length: Math.round(CLICK.length * rate), sampleRate: rate });
      const wave = buffer.getChannelData(0);
      const pitch = isStrong ? CLICK.strong : CLICK.weak;
      wave.forEach((_, i) => {
        wave[i] = Math.sin((2 * Math.PI * pitch * i) / rate) * Math.exp(-i / (CLICK.decay * rate));
      });
      this.ticks.set(isStrong, buffer);
    }
    const source = new AudioBufferSourceNode(this.context, { buffer });
    source.connect(this.click);
    source.start(when);
    this.sources.add(source);
    source.onended = () => this.sources.delete(source);
  }

  stop(): void {
    for (const source of this.sources) source.stop();
    this.sources.clear();
    this.ringing = [];
  }
}
