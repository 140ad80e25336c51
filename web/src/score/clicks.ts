/** The click of a song: what clicks when, before the start and between two passes of a loop. */
import type { Practising, Tick } from "@/audio/transport";
import type { Clock } from "./time";

/** Clicks of some bars, `parts` a beat. */
export function clicks(clock: Clock, parts: number, bars: readonly number[]): Tick[] {
  const first = bars[0] ?? 1;
  return bars.flatMap((bar) =>
    Array.from({ length: clock.meters[bar - 1]!.beats * parts }, (_, k) => ({
      time: clock.seconds(clock.starts[bar - 1]! + k / parts),
      isStrong: k === 0,
      bar: bar - first,
    })),
  );
}

/** One bar of beats at the length of a bar, in seconds from its start. */
function beatsOf(clock: Clock, bar: number): { seconds: number; times: number[] } {
  const beats = clock.meters[bar - 1]!.beats;
  const seconds = clock.barEnd(bar) - clock.barStart(bar);
  return { seconds, times: Array.from({ length: beats }, (_, k) => (k * seconds) / beats) };
}

/** A bar of clicks before the start, at the tempo of the bar that comes; times are seconds before it. */
export function countIn(clock: Clock, bar: number): Tick[] {
  const { seconds, times } = beatsOf(clock, bar);
  return times.map((time) => ({ time: seconds - time, isStrong: time === 0 }));
}

/** A bar of rest between two passes of a loop, as long as a bar. */
export function breath(clock: Clock, bar: number): NonNullable<Practising["breath"]> {
  const { seconds, times } = beatsOf(clock, bar);
  return { seconds, clicks: times.map((time) => ({ time, isStrong: time === 0 })) };
}
