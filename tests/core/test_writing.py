"""Writing bars: count text there and back, what is offered to bars alike, comparing, reviewing."""

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis import explanations
from orchesis.checks import alike, review
from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count, count_lanes, count_writer
from orchesis.grooves.compare import compare
from orchesis.score import KIT, Measured, Meter, Stroke
from orchesis.score.patches import patched
from orchesis.score.stroke import ORNAMENTS
from tests.edits import apply
from tests.songs import ROCK

SCORE = count.read(ROCK)
FOUR = Meter(4, 4)


def edit(score, operation, **args):
    return apply(score, operation, args)[0]


def offered(old, new):
    ids = {k for k in {**old.strokes, **new.strokes} if old.strokes.get(k) != new.strokes.get(k)}
    return alike.offer(old, new, sorted(ids))


def what(strokes):
    return {
        (s.bar, s.part, s.place, s.limb, s.dynamic, s.ornament, s.choked, s.doubt, s.loudness)
        for s in strokes
    }


places = st.builds(
    lambda beat, parts, k: Fraction(beat) + Fraction(k % parts, parts),
    st.integers(0, 3),
    st.sampled_from([1, 2, 3, 4, 5, 6, 8]),
    st.integers(0, 7),
)
strokes = st.builds(
    lambda place, part, dynamic, left, ornament, choked, doubt: Stroke(
        id="x",
        bar=1,
        place=place,
        part=part,
        dynamic=dynamic,
        ornament=ornament,
        choked=choked,
        limb=("L" if left else "R") + ("F" if KIT[part].role.endswith("foot") else "H"),
        loudness={"ghost": 0.3, "normal": 0.7, "accent": 0.95}[dynamic],
        doubt=doubt,
    ),
    places,
    st.sampled_from(list(KIT)),
    st.sampled_from(["ghost", "normal", "accent"]),
    st.booleans(),
    st.sampled_from([None, *ORNAMENTS]),
    st.booleans(),
    st.sampled_from(["", "doubtful"]),
)
bars_of_strokes = st.lists(strokes, max_size=24, unique_by=lambda s: (s.part, s.place))


class TestCountText:
    @given(bars_of_strokes)
    @settings(max_examples=200)
    def test_a_bar_comes_back_from_its_own_text(self, bar):
        text = count_writer.lanes(bar, [FOUR])
        assert what(count_lanes.read_bars(text, [FOUR])[0]) == what(bar)

    @given(bars_of_strokes)
    @settings(max_examples=50)
    def test_text_written_back_stays_the_same(self, bar):
        text = count_writer.lanes(bar, [FOUR])
        again = [s for b in count_lanes.read_bars(text, [FOUR]) for s in b]
        assert count_writer.lanes(again, [FOUR]) == text

    @given(st.text(alphabet='12345 e&atl.>()o:/|=-hxfsnare\n"#', max_size=60))
    @settings(max_examples=300)
    def test_any_text_is_read_or_refused_with_its_place(self, text):
        try:
            count_lanes.read_bars(text, [FOUR])
        except BadScore as problem:
            assert str(problem).startswith("Line ")

    def test_the_shortest_words_are_used(self):
        bar = count_lanes.read_bars("hat: 8ths -1 4&.o\nsnare: 2.> (2a) 4:5/6", [FOUR])[0]
        text = count_writer.lanes(bar, [FOUR])
        assert text == "hat:   8ths -1 4&.o\nsnare: 2.> (2a) 4:5/6"

    def test_four_sixteenths_and_then_a_sextuplet(self):
        text = "snare: 3 3e 3& 3a 4 4:1/6 4t 4& 4l 4:5/6"
        [bar] = count_lanes.read_bars(text, [FOUR])
        assert count_writer.lanes(bar, [FOUR]) == text

    def test_compound_beats_have_no_and(self):
        meter = Meter(12, 8)
        [bar] = count_lanes.read_bars("hat: 8ths\nkick: 1 2l 4t", [meter])
        assert count_writer.lanes(bar, [meter]) == "hat:  8ths\nkick: 1 2l 4t"

    @pytest.mark.parametrize(
        ("text", "says"),
        [
            ("hat: 1 9", "Line 1, column 8: “9” lies outside"),
            ("hat: 8ths\nsnare: 2 | 4", "Line 2, column 10: there is room for 1 bar"),
            ("drum: 1", "Line 1, column 1: “drum” is neither"),
            ("hat: 1.q", "“q” in “1.q” is not a mark"),
            ("hat: 1 1", "“1” is given twice"),
        ],
    )
    def test_errors_point_at_the_character(self, text, says):
        with pytest.raises(BadEdit, match=says):
            edit(SCORE, "write_bars", bar=3, text=text, new="t")

    def test_a_written_bar_keeps_what_was_measured_of_strokes_that_stay(self):
        heard = SCORE.with_strokes(
            s.changed(
                measured=Measured(SCORE.seconds(s.bar, s.place)), placed_by="heard", loudness=0.63
            )
            for s in SCORE.strokes.values()
        )
        text = count_writer.write(heard, 3, 3)
        assert edit(heard, "write_bars", bar=3, text=text, new="t") == heard
        more = edit(heard, "write_bars", bar=3, text=text + "\ncowbell: 1", new="t")
        assert set(more.strokes) - set(heard.strokes) == {"t-0-" + str(len(heard.by_bar()[3]))}
        gone = edit(heard, "write_bars", bar=3, text="kick: 1", new="t")
        [kick] = gone.by_bar()[3]
        assert kick.time is not None and kick.loudness == 0.63

    def test_what_was_left_out_stays_left_out(self):
        snare = next(s for s in SCORE.by_bar()[3] if s.part == "snare")
        out = edit(SCORE, "set_doubt", id=snare.id, doubt="left_out", reason="bleed")
        text = count_writer.write(out, 3, 3)
        assert (
            edit(out, "write_bars", bar=3, text=text, new="t").strokes[snare.id].reason == "bleed"
        )
        assert snare.id not in out.played().strokes


