"""One answer for a sound: named, dismissed, split, joined; a person's strokes and confirmed bars stay."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis import explanations
from orchesis.checks import kit_sounds, review
from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count
from orchesis.score import CandidateHit, KitSound, Measured, Score
from orchesis.score.patches import patched, patched_document, taken_back
from tests.edits import apply
from tests.songs import ROCK

HATS, SNARES, CLAPS = 1, 2, 3


def heard():
    """As if heard: hats and snares are sounds; every third hat was heard as a crash too unsurely to be written,
    and a clap stands on the offbeats of bars 1 to 8, which is none."""
    score = count.read(ROCK)
    strokes, perhaps = {}, {}
    for s in score.strokes.values():
        time = score.seconds(s.bar, s.place)
        sound = HATS if s.part.startswith("hat") else SNARES if s.part == "snare" else 0
        s = s.changed(
            measured=Measured(time, -10.0, None, sound, s.bar % 2 if sound else 0),
            placed_by="heard",
            confidence=0.8,
        )
        if sound == HATS and s.place == Fraction(5, 2):
            perhaps[s.id] = CandidateHit(s.id, "crash", s.measured, s.loudness, 0.3)
        else:
            strokes[s.id] = s
    for bar in range(1, 9):
        place = Fraction(7, 4)
        where = Measured(score.seconds(bar, place), -20.0, None, CLAPS)
        strokes[f"c{bar}"] = replace(
            score.strokes[next(iter(score.strokes))],
            id=f"c{bar}",
            bar=bar,
            place=place,
            part="clap",
            measured=where,
            placed_by="heard",
            confidence=0.45,
        )
    sounds = (
        KitSound(HATS, "hat_closed", "", "12", ("10", "02")),
        KitSound(SNARES, "snare"),
        KitSound(CLAPS, "clap"),
    )
    return replace(score, strokes=strokes, perhaps=perhaps, sounds=sounds)


SCORE = heard()


def of(score, number):
    return [s for s in score.strokes.values() if s.measured and s.measured.sound == number]


def test_a_named_sound_is_written_as_that_part_also_where_it_was_only_perhaps():
    new, _, _ = apply(SCORE, "name_sound", {"sound": HATS, "part": "ride"})
    assert {s.part for s in of(new, HATS)} == {"ride"}
    assert len(of(new, HATS)) == len(of(SCORE, HATS)) + len(SCORE.perhaps) and not new.perhaps
    assert all(s.confidence >= 0.9 for s in of(new, HATS))
    (fresh,) = (s for s in of(new, HATS) if s.bar == 3 and s.place == Fraction(5, 2))
    assert fresh.limb == "RH" and fresh.measured.level == -10.0
    assert new.sounds[0].part == "ride" and new.sounds[0].answer == "named"


def test_a_sound_that_is_no_drum_is_not_written_and_nothing_of_it_is_lost():
    new, patch, inverse = apply(SCORE, "dismiss_sound", {"sound": CLAPS})
    assert not of(new, CLAPS)
    assert {p.id for p in new.perhaps.values() if p.measured.sound == CLAPS} == {
        f"c{b}" for b in range(1, 9)
    }
    assert not any(p.is_shown for p in new.perhaps.values() if p.measured.sound == CLAPS)
    back, _, _ = apply(new, "name_sound", {"sound": CLAPS, "part": "clap"})
    assert len(of(back, CLAPS)) == 8
    assert patched(new, inverse).to_json() == SCORE.to_json()
    document = taken_back(new.to_json(), patch, inverse)
    assert Score.from_json(patched_document(new.to_json(), document)).to_json() == SCORE.to_json()


def test_strokes_that_a_person_placed_and_confirmed_bars_stay():
    mine, _, _ = apply(SCORE, "set_part", {"id": "c2", "part": "snare"})
    mine, _, _ = apply(mine, "confirm_bars", {"bar": 5, "last": 6, "confirmed": True})
    new, _, _ = apply(mine, "dismiss_sound", {"sound": CLAPS})
    assert sorted(s.id for s in of(new, CLAPS)) == ["c2", "c5", "c6"]
    named, _, _ = apply(mine, "name_sound", {"sound": HATS, "part": "ride"})
    assert {s.part for s in of(named, HATS) if s.bar in (5, 6)} <= {"hat_closed", "hat_open"}
    assert all(named.perhaps[k] == p for k, p in mine.perhaps.items() if p.id in named.perhaps)


def test_two_sounds_are_split_and_joined_again():
    two, _, _ = apply(SCORE, "split_sound", {"sound": HATS})
    assert [s.number for s in two.sounds] == [1, 2, 3, 4]
    assert {s.bar % 2 for s in of(two, 4)} == {1} and {s.bar % 2 for s in of(two, HATS)} == {0}
    assert two.sounds[0].picture == "10" and two.sounds[3].picture == "02"
    with pytest.raises(BadEdit, match="can't be split"):
        apply(two, "split_sound", {"sound": HATS})
    one, _, _ = apply(two, "join_sounds", {"sound": 4, "same": HATS})
    assert [s.number for s in one.sounds] == [1, 2, 3] and one.sounds[0].halves == ("10", "02")
    assert {s.id for s in of(one, HATS)} >= {s.id for s in of(SCORE, HATS)}


def test_a_part_that_stands_there_already_is_not_written_twice():
    new, _, _ = apply(SCORE, "name_sound", {"sound": CLAPS, "part": "snare"})
    again, _, _ = apply(new, "name_sound", {"sound": HATS, "part": "snare"})
    places = [(s.bar, s.place, s.part) for s in again.strokes.values()]
    assert len(places) == len(set(places))
    kept = {*again.strokes, *again.perhaps}
    assert kept == {*SCORE.strokes, *SCORE.perhaps}


@pytest.mark.parametrize(
    "operation, fields, says",
    [
        ("name_sound", {"sound": 9, "part": "snare"}, "no sound 9"),
        ("join_sounds", {"sound": 2, "same": 2}, "the same as itself"),
        ("write_perhaps", {"ids": ["gone"]}, "no longer perhaps"),
    ],
)
def test_what_does_not_fit_is_told_in_a_sentence(operation, fields, says):
    with pytest.raises(BadEdit, match=says):
        apply(SCORE, operation, fields)


def test_what_is_perhaps_a_stroke_is_written_with_what_was_measured_or_dropped():
    key = next(iter(SCORE.perhaps))
    new, _, _ = apply(SCORE, "write_perhaps", {"ids": [key]})
    made = new.strokes[key]
    assert (
        made.measured == SCORE.perhaps[key].measured
        and made.confidence == 1
        and key not in new.perhaps
    )
    assert made.placed_by == "person" and made.place == Fraction(5, 2)
    gone, _, _ = apply(SCORE, "drop_perhaps", {"ids": [key]})
    assert key not in gone.perhaps and gone.strokes == SCORE.strokes


def test_what_recurs_and_is_perhaps_a_stroke_is_asked_about_once():
    asked = [d for d in review.queue(SCORE) if d.kind == "perhaps"]
    assert asked and all(len(d.perhaps) >= 3 for d in asked)
    assert len({d.key for d in asked}) == len(asked)
    says = explanations.doubt(asked[0], SCORE)
    assert says.startswith("Perhaps a crash on 3& in") and "30 % sure" in says
    new, _, _ = apply(SCORE, "drop_perhaps", {"ids": list(asked[0].perhaps)})
    assert asked[0].key not in {d.key for d in review.queue(new)}


def test_sounds_are_told_largest_first_with_their_doubts_and_five_examples():
    told = kit_sounds.of_song(SCORE)
    assert told[0].number == HATS and told[0].can_split
    assert told[0].unsure == len(SCORE.perhaps)
    examples = told[0].examples
    assert len(examples) == 5 and list(examples) == sorted(examples)
    assert examples[-1] - examples[0] > 0.5 * (SCORE.seconds(9) - SCORE.seconds(1))
    low = replace(SCORE, strokes={k: s.changed(confidence=0.3) for k, s in SCORE.strokes.items()})
    assert {s.doubt for s in kit_sounds.of_song(low)} == {"no drum"}
    assert explanations.sound(kit_sounds.of_song(low)[0]) == "perhaps no drum"


@pytest.mark.parametrize(
    "odd", [{"number": 0}, {"part": "gong"}, {"answer": "maybe"}, {"picture": "a1"}]
)
def test_an_odd_sound_is_refused(odd):
    with pytest.raises(BadScore):
        KitSound.from_json({**SCORE.sounds[0].to_json(), **odd})
