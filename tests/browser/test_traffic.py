"""What the page asks of the server: nothing that is not there, nothing twice, text compressed."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Response, expect


class Traffic:
    """The answers of the API since it was made."""

    def __init__(self, page: Page):
        self.answers: list[Response] = []
        page.on("response", lambda r: self.answers.append(r) if "/api/" in r.url else None)

    def to(self, path: str) -> list[Response]:
        return [r for r in self.answers if re.search(path + r"(\?|$)", r.url)]

    def missing(self) -> list[str]:
        return [r.url for r in self.answers if r.status == 404]


def test_a_song_is_fetched_once_and_compressed(desk: Page, house):
    page = desk
    traffic = Traffic(page)
    for view in ("map", "take-in"):
        traffic.answers.clear()
        page.goto(f"{house.address}/songs/1/{view}")
        expect(page.get_by_label("Transport")).to_be_visible()
        page.wait_for_load_state("networkidle")
        [answer] = traffic.to("/songs/1/transcription")
        assert answer.headers["content-encoding"] == "gzip"
        sent = answer.request.sizes()["responseBodySize"]
        assert sent < 0.3 * len(answer.body())
        assert len(traffic.to("/songs/1")) == 1
        assert not traffic.missing()


def test_a_song_without_a_part_is_not_asked_for_one(desk: Page, house):
    page = desk
    page.get_by_role("button", name="Add a song").click()
    page.get_by_label("Title").fill("Nothing Yet")
    page.get_by_role("button", name="Add without a recording").click()
    page.get_by_text("has no recording yet").wait_for()
    traffic = Traffic(page)
    page.reload()
    page.get_by_text("has no recording yet").wait_for()
    page.wait_for_load_state("networkidle")
    assert not traffic.to(r"/transcription") and not traffic.missing()
    page.goto(page.url.replace("take-in", "map"))
    page.get_by_text("has no recording yet").wait_for()
    assert not traffic.missing()


def test_no_piece_is_asked_for_behind_the_end_of_the_recording(desk: Page, house):
    """As the listening game did with a question in the last bars."""
    page = desk
    traffic = Traffic(page)
    page.goto(f"{house.address}/songs/1/map")
    page.locator("[data-bar]").last.wait_for()
    for speed in ("1", "0.5"):
        page.get_by_label("Speed").select_option(speed)
        page.locator("[data-section] .time").last.click()
        page.get_by_role("button", name="Pause").wait_for()
        page.get_by_label("Loop", exact=True).get_by_role("button", name="Section").click()
        page.wait_for_load_state("networkidle")
        page.get_by_role("button", name="Pause").click()
        page.get_by_role("button", name="No loop").click()
    assert len(traffic.to(r"/sound/\d+")) > 1
    assert not traffic.missing()
