/**
 * Every bar of a song as a loop, rendered offline by the page's own transport. Each click and each voice of
 * the kit sounds as one short blip on a channel of its own, so that what sounds can be counted.
 *
 * Answers faults in words; none: right.
 */
async ({ song, rates, every }) => {
  const { Clock, Transport, breath, clicks, countIn, countedAloud, eventsOf } = window.orchesisSound;
  const RATE = 44100, BLIP = 44, LATE = 0.002, MERGED = BLIP / RATE + 0.0005;
  const { score } = await fetch(`/api/songs/${song}/transcription`).then((r) => r.json());
  const clock = new Clock(score);
  const blip = new AudioBuffer({ length: BLIP, sampleRate: RATE });
  blip.getChannelData(0).fill(1);
  const byBar = new Map();
  for (const s of score.strokes) byBar.set(s.bar, [...(byBar.get(s.bar) ?? []), s]);
  const strokesOf = (bar) => byBar.get(bar) ?? [];
  const heard = (strokes) => eventsOf({ cues: {} }, strokes, clock, "grid", {}, new Set());
  const all = Array.from({ length: clock.bars }, (_, n) => n + 1);
  const written = eventsOf({ cues: {} }, score.strokes, clock, "grid", {}, new Set());
  const counted = countedAloud(clock, strokesOf);
  const faults = [];
  let events = 0;

  /** Moments that lie so near that they sound as one. */
  function moments(times) {
    const sorted = [...times].sort((a, b) => a - b);
    return sorted.filter((t, n) => n === 0 || t - sorted[n - 1] > MERGED);
  }
  /** Where silence ends on a channel, in seconds. */
  function onsets(samples) {
    const found = [];
    for (let i = 1; i < samples.length; i++) if (samples[i] > 1e-5 && samples[i - 1] <= 1e-5) found.push(i / RATE);
    return found;
  }

  for (const bar of all) {
    const [from, to] = [clock.barStart(bar), clock.barEnd(bar)];
    const length = to - from;
    for (const [n, rate] of rates.entries()) {
      const breathes = (bar + n) % 2 === 0;
      const counts = (bar + n) % 3 === 0;
      const fading = (bar + n) % every === 0;
      const passes = fading ? 9 : 2;
      const rest = breathes ? breath(clock, bar) : null;
      const lead = counts ? countIn(clock, bar) : [];
      const meter = clock.meters[bar - 1];
      const channels = [
        ...[1, 2, 4, 3].map((parts) => ({
          what: `clicks, ${parts} a beat`, ticks: clicks(clock, parts, all), fades: fading,
          own: Array.from({ length: meter.beats * parts }, (_, k) => clock.seconds(clock.starts[bar - 1] + k / parts)),
        })),
        { what: "counted", ticks: counted, own: counted.filter((t) => t.time > from - 1e-6 && t.time < to - 1e-6).map((t) => t.time) },
        { what: "written", written, own: heard(strokesOf(bar)).map((e) => e.time) },
        { what: "alternating", written, turns: true, own: heard(strokesOf(bar)).map((e) => e.time) },
      ];
      const wait = 0.25 + (lead.length ? length / rate : 0);
      const pass = (length + (rest?.seconds ?? 0)) / rate;
      const seconds = wait + passes * pass + 0.05;
      const context = new OfflineAudioContext(channels.length, Math.ceil(seconds * RATE), RATE);
      context.resume_ = context.resume.bind(context);
      context.resume = () => Promise.resolve(); // it runs by itself
      const merger = new ChannelMergerNode(context, { numberOfInputs: channels.length });
      merger.connect(context.destination);
      const transports = [];
      for (const [k, channel] of channels.entries()) {
        const input = new GainNode(context);
        input.connect(merger, 0, k);
        Object.defineProperty(context, "destination", { value: input, configurable: true });
        const t = new Transport(context, "", clock.end + 1);
        t.kit.load = t.kit.loadWords = async () => {};
        t.kit.ready = { get: () => blip };
        t.kit.ticks.set(true, blip).set(false, blip);
        t.setSounding(channel.turns ? "alternate" : "written");
        if (channel.ticks) t.setTicks(channel.ticks.map((c) => (c.bar === undefined ? c : { ...c, bar: c.bar + 1 - bar })));
        t.setWritten(channel.written ?? []);
        t.setPractising({ fades: channel.fades ? 1 : 0, breath: rest });
        t.setLoop([from, to]);
        t.setRate(rate);
        transports.push(t);
      }
      const begins = [];
      for (const t of transports) {
        await t.play(from, lead);
        clearInterval(t.timer); // its time is the rendering's
        begins.push((t.slices[0] ?? t.next).when);
      }
      const steps = Math.floor((seconds - 0.01) / 0.04);
      for (let k = 1; k <= steps; k++) {
        void context.suspend(k * 0.04).then(async () => {
          for (const t of transports) if (t.isPlaying) t.tick();
          await Promise.resolve();
          context.resume_();
        });
      }
      const sound = await context.startRendering();
      for (const [k, channel] of channels.entries()) {
        const found = onsets(sound.getChannelData(k));
        const begin = begins[k];
        const wanted = [];
        for (const c of lead) wanted.push(begin - c.time / rate);
        for (let p = 0; p <= passes; p++) {
          const at = begin + p * pass;
          const isSilent = (channel.turns && p % 2 === 0) || (channel.fades && Math.floor(p / 4) % 2 === 1);
          if (!isSilent) for (const time of channel.own) wanted.push(at + (time - from) / rate);
          if (rest) for (const c of rest.clicks) wanted.push(at + length / rate + c.time / rate);
        }
        // What lies where the rendering ends is not looked at.
        let cut = seconds - 0.08;
        while (wanted.some((t) => Math.abs(t - cut) < 0.004)) cut -= 0.009;
        const expected = moments(wanted).filter((t) => t < cut);
        const sounding = found.filter((t) => t < cut);
        events += expected.length;
        const far = expected.find((t, n) => !(Math.abs((sounding[n] ?? -1) - t) < LATE));
        if (expected.length !== sounding.length || far !== undefined) {
          faults.push(`bar ${bar} at ${rate}, ${channel.what}: ${sounding.length} of ${expected.length} sound; the first amiss is at ${far?.toFixed(4)}`);
        }
      }
    }
  }
  return { faults, events, bars: all.length };
}
