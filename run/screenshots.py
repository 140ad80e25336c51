"""Renders docs/screenshots/ from the demo data, in the real page."""

from __future__ import annotations

import re
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

sys.path.insert(0, str(Path(__file__).parent))
from house import House
from services import ROOT, free_port

OUT = ROOT / "docs" / "screenshots"
CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--autoplay-policy=no-user-gesture-required",
    "--disable-background-networking",
    "--disable-component-update",
]
SIZE = {"width": 1280, "height": 800}


def log_in(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_label("Name").fill("demo")
    page.get_by_label("Password").fill("tin-meridian")
    page.get_by_role("button", name="Log in").click()
    page.get_by_role("heading", name="Shelf").wait_for()


def wait_until_heard(page: Page, songs: int = 3) -> None:
    """Waits until so many songs of the shelf are heard, whatever became of them since."""
    until = time.monotonic() + 400
    done = page.get_by_text(re.compile("^(Heard, to be corrected|Being corrected|Confirmed)$"))
    while done.count() < songs:
        if time.monotonic() > until:
            raise SystemExit("The demo songs were not heard in time.")
        time.sleep(0.5)


def shots(page: Page, address: str, out: Path) -> None:
    def shot(name: str) -> None:
        page.wait_for_timeout(600)
        page.screenshot(path=out / f"{name}.png")

    page.goto(address + "/log-in")
    log_in(page, address)
    wait_until_heard(page)
    shot("shelf")
    page.goto(f"{address}/lists")
    page.get_by_label("Open Friday at the harbour").click()
    shot("lists")
    page.goto(f"{address}/people")
    page.get_by_role("meter").wait_for()
    page.get_by_role("button", name="a player").first.click()
    page.get_by_role("link", name="Invitation").wait_for()
    shot("people")
    for song, view in ((1, "take-in"), (3, "pulse"), (1, "map"), (2, "chart")):
        page.goto(f"{address}/songs/{song}/{view}")
        page.get_by_label("Transport").wait_for()
        if view in ("take-in", "pulse"):
            page.wait_for_timeout(2500)  # the wave is drawn as the sound arrives
        if view == "take-in":
            page.locator(".sounds li").first.wait_for()
            page.locator(".sounds").evaluate("list => list.scrollIntoView({ block: 'start' })")
        if view == "chart":
            page.locator(".page svg").first.wait_for()
        shot(view)
    page.goto(f"{address}/songs/2/bench?bar=6")
    page.locator(".spine .stroke").first.wait_for()
    page.locator(".spine .stroke").nth(4).click()
    shot("bench")
    page.goto(f"{address}/songs/1/bench?bar=8")
    page.locator(".spine .stroke").first.wait_for()
    page.wait_for_timeout(1500)  # the level is drawn as the sound arrives
    page.keyboard.press("Q")
    page.locator(".ask").wait_for()
    page.keyboard.press("Space")
    shot("review")
    page.keyboard.press("Escape")
    page.goto(f"{address}/songs/2/grooves")
    page.locator(".list .entry").nth(2).click()
    page.keyboard.press("k")
    page.get_by_role("list", name="Found").wait_for()
    shot("grooves")
    page.goto(f"{address}/songs/1/fills")
    page.locator(".table tbody tr").nth(1).click()
    shot("fills")
    page.goto(f"{address}/songs/2/feel")
    page.locator("circle.dot").first.wait_for()
    shot("feel")
    page.goto(f"{address}/songs/1/hands")
    page.get_by_role("group", name="The kit from above").wait_for()
    page.locator(".ways li").first.wait_for()
    shot("hands")
    page.get_by_role("tab", name="Arrange").click()
    page.get_by_role("article").first.wait_for()
    shot("arrange")
    page.goto(f"{address}/songs/1/chart")
    page.get_by_role("button", name="Road map").click()
    page.get_by_text("crash and kick on 1").first.wait_for()
    shot("road-map")
    page.get_by_role("button", name="Full chart").click()
    page.goto(f"{address}/songs/1/practice")
    section = page.get_by_label("Section", exact=True)
    section.select_option(label=section.get_by_text("Verse 1, its groove").inner_text())
    page.get_by_role("button", name="With the left hand").click()
    page.get_by_label("Played in by").select_option("simulated")
    page.get_by_role("list", name="Tempo ladder").get_by_role("listitem").first.click()
    page.keyboard.press("J")
    page.locator(".advice").wait_for(timeout=60_000)
    shot("practice")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Players").click()
    chooser = page.get_by_label("Choose a section, groove or fill")
    for group, which in (("Grooves", 1), ("Fills", 1)):
        option = chooser.locator(f"optgroup[label='{group}'] option").nth(which)
        chooser.select_option(label=option.inner_text())
    page.get_by_label("Title of the lesson").fill("The verse, and its turn")
    page.get_by_label("Words for the lesson").fill(
        "Ten minutes a day are enough. Sing the bass before you play."
    )
    page.get_by_label("Words for passage 1").fill("The ghosts stay low.")
    shot("lesson")
    page.get_by_role("button", name="Create the link").click()
    link = page.locator(".link a").first.get_attribute("href") or ""
    phone = page.context.browser.new_page(viewport={"width": 420, "height": 900})
    phone.goto(address + link)
    phone.locator(".ladder").wait_for()
    phone.screenshot(path=OUT / "player-page.png")
    phone.close()
    page.goto(f"{address}/songs/1/chart")
    page.get_by_role("button", name="Counting").click()
    page.get_by_text("Copper Weather").nth(1).wait_for()
    page.get_by_role("button", name="Dark").click()
    shot("counting-dark")


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as var,
        House(Path(var), free_port()) as house,
        sync_playwright() as p,
    ):
        browser = p.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport=SIZE)
        page.on("console", lambda m: print("page:", m.text) if m.type == "error" else None)
        page.on("pageerror", lambda e: print("page error:", e))
        shots(page, house.address, OUT)
        browser.close()


if __name__ == "__main__":
    main()
