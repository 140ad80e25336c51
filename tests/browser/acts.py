"""What the browser tests do again and again."""

import re

from playwright.sync_api import Page, expect


def add_song(page: Page, title: str, file) -> None:
    page.get_by_role("button", name="Add a song").first.click()
    page.locator("input[type=file]").set_input_files(str(file))
    page.get_by_label("Title").fill(title)
    page.get_by_label("Asked by").fill("the Tuesday band")
    page.get_by_role("button", name="Add and hear it").click()


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile("^Saved$"))).to_be_visible()