class TestCues:
    def test_the_band_s_rhythm_and_words_are_kept_moved_and_written_back(self):
        text = 'cue: "horns" 1 2& 4 | -\nhat: 8ths | 8ths'
        score = edit(SCORE, "write_bars", bar=3, bars=2, text=text, new="t")
        assert score.cues[3].words == "horns"
        assert count_writer.write(score, 3, 4).splitlines()[0] == 'cue: "horns" 1 2& 4 | -'
        assert edit(score, "write_bars", bar=3, text="hat: 8ths", new="u").cues == {}
        new, patch, inverse = apply(SCORE, "set_cue", {"bar": 5, "text": '"stop" 1'})
        assert patched(SCORE, patch).cues == new.cues and patched(new, inverse).cues == {}
        later = edit(new, "shift_one", beats=-4)
        assert [c.words for c in later.cues.values()] == ["stop"]

    def test_a_cue_is_tapped_along_over_the_bars_it_falls_on(self):
        spoken = edit(SCORE, "set_cue", bar=3, text='"horns" 1')
        taps = [SCORE.seconds(3, Fraction(p)) + 0.01 for p in ("0", "3/2", "3")]
        taps.append(SCORE.seconds(4, Fraction(2)) - 0.01)
        made = edit(spoken, "tap_cue", moments=taps)
        assert made.cues[3].places == (0, Fraction(3, 2), 3) and made.cues[3].words == "horns"
        assert made.cues[4].places == (2,)
        for wrong in ([], ["x"], [-99.0]):
            with pytest.raises(BadEdit):
                edit(SCORE, "tap_cue", moments=wrong)

    def test_a_song_s_cue_lane_is_read_and_its_mistakes_are_told(self):
        score = count.read('meter: 4/4\ncue: - | "hits | here" 1 3e\nkick: 1 | 1')
        assert score.cues[2].words == "hits | here"
        assert score.cues[2].places == (Fraction(0), Fraction(9, 4))
        with pytest.raises(BadEdit, match="Line 1, column 6: “7”"):
            edit(SCORE, "set_cue", bar=5, text="7")


