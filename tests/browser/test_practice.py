"""Practice room: stages are chosen, played, judged by one key, up the ladder until learned."""

import re

import soundfile as sf
from playwright.sync_api import Page, expect

from tests.browser.acts import Song, saved
from tests.browser.conftest import PATIENCE


def test_a_stage_is_played_and_climbs_its_ladder_until_it_is_learned(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice")
    stages = page.get_by_role("list", name="Stages").get_by_role("button")
    expect(stages.first).to_be_visible()
    expect(page.locator(".room h2")).to_contain_text("alone")
    page.keyboard.press(">")
    expect(stages.nth(1)).to_have_attribute("aria-current", "step")
    page.keyboard.press("<")
    tempo = page.locator(".tempo")
    start = tempo.inner_text()
    page.keyboard.press("c")
    play = page.locator(".acts button").first
    expect(play).to_contain_text("Stop")
    play.click()
    expect(play).to_contain_text("Play the stage")
    for _ in range(3):
        page.keyboard.press("1")
    expect(tempo).not_to_have_text(start)
    page.keyboard.press("3")
    expect(tempo).to_have_text(start)
    for _ in range(40):
        page.keyboard.press("1")
    expect(page.get_by_text("Learned: at the song's tempo")).to_be_visible(timeout=PATIENCE)
    page.reload()
    expect(page.get_by_label("learned", exact=True)).to_be_visible()
    page.get_by_label("Order of the stages").select_option("skeleton")
    expect(stages.first).to_contain_text("Kick and backbeat")


def _room(song: Song, bar: int) -> Page:
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice?first={bar}&last={bar}&order=skeleton")
    expect(page.locator(".room h2")).to_be_visible()
    return page


def test_the_simulated_kit_climbs_a_ladder_by_what_it_plays(song: Song):
    page = _room(song, 3)
    page.get_by_label("Played in by").select_option("simulated")
    page.get_by_label("Late by").fill("0")
    rungs = page.get_by_role("list", name="Tempo ladder").get_by_role("listitem")
    rungs.first.click()  # the focus leaves the fields: keys are the room's
    page.keyboard.press("J")
    expect(page.get_by_text("Learned: at the song's tempo")).to_be_visible(timeout=240_000)
    expect(page.locator(".advice")).to_contain_text("That was it")
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Play it in")).to_be_visible()
    page.get_by_role("button", name="My practice").click()
    expect(page.get_by_role("list", name="Plan for today")).to_contain_text("weak spot")


def test_a_late_foot_is_told_and_holds_the_ladder(song: Song):
    page = _room(song, 4)
    page.get_by_label("Played in by").select_option("simulated")
    page.get_by_label("Late by").fill("45")
    page.get_by_role("list", name="Tempo ladder").get_by_role("listitem").first.click()
    tempo = page.locator(".tempo").inner_text()
    page.keyboard.press("J")
    expect(page.locator(".advice")).to_contain_text("right foot", timeout=60_000)
    page.keyboard.press("Escape")
    expect(page.locator(".tempo")).to_have_text(tempo)


def test_what_is_struck_on_keys_goes_the_same_way(song: Song):
    page = _room(song, 3)
    page.get_by_role("list", name="Tempo ladder").get_by_role("listitem").first.click()
    page.keyboard.press("J")
    expect(page.get_by_role("button", name="Listening, loop 1")).to_be_visible()
    for _ in range(60):
        page.keyboard.press("k")
        if page.locator(".advice").is_visible():
            break
        page.wait_for_timeout(150)  # strokes in time, as a player's are
    expect(page.locator(".advice")).to_be_visible(timeout=PATIENCE)
    page.keyboard.press("Escape")
    page.get_by_text("Teach my pads").click()
    expect(page.locator(".how details button").first).to_contain_text("as usual")


def test_a_round_of_which_was_it_is_played_by_keys(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice")
    page.get_by_role("button", name="Which was it?").click()
    for kind in ("section", "one"):
        page.get_by_label("What is asked").select_option(kind)
        expect(page.locator(".told")).to_contain_text("Listen")
        expect(page.locator(".where")).to_contain_text("listen")  # the dock gives nothing away
        answers = page.get_by_role("list", name="Answers").get_by_role("button")
        expect(answers.first).to_be_enabled()
        page.locator(".which h2").click()
        page.keyboard.press("2")
        expect(page.locator(".told")).to_contain_text("ar")  # Bar 3, in Verse 1: told either way
        expect(page.locator(".option.right")).to_have_count(1)
        page.keyboard.press("c")
        page.keyboard.press("Enter")
        expect(page.locator(".told")).to_contain_text("Listen")
    page.get_by_role("button", name="Stages").click()
    expect(page.locator(".where")).not_to_contain_text("listen")


def test_the_song_goes_by_sections_with_words_notes_and_a_clip(song: Song, tmp_path):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice?first=2&last=3")
    page.get_by_text("The song, section by section").click()
    joins = page.get_by_role("button", name=re.compile("The join into"))
    joins.first.click()
    expect(page.get_by_label("Order of the stages")).to_have_value("whole")
    expect(page.get_by_role("list", name="Stages").get_by_role("listitem")).to_have_count(1)
    first = int(page.get_by_label("First bar").input_value())
    assert int(page.get_by_label("Last bar").input_value()) == first + 3
    page.get_by_role("button", name="Notes", exact=True).click()
    expect(page.get_by_role("img", name="The stage as notes")).to_be_visible()
    page.get_by_text("Rhythm words: say it").click()
    page.get_by_role("button", name=re.compile("^Take “")).first.click()
    saved(page)
    expect(page.locator(".staff .spoken").first).to_be_visible()
    words = page.get_by_label(re.compile("^Rhythm words of bar")).first
    accepted = words.input_value()
    words.fill("too-FEW")
    words.press("Tab")
    refusal = page.locator(".rhythm li").first.get_by_role("alert")
    expect(refusal).to_be_visible()
    expect(words).to_have_value("too-FEW")  # what was refused can be put right
    words.fill(accepted)
    words.press("Tab")
    expect(refusal).to_have_count(0)
    page.get_by_label("Click of the stage").select_option(label="rhythm words")
    with page.expect_response(re.compile("/api/spoken-words/")) as said:
        page.locator(".acts button").first.click()
    assert said.value.ok
    expect(page.locator(".acts button").first).to_contain_text("Stop")
    page.locator(".acts button").first.click()
    sound = tmp_path / "so.wav"
    sf.write(sound, [0.0, 0.3, -0.3] * 2000, 8000)
    page.get_by_role("button", name="Change the plan").click()
    page.get_by_label("Clip from a file").set_input_files(sound)
    expect(page.locator("audio[aria-label='so.wav']")).to_be_visible()
    page.get_by_role("button", name="Take the clip so.wav away").click()
    expect(page.locator("audio[aria-label='so.wav']")).to_have_count(0)
