"""Pulse and Map put right by keyboard and by pointer, checked on what the server keeps."""

import itertools
import re

import pytest
from playwright.sync_api import expect

from tests.browser.acts import saved


def near(times, moment, window=0.03):
    return min(abs(t - moment) for t in times) < window


def ones(score: dict) -> list[float]:
    at, out = 0, []
    for meter in score["meters"]:
        out.append(score["pulse"][at])
        at += int(meter.split("/")[0])
    return out


def test_a_wrong_tempo_is_put_right_by_key_and_by_pointer(song):
    page = song.page
    before = song.score["pulse"]
    song.key("d")
    expect(page.locator(".tempo strong")).to_have_text("200.0")
    page.get_by_role("button", name="half: 100").click()
    expect(page.locator(".tempo strong")).to_have_text("100.0")
    song.key("h")
    expect(page.locator(".tempo strong")).to_have_text("50.0")
    song.key("d")
    assert song.score["pulse"][:20] == pytest.approx(before[:20], abs=0.002)


def test_a_wrong_one_is_put_right_by_key_and_by_pointer(song):
    page = song.page
    truth = ones(song.score)
    song.key("ArrowRight")
    assert not near(ones(song.score), truth[4])
    song.key("Home")
    for _ in range(12):
        if "Beat 4" in page.locator(".act").nth(1).inner_text():
            break
        song.key(".")
    song.key("1")
    assert near(ones(song.score), truth[4])
    song.key("Shift+ArrowRight")
    assert not near(song.score["pulse"], truth[4])
    page.get_by_role("button", name="Half a beat earlier").click()
    assert near(ones(song.score), truth[4])
    song.key("ArrowRight", "ArrowRight")
    page.locator("[data-beat$='.3']").first.click()
    page.get_by_role("button", name="is the 1").click()
    assert near(ones(song.score), truth[4])


def test_a_meter_holds_from_a_bar_on(song):
    page = song.page
    page.locator("circle.bar").nth(8).click()
    page.get_by_label("Where it holds").select_option("from")
    page.get_by_role("combobox", name="Meter").select_option("3/4")
    score = song.score
    assert score["meters"][:8] == ["4/4"] * 8 and set(score["meters"][8:]) == {"3/4"}
    expect(page.get_by_text("3/4 at 9")).to_be_visible()
    page.get_by_role("combobox", name="Meter").select_option("4/4")
    assert set(song.score["meters"]) == {"4/4"}


# Taps each beat as it sounds; where the machine falters, it begins again further on.
TAP_ALONG = """(beats) => new Promise((done, fail) => {
  const press = (key) => window.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
  const stores = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s;
  const playback = stores.get('playback');
  let [next, taps] = [4, 0];
  const timer = setInterval(() => {
    const late = playback.moment() - beats[next];
    if (late < 0) return;
    if (late > 0.05) {
      press('Escape');
      taps = 0;
      while (beats[next] <= playback.moment() + 0.1) next++;
      return;
    }
    press('t');
    next++;
    if (++taps === 12 || next === beats.length) {
      clearInterval(timer);
      if (taps === 12) done(); else fail(new Error('no twelve even taps'));
    }
  }, 4);
})"""


