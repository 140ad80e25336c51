"""The passages that tell a song: few, ranked, and together nearly all of it."""

from __future__ import annotations

import pytest

from orchesis import explanations
from orchesis.formats import count
from orchesis.teaching import passages

VERSE = "hat: 8ths | =\nsnare: 2 4 | =\nkick: 1 3 | 1 2& 3\n"
CHORUS = "ride: quarters | =\nsnare: 2 4 4a | =\nkick: 1 1& 3 3& | =\n"


def song(*sections: str):
    return count.read("tempo: 120\n" + "".join(sections))


def verse(n: int = 4) -> str:
    rows = {"hat": "8ths", "snare": "2 4", "kick": "1 3 | 1 2& 3a"}
    return (
        "== Verse\n"
        + "\n".join(
            f"{part}: {' | '.join((text.split(' | ') * n)[: 2 * n])}"
            for part, text in ((p, t if "|" in t else f"{t} | {t}") for p, t in rows.items())
        )
        + "\n"
    )


def chorus(n: int = 4) -> str:
    rows = {"ride": "quarters", "snare": "2 4 4a", "kick": "1 1& 3 3&"}
    return "== Chorus\n" + "\n".join(f"{p}: {' | '.join([t] * n)}" for p, t in rows.items()) + "\n"


def test_a_two_bar_verse_and_a_one_bar_chorus_are_two_passages():
    found = passages.of_song(song(verse(), chorus(), verse(), chorus()))
    assert [(p.bar, p.bars) for p in found] == [(1, 2), (9, 1)]
    assert sum(p.share for p in found) == pytest.approx(1.0)
    assert found[0].sections == ("Verse",) and len(found[0].covers) == 16


def test_what_is_played_once_comes_last_or_not_at_all():
    score = song(verse(), chorus(), "== Break\nsnare: 1 1e 1& 2 | 3 3a 4\n")
    found = passages.of_song(score)
    assert [p.bar for p in found[:2]] == [1, 9]
    assert sum(p.share for p in found) > 0.8


def test_a_silent_song_has_none_and_no_bar_is_told_twice():
    assert passages.of_song(song("== A\nhat: - | -\n")) == []
    found = passages.of_song(song(verse(), chorus(8), verse(2)))
    covered = [b for p in found for b in p.covers]
    assert len(covered) == len(set(covered))
    assert [p.share for p in found] == sorted((p.share for p in found), reverse=True)


def test_a_passage_is_told_with_its_bars_and_sections():
    [told, *_] = map(
        explanations.told_passage, passages.of_song(song(verse(2), chorus(), verse(2)))
    )
    assert told["says"] == "tells bars 1–4, 9–12 (Verse)"
