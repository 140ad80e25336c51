import { beforeEach, describe, expect, it, vi } from "vitest";
import { Pieces, sampleAt } from "./pieces";

let asked: string[];
let pieces: Pieces;
/** Ten pieces there are; anything behind them is none. */
beforeEach(() => {
  asked = [];
  vi.stubGlobal("fetch", async (url: string) => {
    asked.push(url);
    const there = Number(/\/(\d+)(\?|$)/.exec(url)![1]) < 10;
    return there
      ? { ok: true, arrayBuffer: async () => url }
      : { ok: false, status: 404, headers: new Headers(), text: async () => "", json: async () => ({ detail: "none" }) };
  });
  const context = { decodeAudioData: async (bytes: unknown) => ({ what: bytes }) };
  pieces = new Pieces(context as unknown as BaseAudioContext, "takes/7/sound");
});

describe("pieces of a recording", () => {
  it("are ten seconds long, and a moment on the border belongs to the later one", () => {
    expect([0, 9.99, 10, 10 - 1e-12, 25, -3].map((t) => Pieces.at(sampleAt(t)))).toEqual([0, 0, 1, 1, 2, 0]);
  });

  it("are fetched once and then there at once", async () => {
    expect(pieces.now(2)).toBeUndefined();
    const [a, b] = await Promise.all([pieces.load(2), pieces.load(2)]);
    expect(a).toBe(b);
    expect(pieces.now(2)).toBe(a);
    expect(asked).toEqual(["/api/takes/7/sound/2"]);
  });

  it("end where the song does", async () => {
    expect(await pieces.load(10)).toBeNull();
    expect(pieces.now(10)).toBeNull();
  });

  it("are let go of where too many would lie in memory, the ones that were not used longest first", async () => {
    for (const n of [0, 1, 2, 3, 4, 5, 6, 7]) await pieces.load(n);
    await pieces.load(0);
    await pieces.load(8);
    expect(pieces.count).toBe(8);
    expect(pieces.now(1)).toBeUndefined();
    expect(pieces.now(0)).toBeDefined();
  });

  it("are fetched anew with the drums forward, and what still comes of the old balance is not kept", async () => {
    const late = pieces.load(3);
    pieces.turn("forward");
    await late;
    expect(pieces.now(3)).toBeUndefined();
    await pieces.load(3);
    expect(asked).toEqual(["/api/takes/7/sound/3", "/api/takes/7/sound/3?drums=forward"]);
  });

  it("are asked for again where the way was closed once", async () => {
    const fetching = fetch;
    vi.stubGlobal("fetch", async () => Promise.reject(new TypeError("away")));
    await expect(pieces.load(4)).rejects.toThrow();
    vi.stubGlobal("fetch", fetching);
    expect(await pieces.load(4)).not.toBeNull();
  });

  it("are none of a part without a recording, and nobody is asked", async () => {
    pieces.change("");
    expect(pieces.hasSound).toBe(false);
    expect(await pieces.load(0)).toBeNull();
    expect(asked).toEqual([]);
  });
});
