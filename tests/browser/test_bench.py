"""The Bench: writing, correcting, spreading, comparing, reviewing, offline, two windows."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.acts import no_faults, saved


def bar(song, number):
    return sorted(
        (s["place"], s["part"], s["dynamic"]) for s in song.score["strokes"] if s["bar"] == number
    )


class Typist:
    """Presses keys and counts them."""

    def __init__(self, page):
        self.page, self.pressed = page, 0

    def __call__(self, *keys):
        for key in keys:
            self.page.keyboard.press(key)
            self.pressed += 1


@pytest.fixture
def bench(song):
    song.show("bench?bar=3")
    return song


def empty(song, first, last):
    """Bars with nothing in them, by count text."""
    page = song.page
    for number in range(first, last + 1):
        page.goto(f"{song.address}/songs/{song.pk}/bench?bar={number}")
        expect(page.locator(".what")).to_contain_text(f"Bar {number}")
        page.keyboard.press("y")
        expect(page.locator("#count-text")).not_to_have_value("")
        page.locator("#count-text").fill("")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".spine .stroke")).to_have_count(0)
    page.goto(f"{song.address}/songs/{song.pk}/bench?bar={first}")
    expect(page.locator(".what")).to_contain_text(f"Bar {first}")


def test_two_bars_of_thirty_strokes_are_written_in_fewer_than_sixty_keys(bench):
    page = bench.page
    empty(bench, 3, 4)
    key = Typist(page)
    key("ArrowRight", "u", "h")  # the hat on every 16th
    key("k", "Shift+ArrowRight", "v", "s", "v", "Shift+ArrowRight")
    key("k", "Shift+ArrowRight", "v", "s", "v")
    key("Control+c", ">", "Control+v")
    saved(page)
    assert len(bar(bench, 3)) == len(bar(bench, 4)) == 20
    key("ArrowLeft", "ArrowLeft", "ArrowLeft", "k", "g", "ArrowRight", "s")
    written = bar(bench, 3) + bar(bench, 4)
    assert len(written) >= 30 and key.pressed < 60
    assert ("1", "snare", "accent") in written
    assert any(d == "ghost" for _, _, d in written)


def test_one_wrong_stroke_takes_three_keys_and_a_recurring_one_six(bench):
    page = bench.page
    key = Typist(page)
    # the cursor onto the backbeat, choose it, say what it is
    key("Shift+ArrowRight", "Shift+ArrowRight", "ArrowDown")
    key.pressed = 0
    key("Enter", "c")
    assert key.pressed <= 3
    expect(page.locator(".offer")).to_contain_text("cross-stick instead of snare")
    key(";")
    assert key.pressed <= 6
    expect(page.locator(".offer")).to_have_count(0)
    now = [s for s in bench.score["strokes"] if s["part"] == "cross_stick" and s["place"] == "1"]
    assert {s["bar"] for s in now} == set(range(1, 9))  # the verse; the chorus reads otherwise
    page.keyboard.press("Control+z")
    saved(page)
    page.keyboard.press("Control+z")
    assert not [
        s for s in bench.score["strokes"] if s["part"] == "cross_stick" and s["place"] == "1"
    ]


def test_bars_alike_are_shown_before_they_are_changed(bench):
    page = bench.page
    stroke = page.locator(".spine .stroke.LH").first
    stroke.click()
    page.keyboard.press("S")
    expect(page.locator(".offer")).to_be_visible()
    page.keyboard.press(":")
    dialog = page.get_by_role("dialog")
    boxes = dialog.get_by_role("checkbox")
    count = boxes.count()
    assert count >= 3
    boxes.first.uncheck()
    dialog.get_by_role("button", name=f"Change {count - 1} bars").click()
    expect(dialog).to_have_count(0)
    rims = {s["bar"] for s in bench.score["strokes"] if s["part"] == "rimshot"}
    assert len(rims) == count  # the one that was edited, and all but one


def test_strokes_are_boxed_in_dragged_and_made_louder(bench):
    page = bench.page
    lane = page.locator(".lane.RH .catch").bounding_box()
    page.mouse.move(lane["x"] + 4, lane["y"] + 2)
    page.mouse.down()
    page.mouse.move(lane["x"] + lane["width"] - 4, lane["y"] + lane["height"] - 6, steps=6)
    page.mouse.up()
    hats = page.locator(".spine .stroke.RH").count()
    expect(page.locator(".stroke-card strong")).to_have_text(f"{hats} strokes")
    page.keyboard.press("Escape")
    kick = page.locator(".spine .stroke.RF").first
    name = kick.get_attribute("data-stroke")

    def of(score):
        return next(s for s in score["strokes"] if s["id"] == name)

    before = of(bench.score)
    box = kick.locator(".head").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 40, steps=5)
    page.mouse.up()
    softer = of(bench.score)
    assert softer["loudness"] < before["loudness"] - 0.2 and softer["place"] == before["place"]
    box = kick.locator(".head").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    beat = (lane["width"] - 52) / 4
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + beat / 2, y, steps=5)
    page.mouse.up()
    assert of(bench.score)["place"] == "1/2"


def test_count_text_writes_the_bar_and_points_at_what_is_wrong(bench):
    page = bench.page
    page.keyboard.press("y")
    field = page.locator("#count-text")
    expect(field).to_have_value(re.compile("hat:"))
    field.fill("hat: 8ths\nsnare: 2.> 7 4.>\nkick: 1 3")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#count-says")).to_have_text(
        "Line 2, column 12: “7” lies outside the bar of 4/4."
    )
    assert field.evaluate("f => f.value.slice(f.selectionStart, f.selectionEnd)") == "7"
    field.fill("hat: 8ths\nsnare: 2.> (2a) 4 4:1/6 4t 4& 4l 4:5/6\nkick: 1 3")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#count-says")).not_to_have_class(re.compile("wrong"))
    written = bar(bench, 3)
    assert ("23/6", "snare", "normal") in written and ("7/4", "snare", "ghost") in written
    assert len(written) == 8 + 8 + 2


def test_a_bar_is_compared_with_what_was_heard_and_with_another(bench):
    page = bench.page
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("W")
    saved(page)
    page.keyboard.press("j")
    page.get_by_role("button", name="as heard").click()
    expect(page.locator(".compare li")).to_have_text(["cowbell on 1e is new"])
    page.get_by_label("The other bar").fill("9")
    expect(page.locator(".compare")).to_contain_text("instead of")


def test_the_review_queue_is_walked_by_keys_and_can_be_left(bench):
    page = bench.page
    stroke = page.locator(".spine .stroke.RH").first
    name = stroke.get_attribute("data-stroke")
    stroke.click()
    page.keyboard.press("d")
    expect(page.locator(".stroke-card .small.on")).to_have_text("doubtful")
    saved(page)
    page.keyboard.press("Q")
    expect(page.locator(".review .left")).to_contain_text("left")
    left = int(page.locator(".review .left strong").inner_text().split()[0])
    while "marked as doubtful" not in page.locator(".ask").inner_text():
        page.keyboard.press(">")
    page.keyboard.press("Enter")
    saved(page)
    assert next(s for s in bench.score["strokes"] if s["id"] == name)["doubt"] == ""
    if left > 1:
        expect(page.locator(".review .left strong")).to_have_text(f"{left - 1} left")
    page.keyboard.press("Escape")
    expect(page.locator(".ask")).to_have_count(0)


def test_a_part_is_played_in_along_with_the_recording(bench):
    page = bench.page
    page.keyboard.press("Y")
    expect(page.get_by_role("button", name="Playing in")).to_be_visible()
    page.wait_for_timeout(700)
    for _ in range(4):
        page.keyboard.press("W")
        page.wait_for_timeout(300)
    page.keyboard.press("Enter")
    bells = [s for s in bench.score["strokes"] if s["part"] == "cowbell"]
    assert len(bells) == 4 and all(
        s["placed_by"] == "person" and s["measured"] is None for s in bells
    )


def test_two_windows_on_one_bar_are_told_and_shown_both(bench):
    page = bench.page
    other = page.context.new_page()
    other.goto(page.url)
    other.locator(".spine .stroke").first.wait_for()
    # another bar: both stay
    other.keyboard.press(">")
    expect(other.locator(".what")).to_contain_text("Bar 4")
    other.keyboard.press("ArrowRight")
    other.keyboard.press("W")
    saved(other)
    page.keyboard.press("ArrowRight")
    page.keyboard.press("W")
    saved(page)
    assert {s["bar"] for s in bench.score["strokes"] if s["part"] == "cowbell"} == {3, 4}
    # the same bar: the second is told
    other.keyboard.press("<")
    other.keyboard.press("ArrowRight")
    other.keyboard.press("ArrowRight")
    other.keyboard.press("K")
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("Bar 3 changed in another window")
    expect(dialog.locator("svg.spine")).to_have_count(2)
    dialog.get_by_role("button", name="Write mine over it").click()
    saved(other)
    in_three = {s["part"] for s in bench.score["strokes"] if s["bar"] == 3}
    assert {"cowbell", "block"} <= in_three
    other.close()


def test_what_was_written_while_the_server_was_away_survives_a_closed_window(bench):
    page = bench.page
    away = page.context.new_page()
    away.route("**/transcription/edits", lambda route: route.abort())
    away.goto(page.url)
    away.locator(".spine .stroke").first.wait_for()
    away.keyboard.press("ArrowRight")
    away.keyboard.press("W")
    expect(away.get_by_text("Server away: 1 change is kept here")).to_be_visible()
    away.close()
    # A second window takes it over, and is closed, too, before it could send anything.
    again = page.context.new_page()
    again.route("**/transcription/edits", lambda route: route.abort())
    again.goto(page.url)
    expect(again.get_by_text("Server away: 1 change is kept here")).to_be_visible()
    again.close()
    page.reload()
    expect(page.locator(".spine .stroke[aria-label^='Cowbell']")).to_have_count(1)
    saved(page)
    assert any(s["part"] == "cowbell" for s in bench.score["strokes"])


def test_undo_says_what_it_takes_back(bench):
    page = bench.page
    page.keyboard.press("ArrowRight")
    page.keyboard.press("W")
    saved(page)
    undo = page.get_by_role("button", name="Undo")
    expect(undo).to_have_attribute("title", "Undo: stroke written, bar 3 (Ctrl Z)")
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Taken back: stroke written, bar 3")).to_be_visible()
    saved(page)
    expect(undo).to_be_disabled()


def test_no_panel_of_the_bench_has_a_serious_fault(bench):
    page = bench.page
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    for panel in ("", "y", "j", "Q"):
        if panel:
            page.keyboard.press("Escape")
            page.evaluate("document.activeElement.blur()")
            page.keyboard.press(panel)
            page.wait_for_timeout(500)
        no_faults(page)


def test_a_song_of_three_hundred_bars_stays_small_and_tells_its_frames(bench):
    """Memory is bounded; the work of the frames while bars change is printed, not judged."""
    page = bench.page
    page.route(
        "**/transcription",
        lambda route: route.fulfill(json=long_song(route.fetch().json(), 300)),
    )
    page.goto(f"{bench.address}/songs/{bench.pk}/bench?bar=1")
    page.locator(".spine .stroke").first.wait_for()
    page.keyboard.press("1")
    page.wait_for_timeout(800)
    cdp = page.context.new_cdp_session(page)
    events: list[dict] = []
    cdp.on("Tracing.dataCollected", lambda data: events.extend(data["value"]))
    done: list[bool] = []
    cdp.on("Tracing.tracingComplete", lambda _: done.append(True))
    cdp.send(
        "Tracing.start",
        {
            "categories": "toplevel,disabled-by-default-devtools.timeline",
            "transferMode": "ReportEvents",
        },
    )
    for _ in range(40):
        page.keyboard.press(">")
        page.wait_for_timeout(30)
    cdp.send("Tracing.end")
    while not done:
        page.wait_for_timeout(50)
    main = {
        (e["pid"], e["tid"])
        for e in events
        if e.get("name") == "thread_name" and e["args"]["name"] == "CrRendererMain"
    }
    tasks = sorted(
        e["dur"] / 1000
        for e in events
        if e.get("name") == "RunTask" and e.get("dur", 0) > 500 and (e["pid"], e["tid"]) in main
    )
    memory = page.evaluate("performance.memory.usedJSHeapSize") / 2**20
    told = f"{len(tasks)} tasks, 95 % under {tasks[int(0.95 * len(tasks))]:.0f} ms, {memory:.0f} MB"
    print(told)
    assert memory < 400


def long_song(told: dict, bars: int) -> dict:
    """The same song over and over until it has so many bars."""
    score = told["score"]
    size = len(score["meters"])
    length = score["pulse"][-1] - score["pulse"][0]
    turns = -(-bars // size)
    pulse = [t + k * length for k in range(turns) for t in score["pulse"][:-1]]
    score["pulse"] = [*pulse, pulse[-1] + 0.6]
    score["meters"] = score["meters"] * turns
    score["strokes"] = [
        {**s, "id": f"{s['id']}-{k}", "bar": s["bar"] + k * size, "time": None}
        for k in range(turns)
        for s in score["strokes"]
    ]
    score["sections"] = [
        {**s, "id": f"{s['id']}-{k}", "first_bar": s["first_bar"] + k * size}
        for k in range(turns)
        for s in score["sections"]
    ]
    told["form"] = {
        **told["form"],
        "sections": [],
        "states": ["heard"] * size * turns,
        "confidence": [1.0] * size * turns,
    }
    return told
