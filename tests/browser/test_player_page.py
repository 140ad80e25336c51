"""The player's page: made by the teacher, opened on a phone, climbed, told, and used without a network."""

from __future__ import annotations

import io
import zipfile

import soundfile as sf
from playwright.sync_api import expect

from tests.browser.acts import Song, no_faults

#: A function: the page's content policy lets no text be evaluated again at every look.
KEPT = """() => {
    caches.match(location.pathname).then((page) => { window.isKept = Boolean(page) })
    return window.isKept
}"""


def test_a_lesson_is_given_and_learned_on_a_phone_whose_network_drops(song: Song):
    teacher = song.page
    teacher.goto(f"{song.address}/songs/{song.pk}/practice?first=3&last=3&order=limbs")
    teacher.get_by_role("button", name="Players").click()
    teacher.get_by_label("Title of the lesson").fill("Bar three, please")
    teacher.get_by_label("Words for the lesson").fill("Relaxed before fast.")
    teacher.get_by_label("First bar to add").fill("3")
    teacher.get_by_label("Last bar to add").fill("3")
    teacher.get_by_role("button", name="Add bars").click()
    teacher.get_by_label("Method of passage 1").select_option("limbs")
    teacher.get_by_label("Words for passage 1").fill("Listen to the hat.")
    teacher.get_by_role("button", name="Create the link").click()
    address = (
        teacher.get_by_role("article", name="Bar three, please")
        .get_by_role("link")
        .first.get_attribute("href")
    )
    assert address and len(address.split("/")[-1]) >= 20

    phone = teacher.context.browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True
    )
    try:
        page = phone.new_page()
        page.goto(song.address + address)
        expect(page.get_by_role("heading", name="Bar three, please")).to_be_visible()
        expect(page.get_by_text("Listen to the hat.")).to_be_visible()
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        weight = "performance.getEntriesByType('resource').reduce((s, r) => s + r.transferSize, 0)"
        assert 20_000 < page.evaluate(weight) <= 180_000  # bytes sent before it can be read
        assert "sessionid" not in {c["name"] for c in phone.cookies()}
        no_faults(page)
        tempo = page.locator(".ladder strong")
        start = tempo.inner_text()
        page.get_by_role("button", name="Play", exact=True).tap()
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        page.get_by_role("button", name="Stop").tap()
        for _ in range(3):
            page.get_by_role("button", name="Relaxed").tap()
        expect(tempo).not_to_have_text(start)
        page.get_by_role("button", name="Me", exact=True).tap()
        page.get_by_label("My name").fill("Ilse")
        with page.expect_response(lambda r: r.url.endswith("/progress")):
            page.get_by_label("tell my teacher").check()
        no_faults(page)
        page.evaluate("navigator.serviceWorker.ready")
        page.reload()  # from here on the worker sees what is fetched
        expect(page.get_by_text("Listen to the hat.")).to_be_visible()
        page.get_by_role("button", name="Chart").tap()
        expect(page.get_by_role("img", name="Page 1 of the chart")).to_be_visible()
        page.wait_for_function(KEPT)
        phone.set_offline(True)
        page.reload()
        expect(page.get_by_text("Listen to the hat.")).to_be_visible()
        climbed = tempo.inner_text()
        assert climbed != start  # the ladder is kept on the device
        expect(page.get_by_text("No network.")).to_be_visible()
        page.get_by_role("button", name="Relaxed").tap()
        phone.set_offline(False)
        teacher.reload()
        teacher.get_by_role("button", name="Players").click()
        expect(teacher.get_by_role("rowheader", name="Ilse")).to_be_visible()
        # Other tests may have given lessons of this song in the same house.
        given = teacher.get_by_role("article", name="Bar three, please")
        given.get_by_role("button", name="Stop sharing …").click()
        teacher.get_by_role("button", name="Keep it").click()  # it asks first
        assert teacher.request.get(song.address + "/api" + address.replace("/p/", "/player/")).ok
        given.get_by_role("button", name="Stop sharing …").click()
        teacher.get_by_role("button", name="Stop sharing", exact=True).click()
        expect(given).to_have_count(0)
        # The phone is told once; from then on nothing of the lesson is on it, network or not.
        for is_offline in (False, True):
            phone.set_offline(is_offline)
            page.reload()
            expect(page.get_by_text("no longer shared")).to_be_visible()
            expect(page.get_by_text("Listen to the hat.")).to_have_count(0)
    finally:
        phone.close()


