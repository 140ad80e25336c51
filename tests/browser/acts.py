"""What the browser tests do again and again."""

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def add_song(page: Page, title: str, file) -> None:
    page.get_by_role("button", name="Add a song").first.click()
    page.get_by_role("dialog").locator("input[type=file]").set_input_files(str(file))
    page.get_by_label("Title").fill(title)
    page.get_by_label("Asked by").fill("the Tuesday band")
    page.get_by_role("button", name="Add and hear it").click()


def no_faults(page: Page) -> None:
    """Nothing serious stands in anybody's way."""
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
    serious = [
        (v["id"], n["html"][:120], n["failureSummary"][:200])
        for v in found
        if v["impact"] in ("serious", "critical")
        for n in v["nodes"]
    ]
    assert not serious, json.dumps(serious, indent=1)


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile("^Saved$"))).to_be_visible()


class Song:
    """A song on its desk, as it was heard: earlier corrections are undone."""

    def __init__(self, page: Page, address: str, pk: int) -> None:
        self.page, self.address, self.pk = page, address, pk
        self.show("pulse")
        while page.get_by_role("button", name="Undo").is_enabled():
            page.get_by_role("button", name="Undo").click()
            saved(page)

    def show(self, view: str) -> None:
        self.page.goto(f"{self.address}/songs/{self.pk}/{view}")
        shown = {"pulse": ".tempo strong", "map": ".section", "bench": ".spine .stroke"}[
            view.split("?")[0]
        ]
        expect(self.page.locator(shown).first).to_be_visible()

    @property
    def score(self) -> dict:
        saved(self.page)
        return self.page.request.get(f"{self.address}/api/songs/{self.pk}/transcription").json()[
            "score"
        ]

    def key(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
        saved(self.page)
