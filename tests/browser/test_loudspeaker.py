"""What leaves the page while it plays, in real time: these tests run with nothing beside them."""

import base64
import json
import time

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import wait_until_heard

RATE = 44100

#: Records every sample that passes.
WORKLET = """
const SIZE = 4096; // samples a message: the page has other work to do
registerProcessor("tape", class extends AudioWorkletProcessor {
  process([input]) {
    // A machine that can't keep up leaves blocks out.
    if (this.kept && currentFrame - this.from + 128 > SIZE) {
      this.port.postMessage([this.from, this.kept], [this.kept.buffer]);
      this.kept = null;
    }
    if (!this.kept) [this.kept, this.from] = [new Float32Array(SIZE), currentFrame];
    if (input[0]) this.kept.set(input[0], currentFrame - this.from);
    return true;
  }
});
"""
#: Everything that goes to the loudspeaker, kept by the level it goes with (the click has its own).
RECORD = """
((worklet) => {
  const module = URL.createObjectURL(new Blob([worklet], { type: "text/javascript" }));
  const connect = AudioNode.prototype.connect;
  const tapes = (window.tapes = new Map());
  AudioNode.prototype.connect = function (to, ...rest) {
    const { context } = this;
    if (to instanceof AudioDestinationNode && context instanceof AudioContext && !tapes.has(this)) {
      const blocks = [];
      tapes.set(this, blocks);
      void context.audioWorklet.addModule(module).then(() => {
        const tape = new AudioWorkletNode(context, "tape", { numberOfInputs: 1, channelCount: 1, channelCountMode: "explicit" });
        tape.port.onmessage = (e) => blocks.push(e.data);
        connect.call(this, tape);
      });
    }
    return connect.call(this, to, ...rest);
  };
  /** The samples of the node with a level, as 16-bit numbers in base64. */
  window.tape = (level) => {
    const [, blocks] = [...tapes].find(([node]) => Math.abs(node.gain.value - level) < 1e-3);
    const first = blocks[0][0];
    const whole = new Int16Array(blocks.at(-1)[0] - first + blocks.at(-1)[1].length);
    for (const [at, samples] of blocks) samples.forEach((x, i) => (whole[at - first + i] = Math.round(32767 * x)));
    const bytes = new Uint8Array(whole.buffer);
    let text = "";
    for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
    return { first, text: btoa(text) };
  };
  window.recorded = () => Math.min(tapes.size && Infinity, ...[...tapes.values()].map((blocks) => blocks.reduce((sum, [, b]) => sum + b.length, 0) / 44100));
  window.rewind = () => tapes.forEach((blocks) => (blocks.length = 0));
})
"""
CLICK_LEVEL, KIT_LEVEL = 0.5, 0.85


def tape(page: Page, level: float) -> tuple[int, np.ndarray]:
    """(the frame at which it begins, its samples)."""
    found = page.evaluate("level => window.tape(level)", level)
    return found["first"], np.frombuffer(base64.b64decode(found["text"]), np.int16) / 32767


def onsets(sound: np.ndarray, floor: float = 0.01) -> np.ndarray:
    """Seconds at which clicks begin: sound behind at least 20 ms without."""
    loud = np.flatnonzero(np.abs(sound) > floor)
    first = np.r_[True, np.diff(loud) > 0.02 * RATE]
    return loud[first] / RATE


def is_strong(sound: np.ndarray, at: float) -> bool:
    """Whether a click is the high one of the 1."""
    piece = sound[round(at * RATE) : round(at * RATE) + 600]
    spectrum = np.abs(np.fft.rfft(piece * np.hanning(len(piece)), 8192))
    return np.argmax(spectrum) * RATE / 8192 > 1450


