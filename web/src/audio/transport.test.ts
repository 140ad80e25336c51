import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Transport } from "./transport";

/** Just enough of an audio context to see what is scheduled, and when. */
const scheduled: { what: string; when: number; offset?: number; duration?: number }[] = [];

const turns: [number, number][] = [];

class FakeNode {
  gain = { value: 1, setValueAtTime: (v: number, when: number) => turns.push([v, when]), linearRampToValueAtTime() {}, cancelScheduledValues() {} };
  onended: (() => void) | null = null;
  constructor(
    _context: unknown,
    private readonly options: { buffer?: { name: string } } = {},
  ) {}
  connect(to: unknown) {
    return to;
  }
  start(when: number, offset?: number, duration?: number) {
    scheduled.push({ what: this.options.buffer?.name ?? "", when, offset, duration });
  }
  stop() {}
  disconnect() {}
}
class FakeBuffer {
  name = "tick";
  constructor(private readonly of: { length: number }) {}
  getChannelData() {
    return new Float32Array(this.of.length);
  }
}

class FakeContext {
  sampleRate = 44100;
  currentTime = 100;
  outputLatency = 0;
  destination = {};
  resume() {
    return Promise.resolve();
  }
  decodeAudioData(bytes: { name: string }) {
    return Promise.resolve({ name: bytes.name, numberOfChannels: 1 });
  }
}

let context: FakeContext;
let transport: Transport;

function recordings() {
  return scheduled.filter((s) => s.what.includes("/sound/"));
}
function strikes() {
  return scheduled.filter((s) => s.what.includes("/kit/"));
}
async function settle() {
  for (let i = 0; i < 12; i++) await Promise.resolve();
}
async function run(seconds: number) {
  for (let t = 0; t < seconds; t += 0.04) {
    context.currentTime += 0.04;
    await vi.advanceTimersByTimeAsync(40);
  }
}