class TestAlike:
    snare = next(s for s in SCORE.by_bar()[3] if s.part == "snare")

    def offered(self, operation, **args):
        return offered(SCORE, edit(SCORE, operation, **args))

    def test_a_changed_part_is_offered_where_the_same_is_played(self):
        offer = self.offered("set_part", id=self.snare.id, part="cross_stick")
        assert offer.bar == 3 and offer.bars
        assert "cross-stick instead of snare" in explanations.offer(offer)
        there = edit(SCORE, "set_part", id=self.snare.id, part="cross_stick")
        spread = edit(there, "spread", bars=list(offer.bars), changes=list(offer.changes))
        for bar in [3, *offer.bars]:
            parts = {s.part for s in spread.by_bar()[bar] if s.place == self.snare.place}
            assert "cross_stick" in parts and "snare" not in parts

    def test_adding_removing_and_moving_spread_too_and_come_back(self):
        for operation, args in (
            ("add_stroke", {"id": "n", "bar": 3, "place": "15/4", "part": "cowbell", "limb": "LH"}),
            ("remove_stroke", {"id": self.snare.id}),
            ("move_stroke", {"id": self.snare.id, "bar": 3, "place": "5/4"}),
        ):
            offer = self.offered(operation, **args)
            changed = edit(SCORE, operation, **args)
            fields = {"bars": list(offer.bars), "changes": list(offer.changes)}
            new, patch, inverse = apply(changed, "spread", fields)
            assert new != changed and patched(new, inverse) == changed
            assert patched(changed, patch) == new

    def test_nothing_is_offered_for_confirmed_bars_or_edits_of_several(self):
        offer = self.offered("set_dynamic", id=self.snare.id, dynamic="ghost")
        sure = edit(SCORE, "confirm_bars", bar=1, last=SCORE.bar_count, confirmed=True)
        assert offered(sure, edit(sure, "set_dynamic", id=self.snare.id, dynamic="ghost")) is None
        assert offer is not None
        assert self.offered("halve_tempo") is None

    def test_bars_that_no_longer_fit_are_told(self):
        offer = self.offered("remove_stroke", id=self.snare.id)
        gone = edit(SCORE, "spread", bars=list(offer.bars), changes=list(offer.changes))
        with pytest.raises(BadEdit, match="fits in none"):
            edit(gone, "spread", bars=list(offer.bars), changes=list(offer.changes))
        bell = {"id": "n", "bar": 3, "place": "15/4", "part": "cowbell", "limb": "LH"}
        added = edit(SCORE, "add_stroke", **bell)
        offer = self.offered("add_stroke", **bell)
        everywhere = edit(added, "spread", bars=list(offer.bars), changes=list(offer.changes))
        assert sum(s.part == "cowbell" for s in everywhere.strokes.values()) > 2
        with pytest.raises(BadEdit, match="fits in none"):
            edit(
                everywhere,
                "spread",
                bars=[3],
                changes=[{"was": None, "now": {**bell, "dynamic": "normal", "loudness": 0.7}}],
            )


class TestCompare:
    def told(self, a, b):
        left, right = (count_lanes.read_bars(x, [FOUR])[0] for x in (a, b))
        return [
            (d.kind, explanations.difference(d, FOUR))
            for d in compare(left, right)
            if d.kind != "same"
        ]

    def test_equal_bars_differ_in_nothing(self):
        assert self.told("hat: 8ths\nkick: 1 3", "kick: 1 3\nhat: 8ths") == []

    @pytest.mark.parametrize(
        ("a", "b", "kind", "says"),
        [
            ("kick: 1 3", "kick: 1 3&", "moved", "kick moves from 3 to 3& (later)"),
            ("kick: 1", "kick: 1 3", "added", "kick on 3 is new"),
            ("snare: 2 (2a)", "snare: 2", "removed", "ghost snare on 2a is gone"),
            ("snare: 2", "snare: 2.>", "louder", "snare on 2 is louder, now an accent"),
            ("snare: 2", "snare: (2)", "softer", "snare on 2 is softer, now ghost"),
            ("hat: 1", "hat: 1.o", "part", "on 1 hat open instead of hat closed"),
            ("snare: 2", "snare: 2.R", "limb", "snare on 2 with RH instead of LH"),
            ("snare: 2", "snare: 2.f", "ornament", "snare on 2 is now flam"),
        ],
    )
    def test_every_difference_is_said(self, a, b, kind, says):
        assert self.told(a, b) == [(kind, says)]

    def test_what_happens_at_several_places_is_said_once(self):
        a, b = (
            count_lanes.read_bars(x, [FOUR])[0]
            for x in ("hat: 8ths\nsnare: 2", "ride: 8ths\nkick: 1 3")
        )
        assert sorted(explanations.differences(compare(a, b), FOUR)) == [
            "kick on 1, 3 are new",
            "ride instead of hat closed on 1, 1&, 2, 2&, 3, 3&, 4, 4&",
            "snare on 2 is gone",
        ]


