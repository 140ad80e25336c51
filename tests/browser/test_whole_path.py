"""The whole way on an uploaded recording: take in, see, correct, hear, get the chart."""

import re
import time

import mido
import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import add_song, saved
from tests.browser.conftest import HEARING, PATIENCE


def strokes(page: Page, part: str):
    return page.locator(f".spine .stroke[aria-label^='{part}']")


def test_from_an_uploaded_recording_to_a_chart(desk: Page, rock, tmp_path, house):
    page = desk
    add_song(page, "My Rock", rock)
    expect(page.get_by_role("heading", name="Heard: plain_rock.wav")).to_be_visible(timeout=HEARING)
    expect(page.get_by_text("16 bars of 4/4")).to_be_visible()

    # the pulse: right at once; made wrong by key, and put right by undo
    page.get_by_role("button", name="Check the pulse").click()
    expect(page.locator(".tempo strong")).to_have_text("100.0")
    page.keyboard.press("h")
    expect(page.locator(".tempo strong")).to_have_text("50.0")
    page.keyboard.press("d")
    expect(page.locator(".tempo strong")).to_have_text("100.0")
    page.get_by_role("button", name="A beat later", exact=True).click()
    saved(page)
    page.keyboard.press("Control+z")
    page.get_by_role("combobox", name="Meter").select_option("2/4")
    expect(page.get_by_text("32 bars")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("16 bars")).to_be_visible()

    # the map: two sections; one renamed, its border moved
    page.get_by_role("tab", name="Map").click()
    expect(page.locator(".section")).to_have_count(2)
    expect(page.locator("[data-bar]")).to_have_count(16)
    page.locator(".title").nth(1).click()
    page.get_by_label("Name of the section").fill("Big Chorus")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Big Chorus begins a bar later").click()
    expect(page.get_by_text("Begins at bar 10")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".section").nth(1)).to_contain_text("8 bars")

    # the bench: add by pointer and by key, move, change, remove
    page.locator("[data-bar='2']").click()
    expect(page.locator(".what")).to_contain_text("Bar 2")
    before = strokes(page, "Snare").count()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("s")
    expect(strokes(page, "Snare")).to_have_count(before + 1)
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    page.keyboard.press(".")
    expect(page.locator(".stroke-card")).to_contain_text("written by you")
    page.keyboard.press("/")
    page.keyboard.press("Tab")
    saved(page)
    page.keyboard.press("Delete")
    expect(strokes(page, "Snare")).to_have_count(before)
    cowbells = strokes(page, "Cowbell")
    page.get_by_role("button", name="Cowbell").click()
    lane = page.locator(".lane.LH .catch")
    box = lane.bounding_box()
    page.mouse.click(box["x"] + 26 + (box["width"] - 52) * 3.5 / 8, box["y"] + box["height"] / 2)
    expect(cowbells).to_have_count(1)
    page.keyboard.press("Escape")
    saved(page)

    # still there after a reload, and after the web server was restarted
    page.reload()
    expect(cowbells).to_have_count(1)
    house.end(house.web)
    house.up(house.web)
    page.reload()
    expect(cowbells).to_have_count(1)
    page.get_by_role("tab", name="Map").click()
    expect(page.locator(".title").nth(1)).to_have_text("Big Chorus")

    # the chart and its files
    page.get_by_role("tab", name="Chart").click()
    expect(page.locator(".page svg").first).to_contain_text("My Rock")
    assert page.locator(".page g.note").count() > 150
    page.get_by_text("Files", exact=True).click()
    for name, start in (("PDF", b"%PDF"), ("MusicXML", b"<?xml"), ("on the grid", b"MThd")):
        with page.expect_download() as download:
            page.get_by_role("link", name=name, exact=True).click()
        path = tmp_path / download.value.suggested_filename
        download.value.save_as(path)
        assert path.read_bytes().startswith(start)
    assert "My Rock" in path.name
    assert sum(m.type == "note_on" for t in mido.MidiFile(path).tracks for m in t) > 150


def test_an_edit_made_while_the_server_is_away_is_kept_and_sent(desk: Page, house):
    page = desk
    until = time.monotonic() + 240  # what was added meanwhile is heard before the demo's songs
    while page.request.get(f"{house.address}/api/songs/3/transcription").status != 200:
        assert time.monotonic() < until
        page.wait_for_timeout(500)
    page.goto(f"{house.address}/songs/3/bench?bar=6")
    page.locator(".spine .stroke").first.wait_for()
    page.context.set_offline(True)
    page.keyboard.press("ArrowRight")
    page.keyboard.press("W")
    expect(strokes(page, "Cowbell")).to_have_count(1)
    expect(page.get_by_text("Server away: 1 change is kept here")).to_be_visible()
    page.context.set_offline(False)
    saved(page)
    page.reload()
    expect(strokes(page, "Cowbell")).to_have_count(1)


