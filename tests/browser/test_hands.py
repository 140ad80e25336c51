"""Kit and hands: the kit is set, a hand forced, another sticking chosen, arrangements switched."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import Song, saved


@pytest.fixture
def hands(song: Song) -> Page:
    song.page.goto(f"{song.address}/songs/{song.pk}/hands")
    expect(song.page.get_by_role("heading", name="Who plays")).to_be_visible()
    return song.page


def row_of(page: Page) -> str:
    label = page.locator(".ways li.on .row").get_attribute("aria-label")
    return (label or "").removeprefix("Hands ")


def test_kit_and_hand_are_set_and_the_limbs_follow(hands: Page, song: Song):
    expect(hands.locator(".ways li.on")).to_be_visible()
    before = row_of(hands)
    hands.get_by_role("button", name="Left-handed").click()
    turned = before.translate(str.maketrans("RL", "LR"))
    expect(hands.locator(".ways li.on .row")).to_have_attribute("aria-label", f"Hands {turned}")
    hands.get_by_role("button", name="splash", exact=True).click()
    saved(hands)
    assert song.score["player"]["lacks"] == ["splash"]
    piece = hands.get_by_role("button", name=re.compile("^Ride: drag"))
    piece.focus()
    hands.keyboard.press("ArrowUp")
    saved(hands)
    assert song.score["player"]["plan"] == [["ride", 1.3, 1]]


def test_a_song_is_counted_and_read_otherwise_than_usual(hands: Page, song: Song):
    count = hands.get_by_label("How I count in this song")
    count.select_option("ta_ka")
    expect(hands.get_by_text("di", exact=True).first).to_be_visible()
    hands.get_by_label("What I read in this song").select_option("limbs")
    saved(hands)
    assert song.score["player"]["counting"] == "ta_ka"
    hands.goto(f"{song.address}/songs/{song.pk}/chart")
    expect(hands.get_by_role("button", name="Limbs", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    song.show("bench")
    expect(hands.get_by_text("di", exact=True).first).to_be_visible()


def test_another_sticking_is_chosen_and_left_to_the_program_again(hands: Page):
    expect(hands.locator(".ways li.on")).to_be_visible()
    before = row_of(hands)
    other = hands.locator(".ways li:not(.on)").first
    wanted = other.locator(".row").get_attribute("aria-label")
    other.get_by_role("button", name="Choose").click()
    expect(hands.locator(".ways li.on .row")).to_have_attribute("aria-label", wanted or "")
    hands.get_by_role("button", name="Leave it to the program").click()
    expect(hands.locator(".ways li.on .row")).to_have_attribute("aria-label", f"Hands {before}")


def test_a_hand_is_forced_on_the_bench(song: Song):
    song.show("bench?bar=2")
    song.page.locator(".spine .stroke.LH").first.click()
    song.page.get_by_role("group", name="Limb", exact=True).get_by_role(
        "button", name="RH", exact=True
    ).click()
    saved(song.page)
    chosen = [s for s in song.score["strokes"] if s["limb_by"] == "person"]
    assert [(s["bar"], s["limb"], s["part"]) for s in chosen] == [(2, "RH", "snare")]


def test_an_arrangement_is_made_switched_and_taken_away(hands: Page, song: Song):
    page = hands
    page.get_by_role("tab", name="Arrange").click()
    page.get_by_role("button", name="1 skeleton").click()
    name = page.locator(".top .arrangement")
    expect(name).to_have_text("Level 1: skeleton")
    saved(page)
    page.get_by_role("tab", name="Chart").click()
    expect(page.locator(".pages svg, svg.page, .page svg").first).to_be_visible()
    expect(name).to_be_visible()
    page.get_by_role("tab", name="Hands").click()
    page.get_by_role("tab", name="Arrange").click()
    page.get_by_role("button", name="As recorded").click()
    expect(name).to_have_count(0)
    page.once("dialog", lambda d: d.accept())
    page.get_by_role("button", name="Take Level 1: skeleton away").click()
    expect(page.get_by_role("button", name="Level 1: skeleton", exact=True)).to_have_count(0)


def test_a_proposal_is_accepted_as_an_arrangement(hands: Page):
    page = hands
    page.get_by_role("tab", name="Arrange").click()
    proposal = page.get_by_role("article").first
    expect(proposal).to_be_visible()
    proposal.get_by_role("button", name="Accept, as an arrangement").click()
    expect(page.locator(".top .arrangement")).to_have_text("My own")
    page.get_by_role("button", name="As recorded").click()
    expect(page.locator(".top .arrangement")).to_have_count(0)
    expect(page.get_by_text(re.compile("Otherwise than recorded in"))).to_be_visible()
    page.once("dialog", lambda d: d.accept())
    page.get_by_role("button", name="Take My own away").click()
    expect(page.get_by_role("button", name="My own", exact=True)).to_have_count(0)


def test_a_section_is_left_out_of_the_chart_and_words_stand_on_the_variations(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/chart")
    page.get_by_role("button", name="Full chart").click()
    sheet = page.locator(".page svg.sheet").first
    expect(sheet).to_contain_text("Steady Rock")
    page.get_by_text("On the sheet").first.click()
    panel = page.get_by_role("group", name="What stands on the sheet")
    panel.get_by_role("checkbox").first.uncheck()
    expect(sheet).to_contain_text("not written out")
    page.get_by_role("button", name="Variations").click()
    words = panel.get_by_label(re.compile("^Words on 1")).first
    words.fill("under the voice")
    words.press("Tab")
    expect(sheet).to_contain_text("under the voice")
    saved(page)
    assert len(song.score["on_paper"]) == 2
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
        saved(page)
    assert song.score["on_paper"] == {}


def test_one_counts_in_words_of_ones_own(hands: Page, song: Song):
    own = hands.get_by_label("My own words to count with")
    own.fill("ti ta")
    own.press("Tab")
    expect(hands.get_by_role("alert")).to_contain_text("five words")
    own.fill("ti & tum la li")
    own.press("Tab")
    expect(hands.get_by_text("tum", exact=True).first).to_be_visible()
    own.fill("")
    own.press("Tab")
    expect(hands.get_by_text("tum", exact=True)).to_have_count(0)


def test_the_chart_has_its_views_and_counts(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/chart")
    sheet = page.locator(".page svg.sheet").first
    expect(sheet).to_contain_text("Steady Rock")
    expect(page.locator(".page .count")).to_have_count(0)
    page.get_by_text("Look", exact=True).click()
    page.get_by_label("Counts").select_option("all")
    expect(page.locator(".page .count").first).to_be_visible()
    page.get_by_role("button", name="Limbs").click()
    expect(page.locator(".page .limb").first).to_have_text("RH")
    page.get_by_role("button", name="Road map").click()
    expect(sheet).to_contain_text("bars")
    expect(page.locator(".page .limb")).to_have_count(0)
    with page.expect_download() as found:
        page.get_by_role("link", name="PDF").click()
    assert found.value.suggested_filename == "Steady Rock - road map.pdf"
    page.get_by_role("button", name="Full chart").click()
    page.get_by_label("Counts").select_option("none")
    expect(page.locator(".page .count")).to_have_count(0)
