"""What a person leaves out of a sheet or says on it; limb charts of some bars, with their counts."""

from __future__ import annotations

from dataclasses import replace

import pytest
from pydantic import ValidationError

from orchesis import charting
from orchesis.correcting.form_edits import SetOnPaper
from orchesis.editing import apply
from orchesis.engraving import systems
from orchesis.engraving.rows import around
from orchesis.errors import BadScore
from orchesis.score import PulseMap, Score, Section
from orchesis.score.on_paper import OnPaper, item_at
from tests.pages import bars, read, words

FORM = read("hat: 8ths | = | = | =\nsnare: 2 4 | 2 4 4& | 2 4 | 2 4\nkick: 1 3 | = | = | 1 2&\n")


def paper_of_form(**said):
    """FORM in two sections; said: item with _ for its space -> (shown, words)."""
    sections = (Section("a", "Verse", "A", 1, 2), Section("b", "Chorus", "B", 3, 2))
    score = replace(FORM, sections=sections)
    for item, (is_shown, text) in said.items():
        edit = SetOnPaper(item=item.replace("_", " "), shown=is_shown, text=text)
        score, *_ = apply(score, edit)
    return score


@pytest.mark.parametrize("view", ["full", "limbs", "counting"])
def test_a_section_that_is_left_out_is_told_and_the_rest_stays(view):
    score = paper_of_form(section_a=(False, "play what you like"))
    made = charting.sheets(score, charting.Wish(view=view))
    text = "".join(made.svg)
    assert "not written out" in text and "Chorus" in text
    assert [(i.name, i.said.shown) for i in made.items] == [("Verse", False), ("Chorus", True)]
    if view != "counting":
        assert 'id="bar-1"' not in text and 'id="bar-3"' in text
    assert "play what you like" in text


def test_the_first_bar_behind_what_is_left_out_bears_the_meter():
    page = charting.full(paper_of_form(section_a=(False, "")))
    assert [(s.heading.name, len(s.bars)) for s in page.systems] == [("Verse", 0), ("Chorus", 2)]
    assert page.systems[1].bars[0].shows_meter
    document = charting.mei(paper_of_form(section_a=(False, ""))).decode()
    assert document.count("<measure") == 4, "other programs get every bar"


def test_nothing_said_of_the_sheets_is_lost_or_made_up():
    said = paper_of_form(section_a=(False, ""), section_b=(True, "rarely"))
    assert Score.from_json(said.to_json()).on_paper == said.on_paper
    assert paper_of_form(section_a=(True, "")).on_paper == {}
    with pytest.raises(BadScore, match="nothing that stands"):
        Score.from_json({**said.to_json(), "on_paper": {"what": {"shown": True, "words": ""}}})
    with pytest.raises(ValidationError):
        SetOnPaper(item="page 3", shown=False, text="")


VARIED = read(
    "hat: 8ths | = | 8ths 4&.o | = | = | = | 8ths 4&.o | 1 1& 2 2&\n"
    "snare: 2 4 | = | = | = | = | = | = | 2 3 3e 3& 3a 4 4e 4& 4a\n"
    "kick: 1 3 | 1 2& 3 | 1 3 | 1 2& 3 | 1 3 | 1 2& 3 | 1 3 | 1\n"
)


def names_of(song):
    page = charting.variations(song, charting.PLAIN)
    return [s.heading.name for s in page.systems if s.heading]


def test_variations_are_left_out_and_told_by_hand_and_the_rest_is_counted_on():
    song = VARIED
    items = charting.variation_items(song)
    options = [v for v in items if v.item.startswith("option")]
    fills = [v for v in items if v.item.startswith("fill")]
    assert [o.name for o in options[:2]] == ["1.1", "1.2"] and fills[0].name == "Fill 1"
    edits = [
        SetOnPaper(item=options[0].item, shown=False, text=""),
        SetOnPaper(item=options[1].item, shown=True, text="only under the voice"),
    ]
    for edit in edits:
        song, *_ = apply(song, edit)
    made = charting.sheets(song, charting.Wish(view="variations"))
    assert "only under the voice" in "".join(made.svg)
    named = {i.item: i.name.split(",")[0] for i in made.items}
    assert named[options[1].item] == "1.1"
    page = charting.variations(song, charting.PLAIN)
    assert len([s for s in page.systems if s.heading]) == len(items) - 1
    song, *_ = apply(song, SetOnPaper(item=items[0].item, shown=False, text=""))
    assert names_of(song) == ["Fill 1"], "with a groove go its options"
    song, *_ = apply(song, SetOnPaper(item=fills[0].item, shown=False, text=""))
    assert names_of(song) == []


def test_a_limb_chart_holds_a_section_or_a_groove_with_or_without_counts():
    stretches = charting.stretches(VARIED)
    assert [name for name, *_ in stretches] == ["Song", "groove of Song"]
    _, first, last = stretches[1]
    assert 1 <= first <= last <= 8
    page = charting.limbs(VARIED, charting.Wish("limbs", bars=(first, last)))
    assert [b.number for b in bars(page)] == list(range(first, last + 1))
    assert any(words(page, "count"))
    bare = charting.limbs(VARIED, charting.Wish("limbs", count_row=False))
    assert not any(words(bare, "count")) and len(bars(bare)) == 8


