"""The workshop around a song: people, lists, requests, files, one's own keys."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Route, expect

from tests.browser.acts import Song
from tests.browser.conftest import PATIENCE

PASSWORD = "nine brass lanterns"


def other_window(page: Page, **size) -> Page:
    window = page.context.browser.new_context(**size).new_page()
    window.set_default_timeout(PATIENCE)
    return window


def test_a_song_is_shared_talked_about_and_changed_by_nobody_who_may_not(song: Song):
    page, house = song.page, song.address
    page.goto(f"{house}/people")
    page.get_by_label("Name of a band or class").fill("The Ferrymen")
    page.get_by_role("button", name="Found it").click()
    group = page.get_by_role("article", name="The Ferrymen")
    group.get_by_role("button", name="a player").click()
    address = group.get_by_role("link", name="Invitation").get_attribute("href")
    page.goto(house)
    page.get_by_role("button", name="Share and describe Steady Rock").click()
    page.get_by_role("button", name="The Ferrymen").click()
    expect(page.get_by_role("button", name="The Ferrymen")).to_have_attribute(
        "aria-pressed", "true"
    )
    # Somebody new comes by the invitation.
    theirs = other_window(page)
    theirs.goto(f"{house}{address}")
    theirs.get_by_label("Name").fill("maren")
    theirs.get_by_label("Password").fill("password")
    theirs.get_by_role("button", name="Make my account").click()
    expect(theirs.get_by_role("alert")).to_contain_text("too common")
    theirs.get_by_label("Password").fill(PASSWORD)
    theirs.get_by_role("button", name="Make my account").click()
    theirs.get_by_role("link", name="Steady Rock").click()
    expect(theirs.get_by_text("to play along").first).to_be_visible()
    theirs.goto(f"{house}/songs/{song.pk}/bench?bar=2")
    theirs.locator(".spine .stroke").first.click()
    before = theirs.locator(".spine .stroke").count()
    theirs.keyboard.press("Delete")
    expect(theirs.get_by_text("is shared with you to play along")).to_be_visible()
    assert theirs.locator(".spine .stroke").count() == before
    theirs.keyboard.press("F4")
    theirs.get_by_label("Comment", exact=True).fill("@demo is this a ghost?")
    theirs.get_by_role("button", name="Say it").click()
    expect(theirs.get_by_role("button", name="bar 2", exact=True)).to_be_visible()
    # The owner is asked, answers, settles.
    page.goto(f"{house}/people")
    asked = page.get_by_label("You are asked")
    expect(asked).to_contain_text("is this a ghost?")
    asked.get_by_role("link").click()
    talk = page.get_by_label("Comments and history", exact=True).last
    talk.get_by_role("button", name="Answer").click()
    page.get_by_label("Comment", exact=True).fill("It is.")
    page.get_by_role("button", name="Say it").click()
    expect(talk).to_contain_text("It is.")
    talk.get_by_role("button", name="Settled", exact=True).click()
    expect(talk).to_contain_text("Show 1 settled")
    theirs.context.close()


def test_a_version_is_named_and_brought_back(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/bench?bar=2")
    page.locator(".spine .stroke").first.wait_for()
    before = page.locator(".spine .stroke").count()
    page.keyboard.press("F4")
    page.get_by_role("button", name="History", exact=True).click()
    page.get_by_label("Name for this version").fill("Before the gig")
    page.get_by_role("button", name="Name it").click()
    page.locator(".spine .stroke").first.click()
    page.keyboard.press("Delete")
    expect(page.locator(".spine .stroke")).to_have_count(before - 1)
    expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    expect(page.locator(".talk ol li").first).to_contain_text("demo")
    page.get_by_role("button", name="What differs").click()
    expect(page.locator(".talk")).to_contain_text("bar 2")
    page.get_by_role("button", name="Bring it back").click()
    expect(page.locator(".spine .stroke")).to_have_count(before)
    page.get_by_role("button", name="Forget the name").click()
    expect(page.get_by_text("Before the gig").first).to_contain_text("brought back")


def test_a_set_list_is_made_printed_and_opened_on_a_phone(song: Song):
    page, house = song.page, song.address
    page.goto(f"{house}/lists")
    page.get_by_label("Title of a new list").fill("Saturday, small room")
    page.get_by_role("button", name="New list").click()
    made = page.get_by_role("article", name="Saturday, small room")
    made.get_by_label("Open Saturday, small room").click()
    made.get_by_label("Add to the list").select_option(label="Steady Rock")
    made.get_by_label("Add to the list").select_option(label="Copper Weather")
    expect(made.get_by_role("listitem")).to_have_count(2)
    made.get_by_label("Copper Weather earlier").click()
    expect(made.get_by_role("listitem").first).to_contain_text("Copper Weather")
    made.get_by_label("Note on Copper Weather").fill("ends cold")
    made.get_by_label("Note on Copper Weather").press("Tab")
    made.get_by_role("button", name="Give it to players").click()
    address = made.get_by_role("link", name="Players' address").get_attribute("href")
    made.get_by_role("button", name="All road maps on paper").click()
    with page.expect_download() as got:
        made.get_by_role("link", name="PDF").click(timeout=400_000)
    assert got.value.path().read_bytes().startswith(b"%PDF")
    phone = other_window(page, viewport={"width": 390, "height": 844})
    phone.goto(f"{house}{address}")
    expect(phone.get_by_role("heading", name="Saturday, small room")).to_be_visible()
    expect(phone.get_by_role("listitem").first).to_contain_text("ends cold")
    phone.get_by_role("link", name="Steady Rock").click()
    expect(phone.get_by_label("Tempo ladder")).to_be_visible()
    phone.context.close()


def test_a_song_is_asked_for_by_link(song: Song):
    page, house = song.page, song.address
    page.goto(f"{house}/people")
    form = page.get_by_label("Request form").first
    address = form.get_by_role("link").get_attribute("href")
    phone = other_window(page, viewport={"width": 390, "height": 844})
    phone.goto(f"{house}{address}")
    phone.get_by_label("Song", exact=True).fill("Paper Lighthouse")
    phone.get_by_label("Your name").fill("Maarten")
    phone.get_by_role("button", name="Ask for it").click()
    expect(phone.get_by_role("status")).to_contain_text("“Paper Lighthouse” is asked for.")
    phone.get_by_role("button", name="I want Sleeper to Vell too").click()
    expect(phone.get_by_role("button", name="I want Sleeper to Vell too")).to_contain_text("6")
    phone.context.close()
    page.goto(house)
    row = page.get_by_role("row").filter(has_text="Paper Lighthouse")
    expect(row).to_contain_text("Maarten")
    expect(row).to_contain_text("1 vote")
    # Off the shelf, into the bin, gone for good.
    # The bin is opened before the server has answered: the offer to bring it back is not shown there.
    held: list[Route] = []
    page.route(
        "**/api/songs/*",
        lambda r: held.append(r) if r.request.method == "DELETE" else r.continue_(),
    )
    with page.expect_request(lambda r: r.method == "DELETE"):
        row.get_by_label("Take Paper Lighthouse off the shelf").click()
    page.get_by_role("button", name="Bin").click()
    expect(page.get_by_role("button", name="Bin")).to_have_attribute("aria-pressed", "true")
    held[0].continue_()
    page.get_by_label("Delete Paper Lighthouse for good").click()
    expect(page.get_by_text("Paper Lighthouse")).to_have_count(0)


def test_a_song_is_taken_along_as_a_file_and_comes_back(song: Song, tmp_path):
    page, house = song.page, song.address
    page.goto(house)
    page.get_by_role("button", name="Share and describe Steady Rock").click()
    with page.expect_download() as got:
        page.get_by_role("link", name="Song package without sound").click()
    kept = tmp_path / "steady.orchesis"
    got.value.save_as(kept)
    page.keyboard.press("Escape")
    page.get_by_label("File of a song").set_input_files(kept)
    told = page.get_by_role("status").filter(has_text="is on the shelf")
    expect(told).to_contain_text("Not kept: the recording")
    told.get_by_role("link").click()
    page.locator("[data-bar]").first.wait_for()
    number = re.search(r"songs/(\d+)", page.url)[1]
    page.goto(f"{house}/songs/{number}/take-in")
    expect(page.get_by_role("heading", name="Steady Rock came as a score")).to_be_visible()
    page.locator(".dock").wait_for()
    page.keyboard.press(" ")  # the written part sounds by itself
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press(" ")
    kept.write_bytes(b"nothing of ours")
    page.goto(house)
    page.get_by_label("File of a song").set_input_files(kept)
    expect(page.get_by_text("This is no song package")).to_be_visible()
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    gone = page.request.delete(f"{house}/api/songs/{number}", headers={"X-CSRFToken": token})
    assert gone.status == 204


def test_what_is_wanted_is_said_in_words_and_keys_are_ones_own(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/bench?bar=1")
    page.locator(".spine .stroke").first.wait_for()
    page.keyboard.press("F2")
    page.keyboard.type("bar 5")
    page.keyboard.press("Enter")
    expect(page.locator(".strip .what")).to_contain_text("Bar 5")
    page.keyboard.press("F2")
    page.keyboard.type("undo")
    answers = page.get_by_role("listbox", name="Answers").get_by_role("option")
    expect(answers.first).to_contain_text("Ctrl Z")
    page.keyboard.press("Escape")
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog", name="Keys")
    dialog.get_by_role("button", name="Change keys").click()
    dialog.get_by_role("button", name="Another key for bar before, next bar, now >").click()
    page.keyboard.press("F7")
    expect(dialog.get_by_role("status")).to_contain_text("F7")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.keyboard.press("F7")
    expect(page.locator(".strip .what")).to_contain_text("Bar 6")
    page.reload()
    page.locator(".spine .stroke").first.wait_for()
    page.keyboard.press("F7")
    expect(page.locator(".strip .what")).to_contain_text("Bar 7")
    page.keyboard.press("?")
    dialog.get_by_role("button", name="Change keys").click()
    dialog.get_by_role("button", name="All as at first").click()
    expect(dialog.get_by_role("status")).to_contain_text("as they were at first")


VIEWS = (
    "take-in",
    "pulse",
    "map",
    "bench",
    "grooves",
    "fills",
    "feel",
    "hands",
    "chart",
    "practice",
)
OUTSIDE = """[...document.querySelectorAll('.top *, .dock *')]
    .filter(e => e.getBoundingClientRect().right > 821 && !e.closest('.track')).length"""


def test_a_tablet_held_upright_scrolls_no_view_sideways(desk: Page, house):
    desk.set_viewport_size({"width": 820, "height": 1180})
    for view in ("", "lists", "people", *(f"songs/1/{v}" for v in VIEWS)):
        desk.goto(f"{house.address}/{view}")
        desk.locator(".dock" if "songs" in view else "main").first.wait_for()
        desk.evaluate("document.fonts.ready.then(() => true)")
        assert desk.evaluate("document.documentElement.scrollWidth") <= 820, view
        assert desk.evaluate(OUTSIDE) == 0, view