def test_taps_along_with_the_song_are_taken(song):
    page = song.page
    before = song.score["pulse"]
    song.key("t")
    expect(page.get_by_text("tap along now")).to_be_visible()
    page.evaluate(TAP_ALONG, before)
    song.key("Enter")
    song.key("Space")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    now = song.score["pulse"]
    steps = [b - a for a, b in itertools.pairwise(now)]
    assert abs(sorted(steps)[len(steps) // 2] - 0.6) < 0.02
    assert sum(near(now, t, 0.06) for t in before) > 0.9 * len(before)


def test_a_dragged_beat_moves_and_the_far_ones_stay(song):
    page = song.page
    before = song.score["pulse"]
    handle = page.locator("[data-beat='3.1']")
    box = handle.bounding_box()
    page.mouse.move(box["x"] + 9, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 19, box["y"] + 8, steps=4)
    page.mouse.up()
    now = song.score["pulse"]
    assert 0.05 < now[8] - before[8] < 0.25
    assert now[20] == before[20] and now[2] == before[2]


def test_a_beat_more_and_one_less(song):
    before = song.score["pulse"]
    song.key("Home", ".", "i")
    assert len(song.score["pulse"]) > len(before)
    song.key(".", "x")
    assert song.score["pulse"][:30] == pytest.approx(before[:30], abs=0.002)


def test_locked_bars_refuse_and_say_so(song):
    page = song.page
    song.key("Home", "l")
    expect(page.get_by_role("button", name="Unlock")).to_be_visible()
    assert len(song.score["locked"]) == 1
    page.keyboard.press("h")
    expect(page.get_by_text("unlock them first")).to_be_visible()
    song.key("l")
    assert song.score["locked"] == []


def test_a_confirmed_bar_keeps_its_places_and_is_told(song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/bench?bar=3")
    page.locator(".spine .stroke").first.wait_for()
    song.key("=")
    expect(page.get_by_role("button", name="Confirmed")).to_be_visible()
    before = [(s["part"], s["place"]) for s in song.score["strokes"] if s["bar"] == 3]
    song.show("pulse")
    song.key("Shift+ArrowRight")
    expect(page.get_by_text("Confirmed, but the sound lies elsewhere now")).to_be_visible()
    score = song.score
    [bar] = score["confirmed"]
    assert [(s["part"], s["place"]) for s in score["strokes"] if s["bar"] == bar] == before


def test_a_wrong_border_is_put_right_by_key_and_by_pointer(song):
    page = song.page
    song.show("map")
    expect(page.locator(".section")).to_have_count(2)
    first = song.score["sections"][1]["first_bar"]
    page.locator(".time").nth(1).click()
    song.key("Space", ">")
    expect(page.locator(".section").first).to_contain_text(f"{first} bars")
    assert song.score["sections"][1]["first_bar"] == first + 1
    page.locator(".title").nth(1).click()
    page.get_by_role("button", name="begins a bar earlier").click()
    expect(page.get_by_text(f"Begins at bar {first}")).to_be_visible()
    assert song.score["sections"][1]["first_bar"] == first


def test_sections_are_split_linked_noted_and_joined(song):
    page = song.page
    song.show("map")
    page.locator(".title").first.click()
    page.get_by_role("button", name="Split at bar").click()
    expect(page.locator(".section")).to_have_count(3)
    page.locator(".title").nth(1).click()
    page.get_by_label("Same as").select_option(label=song.score["sections"][0]["name"])
    saved(page)
    sections = song.score["sections"]
    assert sections[1]["label"] == sections[0]["label"]
    expect(page.locator(".section").nth(1)).to_contain_text("as ")
    saved(page)
    page.get_by_label("Note on bar").fill("the singer counts in")
    page.get_by_label("Note on bar").press("Enter")
    saved(page)
    page.get_by_label("Note on the section").fill("softer, on the rim")
    expect(page.get_by_label("Note on the section")).to_have_value("softer, on the rim")
    page.get_by_label("Note on the section").blur()
    page.get_by_role("button", name="Note the same there").click()
    page.get_by_text("Sound of this section").click()
    page.get_by_label("Played with").fill("brushes")
    page.get_by_label("Played with").press("Enter")
    saved(page)
    page.get_by_role("button", name="Bridge").click()
    found = song.score["sections"][1]
    assert found["note"] == "softer, on the rim" and found["sound"] == {"implement": "brushes"}
    assert song.score["sections"][0]["note"] == "softer, on the rim"
    assert list(song.score["notes"].values()) == ["the singer counts in"]
    assert found["name"].startswith("Bridge")
    page.get_by_role("button", name="Join to").click()
    expect(page.locator(".section")).to_have_count(2)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".section")).to_have_count(3)


def test_the_map_says_what_happens_and_what_never_does(song):
    page = song.page
    song.show("map")
    expect(page.locator(".section").first).to_contain_text("bars, hat")
    expect(page.locator(".section").nth(1)).to_contain_text("ride")
    expect(page.locator("[data-bar='9']")).to_have_attribute("title", re.compile("ride"))
