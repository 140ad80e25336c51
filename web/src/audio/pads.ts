/** Note-ons of any connected MIDI pad or keyboard; silent where the browser knows no MIDI. */
export async function listenToPads(struck: (key: number, loudness: number, event: Event) => void): Promise<() => void> {
  if (!("requestMIDIAccess" in navigator)) return () => {};
  try {
    const access = await navigator.requestMIDIAccess();
    const heard = (event: MIDIMessageEvent) => {
      const [status = 0, key = 0, velocity = 0] = event.data ?? [];
      if ((status & 0xf0) === 0x90 && velocity > 0) struck(key, velocity / 127, event);
    };
    const inputs = [...access.inputs.values()];
    for (const input of inputs) input.addEventListener("midimessage", heard);
    return () => inputs.forEach((input) => input.removeEventListener("midimessage", heard));
  } catch {
    return () => {}; // the user said no, or there is no driver
  }
}
