"""The page model and the views made of it: what stands on a page, and that nothing collides."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction
from io import BytesIO

import mido
import pytest

from materials import page_collisions
from materials.cases import page_bars, road_maps
from orchesis import charting, engraving
from orchesis.cli import main
from orchesis.correcting.form_edits import SetBreak, SetHowTo
from orchesis.editing import apply
from orchesis.engraving import systems
from orchesis.engraving.legend import WORDS
from orchesis.engraving.mei import mei
from orchesis.errors import BadScore
from orchesis.explanations.road_map import road_map
from orchesis.formats import count, count_writer, midi, musicxml
from orchesis.hands import with_limbs
from orchesis.page import Look, page_of
from orchesis.page.build import rhythm_page
from orchesis.page.rhythm import spell
from orchesis.score import Meter, Score
from orchesis.score.signs import SIGNS
from orchesis.sounding.part import spoken
from tests.pages import bars, read, words
from tests.songs import ROCK

FIFTY = with_limbs(page_bars.song())


@pytest.mark.parametrize(
    ("places", "spelled"),
    [
        ("0 1/2 9/12 10/12 11/12", "8 16 3:2(32 32 32)"),
        ("0 1/12 2/12 1/4 1/2 3/4", "3:2(32 32 32) 16 16 16"),
        ("0 1/6 1/3 1/2 3/4", "3:2(16 16 16) 16 16"),
        ("0 1/3 2/3", "3:2(8 8 8)"),
        ("0 1/6 1/3 1/2 2/3 5/6", "6:4(16 16 16 16 16 16)"),
        ("0 1/5 2/5 3/5 4/5", "5:4(16 16 16 16 16)"),
        ("0 3/4", "8. 16"),
        ("0 1/8 1/4 1/2", "32 32 16 8"),
    ],
)
def test_a_beat_is_spelled_as_a_reader_expects(places, spelled):
    told = []
    for g in spell({Fraction(p) for p in places.split()}, Meter(1, 4)):
        own = " ".join(f"{e.value}{'.' * e.dots}" for e in g.events)
        told.append(f"{g.tuplet[0]}:{g.tuplet[1]}({own})" if g.tuplet else own)
    assert " ".join(told) == spelled


def test_the_mei_of_a_bar_is_readable():
    page = page_of(read("tempo: 90\nsnare: 1.f 2 2t 2l\nkick: 1 3\n"))
    [line] = re.findall(r"<layer n=\"1\">.*?</layer>", mei(page.systems[0], page.staves))
    plain = re.sub(r' xml:id="[^"]*"| stem.dir="up"', "", line)
    assert plain.startswith(
        '<layer n="1"><note loc="5" dur="8" grace="unacc" stem.mod="1slash"/>'
        '<note loc="5" dur="4"></note><beam><tuplet num="3" numbase="2"'
    )


def test_counts_and_sticking_stand_under_the_notes():
    score = read("tempo: 90\nsnare: 1 1e 1& 1a 2 2t 2l\nkick: 3\nhat: 4\n")
    page = page_of(score, Look(counts="all", sticking="all"))
    assert words(page, "count") == [["1", "e", "&", "a", "2", "trip", "let", "3", "4"]]
    assert words(page, "stick")[0][:4] == ["R", "L", "R", "L"]
    spoken = page_of(score, Look(counts="all", counting="ta_te"))
    assert words(spoken, "count") == [["1", "ta", "te", "ta", "2", "la", "li", "3", "4"]]
    assert words(page_of(score, Look(counts="hard")), "count")[0]
    assert not words(page_of(read(f"tempo: 90\n{PLAIN}"), Look(counts="hard")), "count")[0]


PLAIN = "hat: 8ths\nsnare: 2 4\nkick: 1 3\n"


def test_a_bar_that_is_the_one_before_is_a_sign():
    score = read("tempo: 90\n== A\nhat: 8ths | = | = | 8ths 4&.o\nkick: 1 | = | = | =\n")
    page = page_of(score, Look(repeats=True))
    assert [b.is_repeat for b in bars(page)] == [False, True, True, False]
    assert page.signs == ("open", "repeat")
    assert all(f'id="bar-{b}"' in engraving.svg_pages(page)[0] for b in (1, 2, 3, 4))


def test_dense_bars_share_no_line_with_many():
    sizes = [len(s.bars) for s in page_of(FIFTY).systems]
    assert sum(sizes) == 50 and max(sizes) <= 5 and min(sizes) >= 1
    thin = read("tempo: 90\n== A\nkick: " + " | ".join(["1"] * 16) + "\n")
    assert [len(s.bars) for s in page_of(thin).systems] == [4, 4, 4, 4]


def test_the_legend_has_only_the_signs_that_occur():
    assert page_of(read(f"tempo: 90\n{PLAIN}")).signs == ()
    page = page_of(read("tempo: 90\nsnare: 1.f (2) 3.> 4.z\nhat: 1.o\n"))
    assert page.signs == ("accent", "ghost", "flam", "buzz", "open")
    text = "".join(engraving.svg_pages(page))
    assert all(WORDS[s] in text for s in page.signs)
    assert "half-open" not in text


def test_every_sign_is_drawn_in_the_legend():
    page = replace(page_of(FIFTY), systems=(), signs=SIGNS)
    text = "".join(engraving.svg_pages(page))
    assert text.count('class="sign"') == len(SIGNS) == len(WORDS)


def test_no_words_collide_on_fifty_nasty_bars():
    assert page_collisions.collisions() == 0


@pytest.mark.parametrize("view", charting.VIEWS)
@pytest.mark.parametrize("paper", engraving.PAPERS)
def test_each_view_is_made_for_each_paper(view, paper):
    score = with_limbs(count.read(ROCK))
    pages = charting.pages(score, charting.Wish(view, paper))
    sheet = engraving.PAPERS[paper]
    assert pages and all(f'viewBox="0 0 {sheet.width:g} {sheet.height:g}"' in p for p in pages)
    assert "Plain Rock" in pages[0]


def test_what_is_no_view_is_told():
    with pytest.raises(BadScore, match="There is no view “map”"):
        charting.Wish(view="map")


def test_the_limb_chart_has_a_line_for_each_limb():
    score = with_limbs(count.read(ROCK))
    page = charting.limbs(score, charting.Wish("limbs"))
    assert [label for label, _ in page.staves] == ["RH", "LH", "RF", "LF"]
    heads = [
        [h.part for v in s.voices for b in v.beams for e in b.events for h in e.heads]
        for s in bars(page)[1].staves
    ]
    assert set(heads[0]) == {"hat_closed"} and set(heads[2]) == {"kick"}
    assert page.systems[0].heading.note.endswith(".")  # a rule between the limbs


ROAD = (
    "tempo: 100\n== Verse\nhat: 8ths | = | = | = | = | = | = | 1 1& 2 2&\n"
    "snare: 2 4 | = | = | = | = | = | = | 2 3 3e 3& 3a 4 4e 4& 4a\n"
    "kick: 1 3 | = | = | = | = | = | = | 1\n"
    "== Bridge\nride: 8ths | = | = | = | = | = | -\nsnare: 2 4 | = | = | = | = | = | -\n"
    "kick: 1 3 | = | = | = | = | = | 1 2&\n"
    "== Verse\nhat: 8ths | = | = | = | = | = | = | -\nsnare: 2 4 | = | = | = | = | = | = | -\n"
    "kick: 1 3 | = | = | = | = | = | = | 1\n"
)


def test_the_road_map_says_what_a_substitute_needs():
    verse, bridge, last = road_map(read(ROAD))
    assert (verse.bars, verse.shape, verse.like) == (8, "", "")
    assert {s.part for s in verse.core} == {"hat_closed", "snare", "kick"}
    assert any(line.text.startswith("fill, bar 8: 16ths on 3") for line in verse.lines)
    assert (bridge.bars, bridge.shape) == (7, "4 + 3")
    assert ("stop, bar 7: 1 2&", True) in [(x.text, x.is_loud) for x in bridge.lines]
    assert last.like == verse.name and not last.core
    assert ("ends on 1 of bar 8", True) in [(x.text, x.is_loud) for x in last.lines]


@pytest.mark.parametrize("song", road_maps.SONGS, ids=lambda s: s.parts[0].name)
def test_a_written_song_has_its_road_map(song):
    assert not road_maps.wrong(song)


def test_excerpts_are_the_passages_that_tell_most():
    page = charting.excerpts(read(ROAD), charting.Wish("excerpts"))
    headings = [s.heading for s in page.systems if s.heading]
    assert headings[0].name.startswith("1  ")
    assert "tells bars" in headings[0].note


def test_musicxml_keeps_the_ornaments():
    text = musicxml.write(read("tempo: 90\nsnare: 1.f 2.d 3.z 4.i\n")).decode()
    assert text.count("<grace") == 3 and 'slash="yes"' in text
    assert 'type="unmeasured">0' in text and 'type="single">1' in text


def test_the_shell_writes_several_views(tmp_path):
    source, out = tmp_path / "song.count", tmp_path / "out"
    source.write_text(ROAD)
    args = ["chart", str(source), "--view", "full,roadmap,limbs", "--paper", "letter"]
    assert (
        main([*args, "--pdf", str(tmp_path / "a.pdf"), "--svg", str(out), "--png", str(out)]) == 0
    )
    made = {p.name for p in out.iterdir()}
    assert {
        f"song - {name}"
        for name in ("chart - page 1.svg", "road map - page 1.svg", "limbs - page 1.png")
    } <= made
    assert (tmp_path / "a.pdf").read_bytes()[:4] == b"%PDF"
    assert main([*args[:3], "poster", "--pdf", str(tmp_path / "b.pdf")]) == 2


def test_midi_sounds_the_ornaments():
    song = mido.MidiFile(file=BytesIO(midi.write(read("tempo: 90\nsnare: 1 2.f 3.d 4.i\n"))))
    notes = [m for m in song.tracks[1] if m.type == "note_on"]
    assert len(notes) == 4 + 1 + 2 + 1


def test_the_counting_sheet_is_the_spine_on_paper():
    score = read("tempo: 90\n== A\nhat: 8ths | =\nsnare: 2.> (2a) 4.f | =\nkick: 1 3 | =\n")
    [page] = charting.pages(score, charting.Wish("counting"))
    from orchesis.score.shapes import SHAPES

    assert page.count(SHAPES["lens"].path) == 16 and page.count(SHAPES["barrel"].path) == 4
    said = re.findall(r'class="count"[^>]*>([^<]+)<', page)
    assert said[:9] == ["1", "&amp;", "2", "&amp;", "a", "3", "&amp;", "4", "&amp;"]
    spoken = charting.pages(score, charting.Wish("counting", counting="ta_te"))[0]
    assert ">te<" in spoken


def test_a_person_says_where_a_bar_stands_on_the_page():
    score = read("tempo: 90\n== A\nkick: " + " | ".join(["1"] * 12) + "\n")

    def lines(of: Score) -> list[list[int]]:
        return [[b.number for b in s.bars] for s in charting.full(of).systems]

    for kind, wanted in (
        ("line", [[1, 2, 3, 4], [5, 6], [7, 8, 9, 10], [11, 12]]),
        ("joined", [[1, 2, 3, 4], [5, 6, 7, 8], [9, 10, 11, 12]]),
    ):
        new, *_ = apply(score, SetBreak(bar=7, kind=kind))
        assert lines(new) == wanted
    nine, *_ = apply(score, SetBreak(bar=9, kind="joined"))
    assert lines(nine) == [[1, 2, 3, 4], [5, 6, 7, 8, 9], [10, 11, 12]]
    page, *_ = apply(score, SetBreak(bar=5, kind="page"))
    assert len(charting.pages(page)) == 2
    assert Score.from_json(page.to_json()).breaks == page.breaks
    back, *_ = apply(page, SetBreak(bar=5, kind="found"))
    assert back.breaks == ()


def test_variations_are_numbered_by_groove_then_step():
    page = charting.variations(read(ROAD), charting.Wish("variations"))
    names = [s.heading.name for s in page.systems if s.heading]
    assert names[0].startswith("1  Verse") and any(n.startswith("2") for n in names)
    assert names[-1].startswith("Fill")


def test_half_time_is_marked_and_large_print_is_larger():
    half = with_limbs(
        count.read(
            "tempo: 140\n== Verse\nhat: 8ths | = | = | =\nsnare: 3 | = | = | =\nkick: 1 2& | = | = | =\n"
        )
    )
    assert "half-time feel" in "".join(charting.pages(half))
    both = with_limbs(
        count.read(
            "tempo: 140\n== Verse\nhat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | = | = | =\n"
            "== Chorus\nride: 8ths | = | = | =\nsnare: 3 | = | = | =\nkick: 1 2& | = | = | =\n"
        )
    )
    text = "".join(charting.pages(both))
    assert "half-time feel" not in text and "half-time" in text
    wish = charting.Wish(paper="A4 large")
    assert len(charting.pages(both, wish)) >= len(charting.pages(both))
    assert charting.pdf(both, wish).startswith(b"%PDF")


def test_chosen_excerpts_are_numbered_with_their_words():
    song = with_limbs(
        count.read(
            "tempo: 100\n== Verse\nhat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | = | = | =\n"
        )
    )
    wish = charting.Wish(view="excerpts", chosen=((2, 3, "Low sticks."), (9, 9, "gone")))
    text = "".join(charting.pages(song, wish))
    assert "Low sticks." in text and "bars 2 to 3" in text and "1  Verse" in text
    assert "gone" not in text


LOOKS = read("hat: 8ths 4&.o\nsnare: 2 (2a) 4.>R\nkick: 1 3\ntom_floor: 3&\nride: 1&\n")


def _heads(page):
    return {
        h.part: h
        for system in page.systems
        for b in system.bars
        for staff in b.staves
        for v in staff.voices
        for beam in v.beams
        for e in beam.events
        for h in e.heads
    }


@pytest.mark.parametrize(
    ("layout", "locs"),
    [
        ("common", {"hat_closed": 9, "ride": 8, "kick": 1, "tom_floor": 3}),
        ("ride_above", {"hat_closed": 8, "ride": 9, "kick": 1, "tom_floor": 3}),
        ("low_kick", {"hat_closed": 9, "ride": 8, "kick": -1, "tom_floor": 1}),
    ],
)
def test_which_line_is_which_is_a_choice(layout, locs):
    heads = _heads(charting.full(LOOKS, charting.Wish(layout=layout)))
    assert {name: heads[name].loc for name in locs} == locs


def test_ghosts_are_bracketed_or_small_and_the_legend_says_which():
    small = charting.full(LOOKS, charting.Wish(ghosts="small"))
    assert "small_ghost" in small.signs and "ghost" not in small.signs
    assert 'head.mod="paren"' not in mei(small.systems[0], small.staves)
    usual = charting.full(LOOKS)
    assert "ghost" in usual.signs and 'head.mod="paren"' in mei(usual.systems[0], usual.staves)


def test_hands_have_the_letters_one_reads():
    page = charting.full(LOOKS, charting.Wish(sticking="all", letters="DG"))
    said = {w.text for s in page.systems for b in s.bars for w in b.words if w.kind == "stick"}
    assert said <= {"D", "G", "DG"} and "DG" in said
    with pytest.raises(BadScore, match="no letters for the hands"):
        charting.Wish(letters="RR")


def test_a_writers_own_words_stand_in_the_legend():
    told, *_ = apply(LOOKS, SetHowTo(sign="ghost", text="an inch above the head"))
    assert "ghost: an inch above the head" in charting.pages(told)[0]
    assert Score.from_json(told.to_json()).how_to == {"ghost": "an inch above the head"}
    back, *_ = apply(told, SetHowTo(sign="ghost", text=""))
    assert "ghost: very soft" in charting.pages(back)[0]


def test_a_road_map_draws_stops_and_kicks_of_the_band():
    song = read(
        "hat: 8ths | = | = | -\nsnare: 2 4 | = | = | -\nkick: 1 3 | = | = | 1 2&\n"
        "cue: - | 2& 4 | - | -\n"
    )
    [stop, band] = [r for line in road_map(song)[0].lines if (r := line.rhythm) is not None]
    assert not stop.goes_on and stop.places == (0, Fraction(3, 2))
    assert band.goes_on and band.places == (Fraction(3, 2), 3)
    drawn = rhythm_page(band.places, band.meter, band.goes_on)
    text = mei(drawn.systems[0], drawn.staves)
    assert text.count('head.shape="slash"') == 4 and text.count('stem.dir="up"') == 2
    [page] = charting.pages(song, charting.Wish("road-map"))
    assert page.count('class="rhythm"') == 2 and "ledgerLines" not in page


def test_a_line_holds_as_many_bars_as_one_wishes():
    song = read("hat: 8ths | = | = | =\nkick: 1 | = | = | =")
    wish = charting.Wish(bars_a_line=2)
    assert [len(s.bars) for s in charting.full(song, wish).systems] == [2, 2]
    with pytest.raises(BadScore, match="1 to 8 bars"):
        charting.Wish(bars_a_line=9)


def test_numbers_alone_can_be_counted():
    page = charting.full(LOOKS, charting.Wish(counts="all", counting="numbers"))
    assert words(page, "count") == [["1", "2", "3", "4"]]
    assert [w for _, w in spoken(LOOKS, "numbers")] == ["1", "2", "3", "4"]


def test_a_road_map_draws_the_line_that_one_sings():
    song = read("hat: 8ths\nsnare: 2 4\nkick: 1 3\ncue: 1^33 2&^45 4^40\n")
    [line] = [x.rhythm for x in road_map(song)[0].lines if x.rhythm is not None]
    assert line.pitches == (33, 45, 40)
    drawn = _heads_of(rhythm_page(**vars(line)))
    assert drawn == [5, 11, 9]
    assert count.read(count_writer.whole(song)).cues == song.cues


def _heads_of(page):
    return [
        h.loc
        for s in page.systems
        for b in s.bars
        for v in b.staves[0].voices
        if v.stem == "up"
        for beam in v.beams
        for e in beam.events
        for h in e.heads
    ]


@pytest.mark.parametrize(
    ("cue", "says"),
    [
        ("1^33 2", "every place of a cue has a pitch"),
        ("1^x", "a pitch is a MIDI number"),
        ("1^200", "a pitch is a MIDI number"),
    ],
)
def test_a_pitch_that_is_none_is_told(cue, says):
    with pytest.raises(BadScore, match=says):
        count.read(f"kick: 1\ncue: {cue}")


@pytest.mark.parametrize("part", ["cowbell", "block", "ride_bell", "cross_stick", "rimshot"])
def test_a_head_of_its_own_is_drawn_as_one(part):
    page = charting.full(read(f"{part}: 1\n"))
    drawn = systems._engrave(mei(page.systems[0], page.staves), 900, 8.0)
    [glyph] = re.findall(r'class="notehead">\s*<use [^>]*href="#([0-9A-F]{4})', drawn)
    assert glyph != "E0A4"  # a plain black head
