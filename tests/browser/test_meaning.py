"""What the strokes mean, used on a demo song: core, options, search, fills, feel, doubt."""

import re
import time

import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import no_faults, saved


def song_of(desk: Page, house, title: str):
    """Opens a view of a demo song, once it is heard."""
    songs = desk.request.get(f"{house.address}/api/songs").json()["results"]
    pk = next(s["id"] for s in songs if s["title"].startswith(title))
    until = time.monotonic() + 150
    while not desk.request.get(f"{house.address}/api/songs/{pk}/grooves").ok:
        assert time.monotonic() < until, f"{title} was not heard in time."
        time.sleep(0.5)

    def show(view: str) -> Page:
        desk.goto(f"{house.address}/songs/{pk}/{view}")
        return desk

    show.pk = pk
    return show


@pytest.fixture
def demo(desk: Page, house):
    return song_of(desk, house, "Late Tram")


def strokes_of(page: Page, part: str) -> int:
    return page.locator(f".spines [aria-label^='{part}']").count()


def test_the_core_is_found_its_layers_and_an_option_are_heard(demo):
    page = demo("grooves")
    entries = page.locator(".list .entry")
    expect(entries.first).to_be_visible()
    page.get_by_role("button", name=re.compile("fixed, 2 bars|2 bars")).first.click()
    expect(page.locator(".spines .spine")).to_have_count(2)
    expect(page.locator(".says li").first).to_contain_text("The second bar")
    hats = strokes_of(page, "Hat closed")
    assert hats >= 16
    page.keyboard.press("1")  # the time layer, off and on
    expect(page.locator(".spines [aria-label^='Hat closed']")).to_have_count(0)
    page.keyboard.press("1")
    expect(page.locator(".spines [aria-label^='Hat closed']")).to_have_count(hats)
    page.keyboard.press("c")  # the core sounds instead of the written part
    expect(page.get_by_role("button", name=re.compile("Core c$"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")


def test_options_are_shown_on_the_core_and_their_bars_are_heard(desk: Page, house):
    page = song_of(desk, house, "Northline")("grooves")
    expect(page.locator(".list .entry").first).to_be_visible()
    for n in range(page.locator(".list .entry").count()):
        page.locator(".list .entry").nth(n).click()
        if page.get_by_role("heading", name="Options", exact=True).count():
            break
    before = page.locator(".spines .stroke").count()
    page.keyboard.press("e")
    expect(page.locator(".spines .stroke").nth(before - 1)).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Without options"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Hear bar")).first.click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")


def test_its_kick_is_searched_on_the_shelf_and_the_threshold_moves_the_core(demo):
    page = demo("grooves")
    expect(page.locator(".list .entry").first).to_be_visible()
    page.locator(".list .entry").nth(2).click()
    page.keyboard.press("k")
    found = page.get_by_role("list", name="Found")
    expect(found.get_by_role("listitem").first).to_contain_text("the same")
    found.get_by_role("button").first.click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    page.get_by_label("Share of the bars that makes a stroke core").fill("1")
    expect(page.get_by_text("100 %").first).to_be_visible()


def test_a_fill_is_opened_played_and_kept(demo):
    page = demo("fills")
    rows = page.locator(".table tbody tr")
    expect(rows.first).to_be_visible()
    page.keyboard.press(">")
    chosen = page.locator("tr.chosen")
    expect(chosen).to_have_count(1)
    bar = page.locator(".one h2").inner_text()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")
    page.keyboard.press("l")
    expect(page.get_by_text("Kept: the fill of bar")).to_be_visible()
    page.get_by_role("button", name=re.compile("My collection")).click()
    card = page.locator(".kept article").first
    expect(card).to_contain_text("Late Tram")
    assert re.search(r"bar (\d+)", card.inner_text())[1] in bar
    card.get_by_label(re.compile("Note on the fill")).fill("into the chorus")
    card.get_by_label(re.compile("Note on the fill")).press("Enter")
    page.reload()
    page.get_by_role("button", name=re.compile("My collection")).click()
    expect(page.get_by_label(re.compile("Note on the fill")).first).to_have_value("into the chorus")
    page.get_by_role("button", name=re.compile("^Take the fill")).first.click()
    expect(page.locator(".kept article")).to_have_count(0)


def test_the_feel_is_read_and_the_written_part_takes_it_on(demo):
    page = demo("feel")
    expect(page.locator(".says li").first).to_contain_text("16ths swing, 0.")
    expect(page.locator(".says")).to_contain_text("laid back")
    expect(page.locator("circle.dot").first).to_be_visible()
    page.keyboard.press(">")
    expect(page.locator(".chip.on")).not_to_have_text("Whole song")
    with page.expect_response(re.compile("/feel$")):
        page.keyboard.press("f")
    expect(page.get_by_role("button", name=re.compile("With the song's feel"))).to_have_attribute(
        "aria-pressed", "true"
    )
    page.locator("circle.dot").first.dispatch_event("click")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("Space")


def test_a_doubt_is_decided_and_prints_as_a_footnote(demo, house):
    page = demo("bench?bar=6")
    expect(page.locator(".spine .stroke").first).to_be_visible()
    page.keyboard.press("Q")
    ask = page.locator(".ask")
    expect(ask).to_be_visible()
    leave_out = page.get_by_role("button", name=re.compile("left out|leave (it|them) out"))
    while not leave_out.count():  # what is asked of a whole sound can't be left out
        asked = ask.inner_text()
        page.keyboard.press(">")
        expect(ask).not_to_have_text(asked, use_inner_text=True)
    page.keyboard.press("L")  # there, but left out
    saved(page)
    page.keyboard.press("Escape")
    told = page.request.get(f"{house.address}/api/songs/{demo.pk}/decisions").json()["decisions"]
    assert told and told[0]["who"] == "demo" and told[0]["doubt"] == "left_out"
    page = demo("chart")
    page.get_by_text("Look", exact=True).click()
    page.get_by_label(re.compile("as footnotes")).check()
    expect(page.locator("text.foot").first).to_contain_text("left out")
    while page.get_by_role("button", name="Undo").is_enabled():
        page.get_by_role("button", name="Undo").click()
        saved(page)


def test_views_are_turned_by_key(demo):
    page = demo("grooves")
    expect(page.locator(".list .entry").first).to_be_visible()
    for name in ("fills", "feel", "hands", "chart", "practice"):
        page.keyboard.press("PageDown")
        page.wait_for_url(f"**/{name}")
    page.keyboard.press("PageUp")
    page.wait_for_url("**/chart")
    page.keyboard.press("G")
    page.wait_for_url("**/grooves")


@pytest.mark.parametrize("view", ["grooves", "fills", "feel", "hands", "practice"])
def test_nothing_serious_stands_in_the_way_of_anybody(demo, view):
    page = demo(view)
    expect(page.locator(".list .entry, .table, .board, .hands, .stage").first).to_be_visible()
    no_faults(page)
