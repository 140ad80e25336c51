"""What the page plays is the sound that was heard, and the written part is in time with it."""

import pytest
from playwright.sync_api import Page, expect

from tests import songs
from tests.browser.conftest import HEARING
from tests.browser.test_whole_path import add_song
from tests.core.test_sound import AT, FORMATS

RENDER = """
async ({take, seconds, from, rate}) => {
  const {Pieces, Recording} = window.orchesisSound;
  const context = new OfflineAudioContext(2, seconds * 44100, 44100);
  const recording = new Recording(context, new Pieces(context, `takes/${take}/sound`));
  recording.output.connect(context.destination);
  let when = 0;
  for (let song = from * 44100; when < seconds; ) {
    const number = Pieces.at(song);
    if (!(await recording.pieces.load(number))) break;
    const to = (number + 1) * 441000;
    recording.play({when, from: song, to, rate});
    when += (to - song) / 44100;
    song = to;
  }
  const sound = (await context.startRendering()).getChannelData(0);
  return sound;
}
"""


def find_song(page: Page, title: str) -> dict | None:
    every = page.evaluate("fetch('/api/songs').then(r => r.json())")["results"]
    return next((s for s in every if s["title"] == title), None)


def open_song(page: Page, title: str) -> dict:
    found = find_song(page, title)
    assert found is not None
    return found


@pytest.mark.parametrize("ending", FORMATS)
def test_an_impulse_is_heard_and_played_where_it_was(desk: Page, house, tmp_path, ending):
    page = desk
    click = songs.impulse(tmp_path / "click.wav", AT, 12)
    source = songs.converted(click, tmp_path / f"take.{ending}", *FORMATS[ending])
    add_song(page, f"Click {ending}", source)
    expect(page.get_by_role("heading", name=f"Heard: take.{ending}")).to_be_visible(timeout=HEARING)
    song = open_song(page, f"Click {ending}")
    take = song["takes"][0]["id"]
    page.goto(f"{house.address}/songs/{song['id']}/map")
    page.locator("[data-bar]").first.wait_for()
    peak = page.evaluate(
        f"async (a) => {{ const s = await ({RENDER})(a); let best = 0, at = 0;"
        "for (let i = 0; i < s.length; i++) if (i > 6.9 * 44100 && i < 7.7 * 44100 && Math.abs(s[i]) > best)"
        "{ best = Math.abs(s[i]); at = i; } return at / 44100; }",
        {"take": take, "seconds": 12, "from": 0, "rate": 1},
    )
    assert peak == pytest.approx(AT, abs=0.002)
    outline = page.request.get(f"{house.address}/api/takes/{take}/outline").body()
    around = range(int(AT * 100) - 30, int(AT * 100) + 30)  # a peak each 10 ms
    assert max(around, key=lambda k: outline[k]) == int(AT * 100)


def test_the_page_plays_the_very_samples_over_the_joins(desk: Page, house):
    page = desk
    take = open_song(page, "Copper Weather")["takes"][0]["id"]
    page.goto(f"{house.address}/songs/1/map")
    page.locator("[data-bar]").first.wait_for()
    worst = page.evaluate(
        f"""async (a) => {{
          const played = await ({RENDER})(a);
          const context = new OfflineAudioContext(1, 1, 44100);
          let worst = 0;
          for (const n of [0, 1, 2]) {{
            const bytes = await fetch(`/api/takes/${{a.take}}/sound/${{n}}`).then(r => r.arrayBuffer());
            const truth = (await context.decodeAudioData(bytes)).getChannelData(0);
            const shift = Math.round((n * 10 - a.from) * 44100);
            for (let i = 0; i < truth.length; i++) {{
              const k = i + shift;
              if (k >= 0 && k < played.length) worst = Math.max(worst, Math.abs(played[k] - truth[i]));
            }}
          }}
          return worst;
        }}""",
        {"take": take, "seconds": 22, "from": 3.25, "rate": 1},
    )
    assert worst < 1e-6


IN_STEP = """
async ({take, at, rate}) => {
  const {Kit, Pieces, Recording} = window.orchesisSound;
  const lead = 0.5, from = at - 1;
  async function rendered(sounds) {
    const context = new OfflineAudioContext(1, 44100 * 4, 44100);
    await sounds(context);
    return (await context.startRendering()).getChannelData(0);
  }
  /** Where the loudest 4 ms begin, from a moment on. */
  function loudest(sound, start, end) {
    let best = 0, where = 0, sum = 0;
    for (let i = Math.round(start * 44100); i < end * 44100; i++) {
      sum += sound[i] ** 2 - (sound[i - 176] ?? 0) ** 2;
      if (sum > best) { best = sum; where = i - 176; }
    }
    return where / 44100;
  }
  const when = lead + (at - from) / rate;
  const recorded = await rendered(async (context) => {
    const recording = new Recording(context, new Pieces(context, `takes/${take}/sound`));
    recording.output.connect(context.destination);
    await recording.prepare(rate);
    await recording.playStretched({when: lead, from: Math.round(from * 44100), to: Math.round((from + 10) * 44100), rate, pass: 0});
  });
  const written = await rendered(async (context) => {
    const kit = new Kit(context);
    kit.output.connect(context.destination);
    await kit.load(["block"]);
    kit.strike("block", 0.9, when);
  });
  return [loudest(recorded, when - 0.3, when + 0.3) - when, loudest(written, when - 0.3, when + 0.3) - when];
}
"""


@pytest.mark.parametrize("rate", [0.5, 0.75, 1.25, 1.5])
def test_written_strokes_sound_in_time_with_the_slowed_recording(desk: Page, house, tmp_path, rate):
    page = desk
    if not (song := find_song(page, "Click wav")):
        click = songs.impulse(tmp_path / "click.wav", AT, 12)
        add_song(page, "Click wav", click)
        expect(page.get_by_role("heading", name="Heard: click.wav")).to_be_visible(timeout=HEARING)
        song = open_song(page, "Click wav")
    page.goto(f"{house.address}/songs/{song['id']}/map")
    page.locator("[data-bar]").first.wait_for()
    recorded, written = page.evaluate(
        IN_STEP, {"take": song["takes"][0]["id"], "at": AT, "rate": rate}
    )
    print(f"at {rate:.0%}: recording {1000 * recorded:+.1f} ms, written {1000 * written:+.1f} ms")
    assert abs(recorded - written) < 0.005


def test_limbs_and_layers_are_muted_at_will(desk: Page, house):
    page = desk
    page.goto(f"{house.address}/songs/1/bench?bar=6")
    page.locator(".spine .stroke").first.wait_for()
    page.get_by_role("button", name="Written").click()
    page.get_by_label("Limbs of the written part").get_by_role("button", name="RH").click()
    page.get_by_role("button", name="Layers").click()
    page.get_by_role("button", name="Only kick and backbeat").click()
    expect(page.get_by_role("button", name="ghosts")).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("button", name="kick", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    page.keyboard.press("Escape")
    page.keyboard.press("Space")
    page.wait_for_timeout(500)
    page.keyboard.press("Space")
