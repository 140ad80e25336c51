import { beforeEach, describe, expect, it, vi } from "vitest";
import { type Pieces, sampleAt } from "./pieces";
import { Recording, type Slice } from "./recording";

interface Node { kind: string; to: Node[]; options: Record<string, unknown> }
let made: Node[];
let started: number[][];
let stopped: number;
class Fake {
  to: unknown[] = [];
  onended: (() => void) | null = null;
  constructor(readonly kind: string, readonly options: Record<string, unknown> = {}) {
    made.push(this as unknown as Node);
  }
  connect(other: unknown) { this.to.push(other); return other; }
  disconnect() { this.to = []; }
  start(...at: number[]) { started.push(at); }
  stop() { stopped += 1; }
}
const scheduled: Record<string, unknown>[] = [];
let buffers: number;
vi.mock("signalsmith-stretch", () => ({
  default: async () => ({
    connect: () => undefined,
    schedule: async (what: Record<string, unknown>) => void scheduled.push(what),
    addBuffers: async () => void buffers++,
    dropBuffers: async () => { buffers = 0; },
  }),
}));

const LAST = 3;
const asked: number[] = [];
const piece = { numberOfChannels: 1, getChannelData: () => new Float32Array(4) };
const pieces = {
  hasSound: true,
  now: (n: number) => (n <= LAST ? piece : undefined),
  load: async (n: number) => (asked.push(n), n <= LAST ? piece : null),
  turn: vi.fn(), change: vi.fn(),
};
let own: Recording;
const context = { currentTime: 0 };
const slice = (from: number, to: number, rate = 1): Slice => ({ when: 100, from: sampleAt(from), to: sampleAt(to), rate, pass: 0 });

beforeEach(() => {
  [made, started, stopped, buffers] = [[], [], 0, 0];
  scheduled.length = asked.length = 0;
  pieces.hasSound = true;
  for (const kind of ["GainNode", "BiquadFilterNode", "AudioBufferSourceNode"]) {
    vi.stubGlobal(kind, class extends Fake { constructor(_: unknown, options?: Record<string, unknown>) { super(kind, options); } });
  }
  context.currentTime = 99;
  own = new Recording(context as unknown as BaseAudioContext, pieces as unknown as Pieces);
});

describe("a recording at its own speed", () => {
  it("sounds by sample: a slice begins at its place in its piece", () => {
    own.play(slice(12.5, 13));
    expect(started).toEqual([[100, 2.5, 0.5]]);
  });

  it("begins further on where it is laid too late, so that what follows stays in time", () => {
    context.currentTime = 100.25;
    own.play(slice(12.5, 13));
    expect(started).toEqual([[100.25, 2.75, 0.25]]);
    context.currentTime = 100.5;
    own.play(slice(12.5, 13));
    expect(started).toHaveLength(1);
  });

  it("is joined where two pieces meet, to the sample", () => {
    own.play(slice(9.9, 10));
    own.play(slice(10, 10.4));
    expect(started.map(([, offset]) => offset)).toEqual([Math.round(9.9 * 44100) / 44100, 0]);
  });

  it("is silent where its piece is not there yet, or there is no more of it", () => {
    own.play(slice(45, 46));
    expect(started).toEqual([]);
  });

  it("stops all that sounds, and once", () => {
    own.play(slice(0, 1));
    own.play(slice(1, 2));
    own.stop();
    own.stop();
    expect(stopped).toBe(2);
  });
});

describe("a recording at another speed", () => {
  it("goes through the stretcher, not through the samples", async () => {
    own.play(slice(12.5, 13, 0.5));
    await own.playStretched(slice(12.5, 13, 0.5));
    expect(started).toEqual([]);
    expect(scheduled).toEqual([{ output: 100, input: 2.5, rate: 0.5, active: true }]);
  });

  it("is fed ahead, piece by piece, as far as the song goes", async () => {
    await own.playStretched(slice(1, 2, 0.7));
    await own.feed(2);
    await own.feed(9);
    expect(buffers).toBe(LAST + 1);
    expect(asked).toEqual([0, 1, 2, 3, 4]);
  });

  it("is fed anew after a leap to where nothing was fed", async () => {
    await own.playStretched(slice(1, 2, 0.7));
    await own.playStretched(slice(31, 32, 0.7));
    expect(buffers).toBe(1);
    expect(scheduled.at(-1)).toMatchObject({ input: 1 });
  });

  it("is fed anew with the drums turned", async () => {
    await own.playStretched(slice(1, 2, 0.7));
    own.turn("forward");
    await own.playStretched(slice(1, 2, 0.7));
    expect(pieces.turn).toHaveBeenCalledWith("forward");
    expect(asked).toEqual([0, 0]);
  });

  it("falls silent with the rest", async () => {
    await own.playStretched(slice(1, 2, 0.7));
    own.stop();
    expect(scheduled.at(-1)).toEqual({ active: false });
  });

  it("that is none needs no stretcher", async () => {
    pieces.hasSound = false;
    await own.prepare(0.5);
    await own.playStretched(slice(1, 2, 0.5));
    expect(scheduled).toEqual([]);
  });
});

describe("a band of it alone", () => {
  it("is cut twice on either side, and all of it comes back", () => {
    const out = {} as AudioNode;
    own.filter([200, 2000], out);
    const cuts = made.filter((n) => n.kind === "BiquadFilterNode");
    expect(cuts.map((n) => [n.options.type, n.options.frequency])).toEqual([
      ["highpass", 200], ["highpass", 200], ["lowpass", 2000], ["lowpass", 2000],
    ]);
    expect(cuts.at(-1)!.to).toEqual([out]);
    own.filter(null, out);
    expect(cuts.every((n) => n.to.length === 0)).toBe(true);
    expect((own.output as unknown as Node).to).toEqual([out]);
  });
});
