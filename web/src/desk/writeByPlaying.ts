/** Playing a part in on keys or pads along with the recording; the core's reader writes it. */
import type { PartName } from "@/api/client";
import { onScopeDispose, ref } from "vue";
import { listenToPads, partOfPad, type PadEvent } from "@/audio/pads";
import { loudnessOf } from "@/kit";
import { usePlayback } from "@/stores/playback";
import { useSong } from "@/stores/song";
import { freshId } from "./clipboard";
import { PART_OF } from "@/keys/parts";
import { useKeys } from "@/keys/useKeys";
import type { Writing } from "./writing";

interface Played {
  time: number;
  part: PartName;
  loudness: number;
}

export function useWritingByPlaying(writing: Writing) {
  const desk = useSong();
  const playback = usePlayback();
  const isOn = ref(false);
  const played = ref<Played[]>([]);
  let unplug: (() => void) | null = null;

  function strike(part: PartName, loudness: number, event: Pick<PadEvent, "timeStamp">): void {
    if (playback.isPlaying) played.value.push({ time: playback.moment(event), part, loudness });
  }
  async function start(from: number): Promise<void> {
    played.value = [];
    isOn.value = true;
    playback.play(from);
    unplug = await listenToPads((key, loudness, event) => {
      const found = partOfPad(key);
      if (found) strike(found, loudness, event);
    });
  }
  function end(isKept: boolean): void {
    unplug?.();
    unplug = null;
    isOn.value = false;
    playback.pause();
    if (isKept && played.value.length) desk.edit({ operation: "play_in", hits: played.value, new: freshId() });
    played.value = [];
  }
  useKeys(
    "playing",
    {
      strike: (e, _, usual) => void (e.repeat || strike(PART_OF[usual]!, loudnessOf(writing.touch.value), e)),
      take: () => end(true),
      drop: () => end(false),
    },
    { isOn: () => isOn.value, whereTyped: true },
  );
  onScopeDispose(() => unplug?.());
  return { isOn, played, start, end };
}