def test_a_lesson_of_three_passages_is_put_together_changed_and_updated(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice")
    page.get_by_role("button", name="Players").click()
    chooser = page.get_by_label("Choose a section, groove or fill")
    some = chooser.locator("optgroup[label='Sections'] option")
    chooser.select_option(label=some.nth(1).inner_text())
    chooser.select_option(
        label=chooser.locator("optgroup[label='Fills'] option").first.inner_text()
    )
    page.get_by_role("button", name="Add bars").click()
    passages = page.get_by_label("Passages of the lesson").get_by_role("listitem")
    expect(passages).to_have_count(3)
    page.get_by_label("Words for passage 3").fill("Begin here.")
    page.get_by_label("bars 1–2: earlier").click()
    page.get_by_label("bars 1–2: earlier").click()
    page.get_by_label("Title of the lesson").fill("Three places")
    page.reload()  # the draft is still there
    page.get_by_role("button", name="Players").click()
    expect(passages.first).to_contain_text("bars 1–2")
    expect(page.get_by_label("Words for passage 1")).to_have_value("Begin here.")
    expect(page.get_by_label("Method of passage 3")).to_have_value("fill")
    page.get_by_role("button", name="Create the link").click()
    lesson = page.get_by_role("article", name="Three places")
    expect(lesson).to_contain_text("3 passages")
    expect(passages).to_have_count(0)
    address = (
        song.address
        + "/api"
        + lesson.locator("a").first.get_attribute("href").replace("/p/", "/player/")
    )
    given = page.request.get(address).json()
    assert [p["words"] for p in given["passages"]] == ["Begin here.", "", ""]

    stroke = given["passages"][0]["stages"][-1]["strokes"][0]
    score = page.request.get(f"{song.address}/api/songs/{song.pk}/transcription").json()
    cookie = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    answer = page.request.post(
        f"{song.address}/api/songs/{song.pk}/transcription/edits",
        headers={"X-CSRFToken": cookie},
        data={
            "edit": {"operation": "remove_stroke", "id": stroke["id"]},
            "base": score["version"],
            "key": "k-lesson",
        },
    )
    assert answer.ok, answer.text()
    assert page.request.get(address).json() == given  # students have what they were given
    page.reload()
    page.get_by_role("button", name="Players").click()
    lesson.get_by_role("button", name="Show the changes").click()
    expect(lesson.get_by_role("listitem")).to_contain_text(f"Bar {stroke['bar']}: ")
    lesson.get_by_role("button", name="Update for students").click()
    expect(lesson.get_by_role("button", name="Update for students")).to_have_count(0)
    now = page.request.get(address).json()["passages"][0]["stages"][-1]["strokes"]
    assert stroke["id"] not in {s["id"] for s in now}
    lesson.get_by_role("button", name="Duplicate").click()
    expect(page.get_by_label("Title of the lesson")).to_have_value("Three places (copy)")
    expect(passages).to_have_count(3)
    no_faults(page)
    page.get_by_role("button", name="Clear the draft").click()


def test_files_to_play_along_with_are_made_and_hold_what_was_asked(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice?first=3&last=4")
    page.get_by_role("button", name="Players").click()
    card = page.get_by_role("region", name="Files to play along with")
    card.get_by_label("bars 3–4").check()
    card.get_by_label("our part and a click").check()
    card.get_by_label("counted aloud").check()
    card.get_by_role("button", name="100 %").click()
    card.get_by_role("button", name="Make the files").click()
    link = card.get_by_role("link", name="files")
    expect(link).to_be_visible(timeout=400_000)
    with page.expect_download() as fetched:
        link.click()
    with zipfile.ZipFile(fetched.value.path()) as archive:
        names = archive.namelist()
        kinds = {name.removeprefix("Steady Rock - ") for name in names}
        assert {"chart.pdf", "bars 3-4 - limbs.pdf"} <= kinds and len(names) == 4
        sound, rate = sf.read(io.BytesIO(archive.read(names[0])))
        assert len(sound) > 8 * rate and abs(sound).max() > 0.2
