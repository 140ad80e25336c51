import { afterEach, describe, expect, it, vi } from "vitest";
import { listenToPads } from "./pads";

afterEach(() => vi.unstubAllGlobals());

class Pad extends EventTarget {
  strike(...data: number[]) {
    this.dispatchEvent(Object.assign(new Event("midimessage"), { data: new Uint8Array(data) }));
  }
}

describe("pads", () => {
  it("tells note-ons and nothing else, until it is left", async () => {
    const pad = new Pad();
    vi.stubGlobal("navigator", { requestMIDIAccess: () => Promise.resolve({ inputs: new Map([["a", pad]]) }) });
    const struck: number[] = [];
    const leave = await listenToPads((key) => struck.push(key));
    pad.strike(0x99, 38, 90);
    pad.strike(0x99, 38, 0);
    pad.strike(0x89, 38, 64);
    pad.strike(0xb0, 4, 127);
    leave();
    pad.strike(0x90, 36, 90);
    expect(struck).toEqual([38]);
  });

  it("is silent without MIDI, and where it is refused", async () => {
    vi.stubGlobal("navigator", {});
    (await listenToPads(() => expect.fail()))();
    vi.stubGlobal("navigator", { requestMIDIAccess: () => Promise.reject(new Error("no")) });
    (await listenToPads(() => expect.fail()))();
  });
});
