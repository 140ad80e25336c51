"""What a loop sounds like: counted in the samples that the page's own transport renders."""

from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.browser.conftest import wait_until_heard
from tests.browser.test_sound import open_song

HERE = Path(__file__).parent
RATE = 44100
RATES = [0.5, 0.73, 1, 1.25]
#: Every so many loops one goes round nine times, with a click that fades.
FADING = 16


DEMO = (
    "Copper Weather",
    "Late Tram, Lower Deck",
    "Northline",
    "Glass Orchard",
    "Square at Noon",
    "Lantern Steps",
)


@pytest.mark.parametrize("title", DEMO)
def test_each_bar_as_a_loop_sounds_whole(desk: Page, house, title):
    """Clicks of every division, the count, the written part; counted in, with a bar of rest, in turns."""
    page = desk
    wait_until_heard(page, len(DEMO))
    song = open_song(page, title)["id"]
    page.goto(f"{house.address}/songs/{song}/map")
    page.locator("[data-bar]").first.wait_for()
    page.set_default_timeout(300_000)
    found = page.evaluate(
        (HERE / "loops.js").read_text(), {"song": song, "rates": RATES, "every": FADING}
    )
    assert found["bars"] > 10 and found["events"] > 1000
    assert not found["faults"], "\n".join(found["faults"][:12])


ROUND = """
async ({take, from, to}) => {
  const { Transport } = window.orchesisSound;
  const RATE = 44100, seconds = 0.2 + 2.5 * (to - from);
  const context = new OfflineAudioContext(2, Math.round(seconds * RATE), RATE);
  const goOn = context.resume.bind(context);
  context.resume = () => Promise.resolve();
  const t = new Transport(context, `takes/${take}/sound`, 60);
  t.setLoop([from, to]);
  for (const n of [0, 1]) await t.recording.pieces.load(n);
  await t.play(from);
  clearInterval(t.timer);
  const start = Math.round(t.slices[0].when * RATE);
  for (let k = 1; k < seconds / 0.04 - 1; k++) void context.suspend(k * 0.04).then(async () => { t.tick(); goOn(); });
  const played = (await context.startRendering()).getChannelData(0);
  const pieces = [0, 1].map((n) => t.recording.pieces.now(n).getChannelData(0));
  const [first, last] = [from, to].map((s) => Math.round(s * RATE));
  let worst = 0;
  for (let i = start; i < played.length - 2000; i++) {
    const at = first + ((i - start) % (last - first));
    worst = Math.max(worst, Math.abs(played[i] - 0.85 * pieces[at < 441000 ? 0 : 1][at % 441000]));
  }
  return worst;
}
"""


def test_a_loop_over_the_join_of_two_pieces_plays_the_very_samples(desk: Page, house):
    page = desk
    page.goto(f"{house.address}/songs/1/map")
    page.locator("[data-bar]").first.wait_for()
    take = page.evaluate("fetch('/api/songs/1').then(r => r.json())")["takes"][0]["id"]
    for start, end in ((9.31, 10.770013), (9.2000117, 10.0), (10.0, 10.9)):
        assert page.evaluate(ROUND, {"take": take, "from": start, "to": end}) < 1e-5