class TestReview:
    def unsure(self, bars, **changes):
        snares = [s for s in SCORE.strokes.values() if s.part == "snare" and s.bar in bars]
        return SCORE.with_strokes(
            [
                *SCORE.strokes.values(),
                *(
                    s.changed(**{"confidence": 0.4, "placed_by": "heard", **changes})
                    for s in snares
                ),
            ]
        )

    def test_a_doubt_that_recurs_is_asked_once_and_settles_all(self):
        score = self.unsure(range(2, 7))
        first = review.queue(score)[0]
        assert first.kind == "unsure" and len(first.bars) > 1
        answers = [{"operation": "set_doubt", "id": i, "doubt": ""} for i in first.strokes]
        settled = edit(score, "many", edits=answers)
        assert first.key not in [d.key for d in review.queue(settled)]
        assert len(review.queue(settled)) == len(review.queue(score)) - 1

    def test_confirmed_bars_and_what_was_left_out_ask_nothing(self):
        score = self.unsure(range(1, 17))
        sure = edit(score, "confirm_bars", bar=1, last=score.bar_count, confirmed=True)
        assert review.queue(sure) == []
        out = self.unsure(range(1, 17), doubt="left_out")
        assert not [d for d in review.queue(out) if d.part == "snare" and d.kind == "unsure"]

    def test_what_is_missing_in_one_bar_is_asked_and_can_be_left(self):
        kick = next(s for s in SCORE.by_bar()[4] if s.part == "kick")
        without = edit(SCORE, "remove_stroke", id=kick.id)
        gaps = [d for d in review.queue(without) if d.kind == "missing" and d.part == "kick"]
        assert [d.bars for d in gaps] == [(4,)] and "No kick on" in explanations.doubt(
            gaps[0], without
        )
        left = edit(without, "settle", key=gaps[0].key)
        assert gaps[0].key not in [d.key for d in review.queue(left)]

    def test_bars_are_heard_in_review_or_confirmed(self):
        heard = SCORE.with_strokes(s.changed(placed_by="heard") for s in SCORE.strokes.values())
        touched = edit(heard, "set_limb", id=next(iter(heard.by_bar()[2])).id, limb="LH")
        sure = edit(touched, "confirm_bars", bar=1, last=1, confirmed=True)
        assert review.states(sure)[:3] == ["confirmed", "review", "heard"]


def test_many_edits_are_one_or_none():
    a, b = list(SCORE.strokes)[:2]
    both = edit(
        SCORE,
        "many",
        edits=[
            {"operation": "set_loudness", "id": a, "loudness": 0.2},
            {"operation": "set_choked", "id": b, "choked": True},
        ],
    )
    assert both.strokes[a].dynamic == "ghost" and both.strokes[b].choked
    for bad in ([{"operation": "many", "edits": []}], [{"operation": "halve_tempo"}], []):
        with pytest.raises(BadEdit):
            edit(SCORE, "many", edits=bad)
    with pytest.raises(BadEdit, match="no longer there"):
        edit(SCORE, "many", edits=[{"operation": "remove_stroke", "id": "nobody"}])


def test_choosing_a_limb_says_nothing_of_whether_the_stroke_is_there():
    ghost = next(s for s in SCORE.strokes.values() if s.part == "snare")
    unsure = SCORE.with_strokes(
        s.changed(placed_by="heard", confidence=0.4) if s.id == ghost.id else s
        for s in SCORE.strokes.values()
    )
    [asked] = [d for d in review.queue(unsure) if d.kind == "unsure"]
    limbed = edit(unsure, "set_limb", id=ghost.id, limb="RH")
    stroke = limbed.strokes[ghost.id]
    assert (stroke.limb_by, stroke.placed_by, stroke.confidence) == ("person", "heard", 0.4)
    assert [d.key for d in review.queue(limbed) if d.kind == "unsure"] == [asked.key]
    sure = edit(limbed, "set_dynamic", id=ghost.id, dynamic="accent")
    assert not [d for d in review.queue(sure) if d.kind == "unsure"]


def test_what_is_played_in_is_written_on_its_places():
    bar, late = 5, 0.012
    hits = [
        {
            "time": SCORE.seconds(bar, Fraction(k, 4)) + late * (-1) ** k,
            "part": "cowbell",
            "loudness": 0.9,
        }
        for k in range(16)
    ]
    played = edit(SCORE, "play_in", hits=hits, new="p")
    bells = [s for s in played.by_bar()[bar] if s.part == "cowbell"]
    assert [s.place for s in bells] == [Fraction(k, 4) for k in range(16)]
    assert {s.dynamic for s in bells} == {"accent"}
    again = edit(played, "play_in", hits=hits, new="q")
    assert again == played
    with pytest.raises(BadEdit, match="Nothing was played"):
        edit(SCORE, "play_in", hits=[{"time": 8e4, "part": "kick"}], new="r")
