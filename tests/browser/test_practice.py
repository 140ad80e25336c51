"""Practice room: stages are chosen, played, judged by one key, up the ladder until learned."""

from playwright.sync_api import expect

from tests.browser.acts import Song


def test_a_stage_is_played_and_climbs_its_ladder_until_it_is_learned(song: Song):
    page = song.page
    page.goto(f"{song.address}/songs/{song.pk}/practice")
    stages = page.get_by_role("list", name="Stages").get_by_role("button")
    expect(stages.first).to_be_visible()
    expect(page.locator(".room h2")).to_contain_text("alone")
    page.keyboard.press(">")
    expect(stages.nth(1)).to_have_attribute("aria-current", "step")
    page.keyboard.press("<")
    tempo = page.locator(".tempo")
    start = tempo.inner_text()
    page.keyboard.press("c")
    play = page.locator(".acts button").first
    expect(play).to_contain_text("Stop")
    play.click()
    expect(play).to_contain_text("Play the stage")
    for _ in range(3):
        page.keyboard.press("1")
    expect(tempo).not_to_have_text(start)
    page.keyboard.press("3")
    expect(tempo).to_have_text(start)
    for _ in range(40):
        page.keyboard.press("1")
    expect(page.get_by_text("Learned: at the song's tempo")).to_be_visible()
    page.reload()
    expect(page.get_by_label("learned")).to_be_visible()
    page.get_by_label("Order of the stages").select_option("skeleton")
    expect(stages.first).to_contain_text("Kick and backbeat")