@pytest.mark.parametrize(
    ("song", "bars"), [(1, (3, 9, 18, 31)), (2, (2, 11, 20, 33)), (3, (5, 14, 27, 40))]
)
def test_what_the_loudspeaker_gets_of_a_loop(desk: Page, house, song, bars):
    """Click, kick and hat of the 1 are there in each pass, in the samples that leave the page."""
    page = desk
    wait_until_heard(page, 6)  # then nothing is heard beside it
    page.add_init_script(f"{RECORD}({json.dumps(WORKLET)})")
    for bar in bars:
        page.goto(f"{house.address}/songs/{song}/bench?bar={bar}")
        page.locator(".spine .stroke").first.wait_for()
        clock = page.evaluate(
            """async ([song, bar]) => {
              const { score } = await fetch(`/api/songs/${song}/transcription`).then((r) => r.json());
              const clock = new window.orchesisSound.Clock(score);
              const on = score.strokes.some((s) => s.bar === bar && s.place === "0");
              const beats = Array.from({ length: clock.meters[bar - 1].beats + 1 },
                (_, k) => clock.seconds(clock.starts[bar - 1] + k));
              return { beats, on };
            }""",
            [song, bar],
        )
        page.get_by_role("button", name="Written", exact=True).click()
        page.locator("button.click").click()
        page.get_by_label("Loop", exact=True).get_by_role("button", name="Bar").click()
        beats = np.array(clock["beats"]) - clock["beats"][0]
        length, meter = beats[-1], len(beats) - 1
        play = page.get_by_role("button", name="Play", exact=True)
        play.click()
        page.wait_for_function("() => window.recorded() > 0.1")
        page.get_by_role("button", name="Pause", exact=True).click()
        page.evaluate("window.rewind()")
        page.wait_for_function("() => window.recorded() > 0.1")  # what was under way is through
        page.evaluate("window.rewind()")
        play.click()
        page.wait_for_function("s => window.recorded() > s", arg=3.3 * length + 0.3)
        page.get_by_role("button", name="Pause", exact=True).click()
        (clicked_from, clicked), (struck_from, struck) = (
            tape(page, CLICK_LEVEL),
            tape(page, KIT_LEVEL),
        )
        found = onsets(clicked)
        strong = [is_strong(clicked, t) for t in found]
        start = found[strong.index(True)]  # it began inside the bar: from the first 1 on
        wanted = np.concatenate([start + p * length + beats[:-1] for p in range(3)])
        wanted = wanted[wanted < start + 2.1 * length]
        sounding = found[found > start - 0.001][: len(wanted)]
        assert np.allclose(sounding, wanted, atol=0.002), (song, bar)
        assert [
            n for n, is_one in enumerate(strong[strong.index(True) :][: len(wanted)]) if is_one
        ] == [p * meter for p in range(3)], (song, bar)
        if clock["on"]:
            for p in range(2):
                at = round((start + p * length) * RATE) + clicked_from - struck_from
                attack, before = struck[at : at + 900], struck[max(0, at - 900) : at - 90]
                rise = np.sqrt(np.mean(attack**2)) / (np.sqrt(np.mean(before**2)) + 1e-4)
                assert rise > 1.5, (song, bar, p, rise)


def playing(page: Page) -> float:
    text = page.locator(".where strong").inner_text()
    minutes, seconds = text.split(":")
    return int(minutes) * 60 + int(seconds)


def wait_until_at(page: Page, seconds: float) -> None:
    until = time.monotonic() + 60
    while playing(page) < seconds:
        assert time.monotonic() < until, "it does not go on"
        page.wait_for_timeout(50)


def test_playing_moves_the_cursor_loops_and_slows(desk: Page, house):
    page = desk
    page.goto(f"{house.address}/songs/1/map")
    page.locator("[data-bar]").first.wait_for()
    page.locator("[data-section='sec2'] .time").click()
    start = playing(page)
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    wait_until_at(page, start + 2)
    expect(page.locator(".bar.now")).to_have_count(1)
    page.get_by_label("Loop").get_by_role("button", name="Bar").click()
    looped = page.locator(".where .soft").inner_text()
    page.wait_for_timeout(3200)
    assert page.locator(".where .soft").inner_text() == looped
    page.get_by_role("button", name="No loop").click()
    page.get_by_label("Speed").select_option("0.5")
    before = playing(page)
    wait_until_at(page, before + 1)
    began = time.monotonic()
    wait_until_at(page, before + 4)
    assert time.monotonic() - began > 4, "three seconds of the song take six"
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    stopped = playing(page)
    page.wait_for_timeout(600)
    assert playing(page) == stopped
