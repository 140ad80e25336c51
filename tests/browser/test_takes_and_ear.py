"""Other takes, a video, cues and the ear's keys on the Bench."""

import subprocess

import pytest
from playwright.sync_api import expect

from tests import songs
from tests.browser.acts import saved


@pytest.fixture
def bench(song):
    song.show("bench?bar=3")
    return song


def test_a_live_video_is_laid_over_the_song_and_put_in_its_place_by_one_key(bench, tmp_path):
    page = bench.page
    live = songs.write(
        tmp_path / "live.wav",
        songs.drums(songs.ROCK.replace("tempo: 100", "tempo: 110"), lead_in=1.2),
    )
    video = tmp_path / "live.webm"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            "testsrc=size=160x120:rate=25",
            "-i",
            str(live),
            "-shortest",
            "-c:v",
            "libvpx",
            "-b:v",
            "200k",
            "-c:a",
            "libopus",
            str(video),
        ],
        check=True,
    )
    page.goto(f"{bench.address}/songs/{bench.pk}/take-in")
    page.locator(".others input[type=file]").set_input_files(str(video))
    expect(page.locator(".others")).to_contain_text("live.webm, video, laid over", timeout=400_000)
    expect(page.locator(".others")).to_contain_text("% alike")
    bench.show("bench?bar=5")
    picture = page.locator("video")
    expect(picture).to_be_visible()
    page.wait_for_function("() => document.querySelector('video').readyState >= 1")
    bar = bench.score["pulse"][16]  # bar 5 begins
    page.wait_for_function(
        "([song]) => Math.abs(document.querySelector('video').currentTime - (1.2 + (song - 0.5) / 1.1)) < 0.12",
        arg=[bar],
    )
    before = picture.evaluate("v => v.currentTime")
    page.get_by_role("button", name="A frame on").click()
    page.wait_for_function(
        "t => document.querySelector('video').currentTime > t + 0.01", arg=before
    )
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press('"')
    expect(page.get_by_label("Take that sounds")).not_to_have_value("")
    with page.expect_request(lambda r: "/sound/" in r.url) as sent:
        page.keyboard.press("Space")
    takes = page.request.get(f"{bench.address}/api/songs/{bench.pk}").json()["takes"]
    assert f"takes/{takes[-1]['id']}/sound" in sent.value.url
    page.keyboard.press("Space")


def test_a_cue_is_taken_from_text_shown_heard_and_printed(bench):
    page = bench.page
    page.keyboard.press("y")
    field = page.locator("#count-text")
    expect(field).not_to_have_value("")
    field.fill('cue: "horns" 1 2& 4\n' + field.input_value())
    page.keyboard.press("Control+Enter")
    expect(page.locator(".spine .cue")).to_contain_text("horns")
    expect(page.locator(".spine .cue path")).to_have_count(3)
    saved(page)
    page.goto(f"{bench.address}/songs/{bench.pk}/chart")
    expect(page.locator(".page svg").first).to_contain_text("horns")
    expect(page.locator(".page svg").first).to_contain_text("1 2& 4")


def test_a_cue_is_tapped_along_with_the_recording(bench):
    page = bench.page
    beats = bench.score["pulse"][8:12]  # bar 3
    page.keyboard.press("y")
    page.get_by_role("button", name="Tap a cue").click()
    page.evaluate(
        """(moments) => new Promise((done) => {
          const stores = document.querySelector('#app').__vue_app__.config.globalProperties.$pinia._s;
          const playback = stores.get('playback');
          const timer = setInterval(() => {
            if (moments.length && playback.moment() >= moments[0]) {
              moments.shift();
              document.body.dispatchEvent(
                new KeyboardEvent('keydown', { key: 't', bubbles: true }));
            }
            if (!moments.length) { clearInterval(timer); done(); }
          }, 4);
        })""",
        beats[:3],
    )
    page.keyboard.press("Enter")
    expect(page.locator(".spine .cue path").first).to_be_visible()
    assert bench.score["cues"]["3"]["places"]


def test_the_ear_has_a_key_for_each_thing(bench):
    page = bench.page
    dock = page.get_by_label("Transport")
    for key, name in (("O", "Recording"), ("V", "Written"), ("U", "In turn")):
        page.keyboard.press(key)
        expect(dock.get_by_role("button", name=name, exact=True)).to_have_attribute(
            "aria-pressed", "true"
        )
    page.keyboard.press("!")
    expect(dock.get_by_role("button", name="Beats")).to_be_visible()
    page.keyboard.press("&")
    expect(dock.get_by_role("button", name="Count in")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("N")
    expect(page.locator(".hints")).to_contain_text("hears the band of the snare")
    page.keyboard.press("Z")
    expect(dock.get_by_role("button", name="Layers")).to_have_class("plain on")

    def loop():
        edges = page.locator(".sounds .loop").bounding_box()
        return edges["width"] if edges else 0

    page.keyboard.press("U")
    page.keyboard.press("_")  # alternating had looped the bar: the same key lets it go
    page.keyboard.press("(")
    beat = loop()
    page.keyboard.press("_")
    assert loop() == pytest.approx(4 * beat, rel=0.05)
    wave = page.locator(".sounds .wave").first.bounding_box()
    unit = (wave["width"] - 52) / 4
    page.mouse.move(wave["x"] + 26 + unit + 5, wave["y"] + 20)
    page.mouse.down()
    page.mouse.move(wave["x"] + 26 + 3 * unit - 4, wave["y"] + 20, steps=4)
    page.mouse.up()
    assert loop() == pytest.approx(2 * beat, rel=0.05)


def test_a_sound_is_heard_in_five_strokes_named_for_all_and_taken_back(song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/take-in")
    rows = page.locator(".sounds li")
    hats = rows.filter(has_text="Hat closed").first
    count = int(hats.locator(".count").inner_text().split()[0])
    assert count > 20
    hats.click()
    with page.expect_request(lambda r: "/sound/" in r.url):
        page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    with page.expect_request(lambda r: "drums=forward" in r.url):
        page.keyboard.press(".")
    expect(page.get_by_role("button", name="Drums forward", exact=True)).to_be_visible()
    page.keyboard.press("r")
    expect(page.locator(".sounds")).to_contain_text("named by you")
    saved(page)
    assert sum(s["part"] == "ride" for s in song.score["strokes"]) >= count
    page.keyboard.press("Control+z")
    expect(page.locator(".sounds")).not_to_contain_text("named by you")
    rows.filter(has_text="Hat closed").first.click()
    page.keyboard.press("Delete")
    expect(page.locator(".sounds li.none")).to_contain_text("nothing of it is written")
    saved(page)
    page.keyboard.press("Control+z")
    expect(page.locator(".sounds li.none")).to_have_count(0)
    saved(page)