def test_a_killed_worker_leaves_a_job_that_ends_once(desk: Page, rock, house, tmp_path):
    import os
    import signal

    import numpy as np
    import soundfile as sf

    page = desk
    sound = sf.read(rock)[0]
    long = tmp_path / "long_rock.flac"
    sf.write(long, np.tile(sound, 14), 44100)
    add_song(page, "Long Rock", long)
    expect(
        page.get_by_text(re.compile("Finding the strokes|Listening to the whole")).last
    ).to_be_visible(timeout=PATIENCE)
    expect(page.get_by_role("progressbar")).to_be_visible()

    def job() -> dict:
        shelf = page.request.get(f"{house.address}/api/songs").json()["results"]
        return next(s for s in shelf if s["title"] == "Long Rock")["takes"][0]["job"]

    # Killed in the middle of its work, not while it waits behind other songs.
    until = time.monotonic() + 240
    while (now := job())["state"] == "queued" or now["share"] < 0.1:
        assert time.monotonic() < until
        page.wait_for_timeout(200)
    assert now["state"] == "running"
    os.killpg(house.worker.child.pid, signal.SIGKILL)
    house.worker.child.wait()
    page.goto(house.address)  # the page may be left meanwhile
    house.up(house.worker)
    row = page.get_by_role("row", name=re.compile("Long Rock"))
    expect(row).to_contain_text("Heard, to be corrected", timeout=HEARING)
    songs = page.evaluate("fetch('/api/songs').then(r => r.json())")["results"]
    song = next(s for s in songs if s["title"] == "Long Rock")
    assert [t["job"]["state"] for t in song["takes"]] == ["done"]
    assert song["takes"][0]["job"]["attempt"] == 2
    assert song["bars"] > 100


def test_a_database_that_restarts_in_the_middle_loses_nothing(desk: Page, rock, house, tmp_path):
    import numpy as np
    import soundfile as sf

    page = desk
    long = tmp_path / "other_rock.flac"
    sf.write(long, np.tile(sf.read(rock)[0], 12)[4410:], 44100)
    add_song(page, "Other Rock", long)
    page.get_by_role("progressbar").wait_for()
    house.end(house.database)
    expect(page.get_by_role("alert").first).to_contain_text("nothing is lost", timeout=PATIENCE)
    house.up(house.database)
    expect(page.get_by_role("heading", name="Heard: other_rock.flac")).to_be_visible(
        timeout=HEARING
    )
    expect(page.get_by_role("alert")).to_have_count(0)


def test_an_answer_that_fails_once_while_a_song_is_heard_leaves_no_words_behind(
    desk: Page, tmp_path
):
    """The first question for the strokes, which comes once they are there, may meet a closed door."""
    import soundfile as sf

    from tests import songs as music

    page = desk
    answers = {"door": 503}  # until the words were seen

    def answer(route):
        if answers.get("door"):
            route.fulfill(status=503, json={"detail": "Away just now; nothing is lost."})
        else:
            route.continue_()

    page.route("**/api/songs/*/transcription", answer)
    sf.write(tmp_path / "met_twice.wav", music.drums(lead_in=0.8), 44100)
    add_song(page, "Met Twice", tmp_path / "met_twice.wav")
    expect(page.get_by_role("alert")).to_contain_text("nothing is lost", timeout=HEARING)
    answers["door"] = 0
    expect(page.get_by_role("heading", name="Heard: met_twice.wav")).to_be_visible(timeout=HEARING)
    expect(page.get_by_role("alert")).to_have_count(0)


def test_cancel_and_hear_again(desk: Page, tmp_path):
    import soundfile as sf

    from tests import songs as music

    page = desk
    import numpy as np

    sound = np.tile(music.drums("tempo: 120\nhat: 8ths | =\nsnare: 2 4 | =\nkick: 1 3 | 1 3&"), 60)
    sf.write(tmp_path / "cancel_me.flac", sound, 44100)
    add_song(page, "Cancel Me", tmp_path / "cancel_me.flac")
    page.get_by_role("progressbar").wait_for()
    page.get_by_role("button", name="Cancel", exact=True).click()
    begun = time.monotonic()
    expect(page.get_by_text("Hearing was cancelled; the recording is kept.")).to_be_visible()
    assert time.monotonic() - begun < 6
    page.get_by_role("button", name="Hear it again").click()
    expect(page.get_by_role("heading", name=re.compile("Heard"))).to_be_visible(timeout=HEARING)


def test_a_file_that_is_no_sound_is_refused_in_one_sentence(desk: Page, tmp_path):
    page = desk
    words = tmp_path / "words.mp3"
    words.write_text("only words " * 100)
    add_song(page, "Words", words)
    expect(page.get_by_role("alert")).to_contain_text(
        "“words.mp3” is not a sound file", timeout=PATIENCE
    )
    expect(page.get_by_role("button", name="Hear it again")).to_be_visible()


@pytest.mark.parametrize(
    "view",
    ["", "songs/1/pulse", "songs/1/map", "songs/1/bench", "songs/1/chart", "songs/4/take-in"],
)
def test_no_view_scrolls_sideways_even_on_a_tablet(desk: Page, house, view):
    desk.set_viewport_size({"width": 1024, "height": 768})
    desk.goto(f"{house.address}/{view}")
    desk.locator(".dock" if view.startswith("songs/1") else "main").first.wait_for()
    desk.evaluate("document.fonts.ready.then(() => true)")
    assert desk.evaluate("document.documentElement.scrollWidth") <= 1024


def test_the_keys_are_told(desk: Page, house):
    desk.goto(f"{house.address}/songs/1/map")
    desk.locator("[data-bar]").first.wait_for()
    desk.keyboard.press("?")
    expect(desk.get_by_role("dialog", name="Keys")).to_contain_text("double the tempo")
