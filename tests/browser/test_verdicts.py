"""Findings can be argued with: a fill is denied, marked, its borders moved; a groove is judged."""

import re

import pytest
from playwright.sync_api import Page, expect
from screenshots import wait_until_heard

from tests.browser.acts import saved


@pytest.fixture
def demo(desk: Page, house):
    """Opens a view of the first demo song; what was said of it is taken back at the end."""
    wait_until_heard(desk, 1)
    songs = desk.request.get(f"{house.address}/api/songs").json()["results"]
    pk = next(s["id"] for s in songs if s["title"].startswith("Copper Weather"))

    def show(view: str) -> Page:
        desk.goto(f"{house.address}/songs/{pk}/{view}")
        return desk

    yield show
    while desk.get_by_role("button", name="Undo").is_enabled():
        desk.get_by_role("button", name="Undo").click()
        saved(desk)


def heading(page: Page):
    return page.locator(".one h2")


def test_a_fill_is_denied_and_told_again(demo):
    page = demo("fills")
    expect(heading(page)).to_be_visible()
    count = page.locator(".table tbody tr").count()
    bar = re.search(r"Bar (\d+)", heading(page).inner_text())[1]
    page.keyboard.press("Delete")
    expect(page.locator(".table tbody tr")).to_have_count(count - 1)
    denied = page.get_by_text("No fill, you said:")
    expect(denied).to_contain_text(f"bar {bar}")
    page.reload()
    expect(denied).to_contain_text(f"bar {bar}")
    denied.get_by_role("button").click()
    expect(page.locator(".table tbody tr")).to_have_count(count)


def test_the_borders_of_a_fill_are_moved_and_it_is_marked(demo):
    page = demo("fills")
    expect(heading(page)).to_be_visible()
    before = page.locator(".tell p").first.inner_text()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(heading(page)).to_contain_text("marked by you")
    expect(page.locator(".tell p").first).not_to_have_text(before)
    page.keyboard.press("Shift+ArrowLeft")
    saved(page)
    page.keyboard.press("u")
    expect(page.locator(".tell p").first).to_have_text(before)


def test_a_fill_that_was_missed_is_marked(demo):
    page = demo("fills")
    expect(heading(page)).to_be_visible()
    count = page.locator(".table tbody tr").count()
    page.keyboard.press("Home")
    page.keyboard.press("n")
    expect(page.locator(".table tbody tr")).to_have_count(count + 1)
    expect(heading(page)).to_contain_text("marked by you")


def test_a_groove_is_named_its_unit_and_core_are_set_by_hand(demo):
    page = demo("grooves")
    entry = page.locator(".list .entry").first
    expect(entry).to_be_visible()
    page.get_by_label("Name of the groove").fill("The copper walk")
    page.get_by_label("Name of the groove").press("Enter")
    expect(entry).to_contain_text("The copper walk")
    page.get_by_label("Bars of the unit").select_option("4")
    expect(page.locator(".spines .spine")).to_have_count(4)
    page.get_by_label("Name a figure of the groove").fill("rolling feet")
    page.get_by_label("Name a figure of the groove").press("Enter")
    expect(page.locator(".tag").filter(has_text="rolling feet")).to_be_visible()
    page.get_by_role("button", name="It is no rolling feet").click()
    expect(page.locator(".tag").filter(has_text="rolling feet")).to_have_count(0)
    kicks = page.locator(".spines [aria-label^='Kick']")
    count = kicks.count()
    kicks.first.dispatch_event("pointerdown")
    page.get_by_role("button", name="is an option", exact=True).click()
    expect(kicks).to_have_count(count - 1)
    page.get_by_role("group", name="What you say of it").get_by_role(
        "button", name="As found"
    ).click()
    expect(entry).not_to_contain_text("The copper walk")
    expect(kicks).not_to_have_count(count - 1)


def test_who_plays_is_set_and_the_limbs_follow(demo):
    page = demo("hands")
    expect(page.get_by_role("group", name="The kit from above")).to_be_visible()
    line = page.locator(".both dl dd")
    expect(line).to_have_count(4)
    right = line.nth(0).inner_text()
    page.get_by_role("button", name="Left-handed").click()
    expect(line.nth(1)).to_have_text(right)  # the left hand has what the right one had
    page.get_by_role("radio", name=re.compile("^Alternating")).click()
    expect(page.get_by_role("radio", name=re.compile("^Alternating"))).to_have_attribute(
        "aria-checked", "true"
    )
    page.reload()
    expect(page.get_by_role("button", name="Left-handed")).to_have_attribute("aria-pressed", "true")


def test_the_swing_of_the_song_is_said(demo):
    page = demo("feel")
    expect(page.locator(".says li").first).to_be_visible()
    page.get_by_label("Swing of the song").select_option("sixteenth")
    expect(page.locator(".says li").first).to_contain_text("16ths swing")
    page.get_by_label("Swing of the song").select_option("none")
    expect(page.locator(".says li").first).to_contain_text("straight")


def test_a_bar_takes_over_what_was_heard_in_it_with_one_key(demo):
    page = demo("bench?bar=6")
    expect(page.locator(".spine .stroke").first).to_be_visible()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("W")  # a cowbell at the cursor
    expect(page.locator(".spine [aria-label^='Cowbell']")).to_have_count(1)
    page.keyboard.press("j")
    page.get_by_role("button", name="as heard").click()
    expect(page.locator(".compare")).to_contain_text("cowbell on 1 is new")
    page.keyboard.press("0")
    expect(page.locator(".compare")).to_contain_text("The same.")
    expect(page.locator(".spines .spine [aria-label^='Cowbell']")).to_have_count(0)