def test_a_line_that_is_too_full_is_set_smaller_and_never_broken():
    five = read("hat: " + " | ".join(["8ths"] * 5) + "\nsnare: " + " | ".join(["2 4"] * 5))
    page = charting.limbs(five, charting.Wish("limbs", count_row=False, bars_a_line=8))
    [line] = page.systems
    drawn = systems.engraved(line, page, 1500.0, 8.0)
    assert len(line.bars) == len(drawn.edges) == 5
    starts = [drawn.edges[b][0] for b in range(1, 6)]
    assert starts == sorted(starts), "all bars stand on one line"


def test_counts_of_a_limb_chart_stand_between_hands_and_feet():
    page = charting.limbs(VARIED, charting.PLAIN)
    line = page.systems[0]
    drawn = systems.engraved(line, page, 1800.0, 8.0)
    _, below, *_ = around(line, drawn)
    counts = [b for b in below if b.kind == "count"]
    assert counts and all(drawn.lines[1] < b.y and b.y + b.height < drawn.lines[2] for b in counts)


def test_two_grooves_of_a_section_are_left_out_one_by_one():
    bars = " | ".join
    song = read(
        f"hat: {bars(['8ths'] * 8)} | {bars(['-'] * 8)}\nride: {bars(['-'] * 8)} | {bars(['quarters'] * 8)}\n"
        f"snare: {bars(['2 4'] * 8)} | {bars(['3'] * 8)}\nkick: {bars(['1 3'] * 8)} | {bars(['1 2&'] * 8)}\n"
    )
    grooves = [v for v in charting.variation_items(song) if v.item.startswith("groove")]
    assert len(grooves) == 2 and len({v.item for v in grooves}) == 2
    assert len(song.sections) == 1
    song, *_ = apply(song, SetOnPaper(item=grooves[0].item, shown=False, text=""))
    shown = [v.said.shown for v in charting.variation_items(song) if v.item.startswith("groove")]
    assert shown == [False, True] and names_of(song)[0].startswith("1  ")


@pytest.mark.parametrize(
    ("kind", "moment", "rest", "item"),
    [
        ("fill", 12.45, "", "fill 12.30"),
        ("fill", 14.0, "", "fill 14.00"),
        ("groove", 12.3, "", "groove 12.30"),
        ("option", 12.1, "snare 1 3/2", "option 12.30 snare 1 3/2"),
        ("option", 12.1, "kick 1 3/2", "option 12.10 kick 1 3/2"),
        ("option", 13.1, "snare 1 3/2", "option 13.10 snare 1 3/2"),
    ],
)
def test_a_thing_is_known_by_its_moment(kind, moment, rest, item):
    known = {
        "fill 12.30": OnPaper(False),
        "section a": OnPaper(),
        "option 12.30 snare 1 3/2": OnPaper(False),
    }
    assert item_at(kind, moment, known, rest) == item


def test_what_is_said_of_a_fill_stays_with_it_when_the_pulse_is_moved_a_little():
    fill = next(v for v in charting.variation_items(VARIED) if v.item.startswith("fill"))
    song, *_ = apply(VARIED, SetOnPaper(item=fill.item, shown=False, text=""))
    moved = replace(song, pulse=PulseMap.of([t + 0.2 for t in song.pulse.times]))
    assert [v.said.shown for v in charting.variation_items(moved) if v.name == "Fill"] == [False]


def test_no_stretches_are_offered_where_other_bars_are_written_than_counted():
    halved = replace(VARIED, notation="long")
    assert charting.stretches(halved) == []
    page = charting.limbs(halved, charting.Wish("limbs", bars=(3, 4)))
    assert len(bars(page)) == 16


def test_what_was_said_of_the_grooves_of_a_section_is_found_by_their_moment_now():
    options = [v for v in charting.variation_items(VARIED) if v.item.startswith("option")]
    section = VARIED.sections[0].id
    rest = options[0].item.split(" ", 2)[2]
    old = {
        f"groove {section}": {"shown": True, "words": "lightly"},
        f"option {section} {rest}": {"shown": False, "words": ""},
    }
    song = Score.from_json({**VARIED.to_json(), "on_paper": old})
    now = {v.item: v.said for v in charting.variation_items(song)}
    assert now[options[0].item] == OnPaper(False)
    assert [s.words for i, s in now.items() if i.startswith("groove")] == ["lightly"]
    assert Score.from_json(song.to_json()).on_paper == song.on_paper


@pytest.mark.parametrize(
    "odd", [{"section a": [True, ""]}, {"fill 1": {"shown": 1, "words": ""}}, []]
)
def test_what_is_no_word_on_a_sheet_is_refused(odd):
    with pytest.raises(BadScore):
        Score.from_json({**FORM.to_json(), "on_paper": odd})