beforeEach(() => {
  vi.useFakeTimers();
  scheduled.length = turns.length = 0;
  vi.stubGlobal("AudioBuffer", FakeBuffer);
  vi.stubGlobal("AudioBufferSourceNode", FakeNode);
  vi.stubGlobal("GainNode", FakeNode);
  vi.stubGlobal("fetch", (url: string) =>
    Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve({ name: url }) }),
  );
  context = new FakeContext();
  transport = new Transport(context as unknown as AudioContext, "takes/7/sound", 25);
});
afterEach(() => {
  transport.pause();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("the transport", () => {
  it("joins the pieces of the recording by sample", async () => {
    await transport.play(8);
    await settle();
    await run(4);
    const [first, second] = recordings();
    expect(first).toMatchObject({ what: "/api/takes/7/sound/0", offset: 8 });
    expect(second).toMatchObject({ what: "/api/takes/7/sound/1", offset: 0 });
    expect(first!.when + first!.duration!).toBeCloseTo(second!.when, 9);
    expect((first!.when * 44100) % 1).toBeCloseTo(0, 3);
  });

  it("has both pieces of a loop over their border before it begins", async () => {
    let answer = () => {};
    vi.stubGlobal("fetch", (url: string) => {
      const piece = { ok: true, arrayBuffer: () => Promise.resolve({ name: url }) };
      return url.endsWith("/1") ? new Promise((done) => (answer = () => done(piece))) : Promise.resolve(piece);
    });
    transport.setLoop([9.5, 11.5]);
    void transport.play(9.6);
    await settle();
    await run(1);
    expect(recordings()).toEqual([]);
    answer();
    await settle();
    await run(2);
    const [first, second] = recordings();
    expect(first!.when + first!.duration!).toBeCloseTo(second!.when, 9);
  });

  it("fetches words that are said aloud where it was told to, each once", async () => {
    const asked: string[] = [];
    vi.stubGlobal("fetch", (url: string) => {
      asked.push(url);
      return Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve({ name: url }) });
    });
    const ticks = [1, 2, 3].map((time) => ({ time, isStrong: false, word: time === 2 ? "say ta la" : "say ti" }));
    new Transport(context as unknown as AudioContext, "takes/7/sound", 25, "/api/player/k/words").setTicks(ticks);
    transport.setTicks(ticks);
    await settle();
    expect(asked).toEqual(["/api/player/k/words/ti", "/api/player/k/words/ta%20la", "/api/spoken-words/ti", "/api/spoken-words/ta%20la"]);
  });

  it("leaves out what a page that was held up would play too late", async () => {
    transport.setTicks([1, 2, 3, 4].map((time) => ({ time, isStrong: false })));
    await transport.play(0.5);
    await settle();
    await run(0.2);
    context.currentTime += 1.6; // nobody could do anything for that long: two seconds are gone by
    const before = scheduled.length;
    await run(2.2);
    const ticks = scheduled.slice(before).filter((s) => s.what === "tick");
    expect(ticks).toHaveLength(2);
    const [third, fourth] = ticks;
    expect(fourth!.when - third!.when).toBeCloseTo(1, 6);
    expect(third!.when).toBeGreaterThan(101.8);
  });

  it("waits for a piece that comes too late, and then goes on", async () => {
    let arrive = () => {};
    vi.stubGlobal("fetch", async (url: string) => {
      if (url.endsWith("/1")) await new Promise<void>((done) => (arrive = done));
      return { ok: true, arrayBuffer: () => Promise.resolve({ name: url }) };
    });
    const states: { playing: boolean; waiting: boolean }[] = [];
    transport.onstate = (s) => states.push(s);
    await transport.play(5.5);
    await settle();
    await run(5.5);
    expect(states.at(-1)).toEqual({ playing: true, waiting: true });
    arrive();
    await settle();
    await run(1);
    expect(states.at(-1)).toEqual({ playing: true, waiting: false });
    expect(recordings().at(-1)!.what).toBe("/api/takes/7/sound/1");
    expect(transport.position).toBeGreaterThan(10.5);
  });

  it("tells where it is, and keeps its place when it pauses", async () => {
    await transport.play(3);
    await settle();
    await run(2);
    expect(transport.position).toBeGreaterThan(4.8);
    expect(transport.position).toBeLessThan(5.05);
    transport.pause();
    const rest = transport.position;
    await run(1);
    expect(transport.position).toBe(rest);
  });

  it("sounds written strokes in time with the recording, once each", async () => {
    transport.setSounding("both");
    transport.setWritten([
      { time: 4, part: "kick", loudness: 0.7 },
      { time: 3.5, part: "snare", loudness: 0.9 },
      { time: 9, part: "kick", loudness: 0.7 },
    ]);
    await settle();
    await transport.play(3);
    await settle();
    await run(2);
    const start = recordings()[0]!.when;
    expect(strikes().map((s) => +(s.when - start).toFixed(6))).toEqual([0.5, 1]);
  });

  it("rests its click four bars in eight where it is to fade", async () => {
    const tick = vi.spyOn(transport.kit, "tick");
    transport.setTicks([{ time: 2.1, isStrong: true, bar: 0 }, { time: 2.6, isStrong: true, bar: 1 }]);
    transport.setPractising({ fades: 2, breath: null });
    transport.setLoop([2, 3]);
    await transport.play(2);
    await settle();
    await run(4.4);
    const start = recordings()[0]!.when;
    expect(tick.mock.calls.map(([, when]) => +(when - start).toFixed(3)).slice(0, 5)).toEqual([0.1, 0.6, 1.1, 1.6, 4.1]);
  });

  it("counts a bar to breathe between two passes", async () => {
    const tick = vi.spyOn(transport.kit, "tick");
    transport.setPractising({ fades: 0, breath: { seconds: 0.5, clicks: [{ time: 0.25, isStrong: false }] } });
    transport.setLoop([2, 3]);
    await transport.play(2);
    await settle();
    await run(3);
    const passes = recordings();
    expect(passes[1]!.when - passes[0]!.when).toBeCloseTo(1.5, 6);
    expect(tick.mock.calls[0]![1] - passes[0]!.when).toBeCloseTo(1.25, 6);
  });

  it("goes round a loop without a gap, strokes included", async () => {
    transport.setSounding("both");
    transport.setWritten([{ time: 2.5, part: "kick", loudness: 0.7 }]);
    transport.setLoop([2, 3]);
    await settle();
    await transport.play(2);
    await settle();
    await run(3.2);
    const passes = recordings();
    expect(passes.length).toBeGreaterThanOrEqual(3);
    for (let i = 1; i < passes.length; i++) {
      expect(passes[i]!.when - passes[i - 1]!.when).toBeCloseTo(1, 6);
      expect(passes[i]!.offset).toBeCloseTo(2, 6);
    }
    const kicks = strikes().map((s) => s.when);
    expect(kicks.length).toBeGreaterThanOrEqual(3);
    expect(kicks[1]! - kicks[0]!).toBeCloseTo(1, 6);
    expect(transport.position).toBeGreaterThanOrEqual(2);
    expect(transport.position).toBeLessThan(3.001);
  });

  it("lets the recording and the written part take turns, pass by pass", async () => {
    transport.setWritten([{ time: 2.5, part: "kick", loudness: 0.7 }]);
    transport.setLoop([2, 3]);
    transport.setSounding("alternate");
    await settle();
    await transport.play(2);
    await settle();
    await run(3.8);
    const start = recordings()[0]!.when;
    expect(strikes().map((s) => +(s.when - start).toFixed(6))).toEqual([1.5, 3.5]);
    const heard = turns.map(([level, when]) => [level > 0, +(when - start).toFixed(6)]);
    expect(heard.slice(0, 3)).toEqual([[false, 1], [true, 2], [false, 3]]);
  });

  it("counts in and clicks in time with the recording", async () => {
    transport.setTicks([{ time: 4, isStrong: true }, { time: 4.5, isStrong: false }]);
    await transport.play(4, [{ time: 1, isStrong: true }, { time: 0.5, isStrong: false }]);
    await settle();
    await run(2.2);
    const start = recordings()[0]!.when;
    const ticks = scheduled.filter((s) => s.what === "tick").map((s) => +(s.when - start).toFixed(6));
    expect(ticks).toEqual([-1, -0.5, 0, 0.5]);
  });

  it("clicks on the 1 of a loop in each pass, wherever it lies between two samples", async () => {
    for (let n = 0; n < 40; n++) {
      const from = 2 + n * 0.0137 + (n % 5) / (2 * 44100);
      const length = 0.31 + (n % 3) / (2 * 44100);
      scheduled.length = 0;
      transport.setTicks([0, 0.5, 1].map((k) => ({ time: from + k * length, isStrong: k === 0 })));
      transport.setLoop([from, from + length]);
      await transport.play(from);
      await settle();
      await run(1.5);
      const start = recordings()[0]!.when;
      const ticks = scheduled.filter((s) => s.what === "tick").map((s) => s.when - start);
      expect(ticks.length).toBeGreaterThanOrEqual(8);
      ticks.forEach((at, k) => expect(Math.abs(at - (k * length) / 2)).toBeLessThan(0.0003));
      transport.pause();
    }
  });

  it("ends at the song's end and can begin again", async () => {
    const states: boolean[] = [];
    transport.onstate = (s) => states.push(s.playing);
    await transport.play(24.5);
    await settle();
    await run(1.5);
    expect(transport.isPlaying).toBe(false);
    expect(states.at(-1)).toBe(false);
    expect(transport.position).toBe(25);
    await transport.play();
    await settle();
    expect(recordings().at(-1)!.offset).toBe(0);
  });

  it("seeks while it plays and while it rests", async () => {
    transport.seek(12);
    expect(transport.position).toBe(12);
    await transport.play();
    await settle();
    transport.seek(5);
    await settle();
    expect(recordings().at(-1)).toMatchObject({ what: "/api/takes/7/sound/0", offset: 5 });
  });

  it("brings the drums forward where it stands, and keeps nothing of the other balance", async () => {
    await transport.play(8);
    await settle();
    await run(0.5);
    transport.setDrums("forward");
    await settle();
    await run(0.1);
    const last = recordings().at(-1)!;
    expect(last.what).toBe("/api/takes/7/sound/0?drums=forward");
    expect(last.offset!).toBeGreaterThan(8.4);
    expect(last.offset!).toBeLessThan(8.7);
    transport.setDrums("recorded");
    await settle();
    await run(0.1);
    expect(recordings().at(-1)!.what).toBe("/api/takes/7/sound/0");
  });

  it("plays excerpts in a row, joined where a piece ends, and rests behind the last", async () => {
    transport.setSounding("written");
    await transport.excerpts([[3, 3.5], [9.8, 10.3], [20, 20.5]]);
    expect(recordings().map((r) => [r.what.at(-1), r.offset])).toEqual([["0", 3], ["0", 9.8], ["1", 0], ["2", 0]]);
    const at = recordings().map((r) => r.when);
    expect(at[1]! - at[0]!).toBeCloseTo(0.65, 3);
    expect(at[2]! - at[1]!).toBeCloseTo(0.2, 3);
    expect(transport.isPlaying).toBe(true);
    await run(2.4);
    expect(transport.isPlaying).toBe(false);
    expect(transport.position).toBeCloseTo(20.5);
    expect(strikes()).toEqual([]);
  });

  it("drops excerpts that something else comes before", async () => {
    const first = transport.excerpts([[3, 3.5], [20, 20.5]]);
    await transport.play(5);
    await first;
    await settle();
    expect(recordings().map((r) => r.offset)).toEqual([5]);
  });

  it("keeps only a few pieces decoded", async () => {
    for (let n = 0; n < 30; n++) await transport.recording.pieces.load(n);
    expect(transport.recording.pieces.count).toBeLessThanOrEqual(8);
  });
});
