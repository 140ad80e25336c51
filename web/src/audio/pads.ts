/** Strokes from outside the page: MIDI pads or a kit of pads, and the simulated one that ships with us. */
import { useLocalStorage } from "@vueuse/core";
import type { PartName } from "@/api/client";
import { PARTS } from "@/kit";

/** What a device sends; `timeStamp`: when, on the clock of performance.now(). */
export interface PadEvent {
  data: Uint8Array | null;
  timeStamp: number;
}
type Heard = (event: PadEvent) => void;

/** A device that is always connected: what it sends goes the way that all devices go. */
const simulated = new Set<Heard>();
export function sendSimulated(key: number, velocity: number, timeStamp: number): void {
  for (const heard of simulated) heard({ data: new Uint8Array([0x99, key, velocity]), timeStamp });
}

/** Note-ons of any connected pad or keyboard, and of the simulated one. */
export async function listenToPads(struck: (key: number, loudness: number, event: PadEvent) => void): Promise<() => void> {
  const heard: Heard = (event) => {
    const [status = 0, key = 0, velocity = 0] = event.data ?? [];
    if ((status & 0xf0) === 0x90 && velocity > 0) struck(key, velocity / 127, event);
  };
  simulated.add(heard);
  const leave = () => void simulated.delete(heard);
  if (!("requestMIDIAccess" in navigator)) return leave;
  try {
    const access = await navigator.requestMIDIAccess();
    const told = (event: Event) => heard(event as MIDIMessageEvent);
    const inputs = [...access.inputs.values()];
    for (const input of inputs) input.addEventListener("midimessage", told);
    return () => {
      leave();
      inputs.forEach((input) => input.removeEventListener("midimessage", told));
    };
  } catch {
    return leave; // the user said no, or there is no driver
  }
}

/** What each pad is, as its owner taught it on this device: key -> part. */
export const taught = useLocalStorage<Record<string, PartName>>("orchesis.pads", {});
/** The same as lines of a key file, as the formats have it: “snare: 38, 40”. */
export function keysOfPads(): string {
  const keys = new Map<PartName, string[]>();
  for (const [key, name] of Object.entries(taught.value)) keys.set(name, [...(keys.get(name) ?? []), key]);
  return [...keys].map(([name, own]) => `${name}: ${own.join(", ")}`).join("\n");
}
/** The part that a pad strikes: as taught, else by the usual keys. */
export function partOfPad(key: number): PartName | undefined {
  return taught.value[String(key)] ?? PARTS.find((p) => p.midi === key || (p.midi_also as number[]).includes(key))?.name;
}
