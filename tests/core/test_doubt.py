"""Echoes, third hands, other takes, decisions and their footnotes; `orchesis read` and `sound`."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile as sf

from materials.cases import echoes as bench
from orchesis import charting, explanations
from orchesis.checks import other_takes, review, unlikely
from orchesis.checks.echo import echoes
from orchesis.cli import main
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hearing import align
from orchesis.reading_file import judged
from orchesis.score import Measured
from orchesis.score.decision import decided
from orchesis.sounding import part
from tests import songs


@pytest.mark.parametrize("seed", range(6))
def test_a_delay_is_found_and_what_it_repeats(seed):
    rng = np.random.default_rng(seed)
    score, strokes = bench._groove(rng, with_ghosts=bool(seed % 2))
    heard = bench._measured(bench._delayed(strokes, score, rng), score, rng)
    [found] = echoes(heard)
    assert found.part == "snare" and found.covers >= 0.7
    [doubt] = unlikely.echo_doubts(heard)
    assert "are followed by a soft one" in explanations.doubt(doubt, heard)


@pytest.mark.parametrize("seed", range(6))
def test_real_ghosts_are_no_echo(seed):
    rng = np.random.default_rng(seed)
    score, strokes = bench._groove(rng, with_ghosts=True)
    assert echoes(bench._measured(strokes, score, rng)) == []


def test_an_echo_is_one_doubt_and_its_strokes_are_not_asked_twice():
    rng = np.random.default_rng(3)
    score, strokes = bench._groove(rng, with_ghosts=False)
    heard = bench._measured(bench._delayed(strokes, score, rng), score, rng)
    unsure = heard.with_strokes(s.changed(confidence=0.4) for s in heard.strokes.values())
    special = unlikely.echo_doubts(unsure)
    queue = review.queue(unsure, special)
    own = [d for d in queue if d.kind == "echo"]
    assert len(own) == 1 and len(own[0].strokes) >= 8
    others = {i for d in queue if d.kind != "echo" for i in d.strokes}
    assert not others & set(own[0].strokes)
    assert "echo" not in {
        d.kind
        for d in review.queue(
            unsure.with_strokes(s.changed(doubt="assumed") for s in unsure.strokes.values()),
            unlikely.echo_doubts(
                unsure.with_strokes(s.changed(doubt="assumed") for s in unsure.strokes.values())
            ),
        )
    }


THREE = (
    "tempo: 100\n== A\nhat: 8ths | = | =\nsnare: 2 4 | = | =\nshaker: 2 | = | =\nkick: 1 3 | = | ="
)


def test_three_hands_are_told_once_for_all_bars():
    score = count.read(THREE)
    [doubt] = unlikely.third_hand(score)
    assert doubt.kind == "hands" and doubt.bars == (1, 2, 3) and doubt.place == 1
    assert "no two hands play that" in explanations.doubt(doubt, score)


def test_a_flam_takes_both_hands():
    score = count.read("tempo: 100\nhat: 8ths\nsnare: 2.f 4\nkick: 1 3")
    assert [d.place for d in unlikely.third_hand(score)] == [1]


def test_two_hands_and_two_feet_are_no_doubt():
    text = "tempo: 100\nhat: 8ths\nsnare: 2 4\nkick: 2 4\nhat_foot: 2 4"
    assert unlikely.third_hand(count.read(text)) == []


def other_take(text: str, name: str = "live") -> other_takes.Other:
    score = count.read(text)
    hits = tuple((score.seconds(s.bar, s.place), s.part, s.loudness) for s in score.ordered())
    return other_takes.Other(name, 0.0, score.pulse.times[-1], hits)


HERE = "tempo: 100\n== A\nhat: 8ths" + " | =" * 7 + "\nsnare: 2.> (3e) 4.>" + " | =" * 7
THERE = "tempo: 100\n== A\nhat: 8ths" + " | =" * 7 + "\nsnare: 2.> 4.>" + " | =" * 7


def test_what_the_live_take_lacks_is_summed():
    [tally] = other_takes.tallies(count.read(HERE), [other_take(THERE)])
    assert (tally.place, tally.ghost, tally.here, tally.of) == (Fraction(9, 4), True, 8, 8)
    assert explanations.tally(tally) == "8 of 8 bars here, 0 of 8 in live"


def test_takes_that_play_the_same_tell_nothing():
    assert other_takes.tallies(count.read(HERE), [other_take(HERE)]) == []


def test_doubts_carry_what_other_takes_have():
    score = count.read(HERE)
    unsure = score.with_strokes(
        s.changed(placed_by="heard", confidence=0.4) if s.dynamic == "ghost" else s
        for s in score.strokes.values()
    )
    [doubt] = other_takes.told(review.queue(unsure), unsure, [other_take(THERE)])
    assert doubt.takes == (("live", 0, 8),)
    assert explanations.doubt(doubt, unsure).endswith("live has it in 0 of 8")


def test_a_bar_of_another_take_can_be_compared():
    score = count.read(HERE)
    own = other_takes.strokes_of(other_take(THERE), score, 3)
    assert {(s.part, s.place) for s in own if s.part == "snare"} == {("snare", 1), ("snare", 3)}


def test_moments_are_carried_across_anchors():
    places = [(1.0, 2.0), (3.0, 6.0)]
    assert align.across([2.0, 4.0, 6.0, 1.0, 7.0], places).tolist() == [1.0, 2.0, 3.0, 0.0, 4.0]


# -- decisions and footnotes


def with_decisions():
    score = count.read(songs.ROCK)
    ids = [s.id for s in score.ordered() if s.part == "kick" and s.bar in (2, 4)][1::3]
    made = [
        s.changed(doubt="left_out", reason="the bass, not the kick") if s.id in ids else s
        for s in score.strokes.values()
    ]
    return score.with_strokes(made), ids


def test_decisions_say_what_why_who_and_when():
    score, ids = with_decisions()
    [told] = decided(score, dict.fromkeys(ids, ("ilka", "2026-11-25")))
    assert explanations.decision(told, score) == (
        "Bars 2, 4, kick on 2&: heard, but left out (the bass, not the kick). ilka, 2026-11-25"
    )


def test_footnotes_stand_on_the_page_and_in_the_pdf():
    score, _ = with_decisions()
    told = [(d, explanations.decision(d, score)) for d in decided(score)]
    page = charting.full(score, decisions=told)
    assert [(b.number, w.text) for b in bars_of(page) for w in b.words] == [(2, "1)")]
    pages = charting.pages(score, decisions=told)
    assert "heard, but left out (the bass, not the kick)" in pages[-1]
    assert len(pages) == len(charting.pages(score))
    assert charting.pdf(score, decisions=told)[:4] == b"%PDF"


def bars_of(page):
    return [b for system in page.systems for b in system.bars]


def test_many_footnotes_get_a_page_of_their_own():
    score, _ = with_decisions()
    [decision] = decided(score)
    pages = charting.pages(score, decisions=[(decision, f"no. {n}") for n in range(1, 120)])
    assert len(pages) > len(charting.pages(score))
    assert "119) no. 119" in pages[-1]


def test_footnotes_follow_the_way_of_writing():
    from dataclasses import replace

    score, _ = with_decisions()
    long = replace(score, notation="long")
    page = charting.full(long, decisions=[(d, "") for d in decided(long)])
    assert [(b.number, w.place) for b in bars_of(page) for w in b.words] == [(3, 3)]


# -- the shell


def test_read_writes_the_contract(tmp_path: Path):
    source, out = tmp_path / "rock.count", tmp_path / "rock.json"
    source.write_text(songs.ROCK)
    assert main(["read", str(source), "--json", str(out)]) == 0
    told = json.loads(out.read_text())
    assert {"grooves", "fills", "feel", "doubts"} <= set(told)
    first = told["grooves"][0]
    assert first["length"] == 2 and first["core"].startswith("hat:")
    assert count.read(f"tempo: 100\n{first['core']}").bar_count == 2
    assert told["fills"][0]["bar"] == 8 and told["fills"][0]["linear"] is False
    assert told["feel"]["swing"] == {"level": "none", "ratio": 0.5}
    assert len(told["feel"]["sections"]) == 2


def test_read_of_an_analysis_measures_its_feel(rock_file, tmp_path: Path):
    analysis, out = tmp_path / "a.json", tmp_path / "r.json"
    assert main(["listen", str(rock_file), "--json", str(analysis)]) == 0
    assert main(["read", str(analysis), "--json", str(out)]) == 0
    told = json.loads(out.read_text())["feel"]
    assert abs(told["layback_ms"]["snare"]) < 5 and told["levels"]


def test_bad_thresholds_and_mutes_are_one_line(tmp_path: Path, capsys):
    source = tmp_path / "rock.count"
    source.write_text(songs.ROCK)
    for args in (
        ["read", str(source), "--json", str(tmp_path / "o"), "--threshold", "2"],
        ["sound", str(source), str(tmp_path / "o.wav"), "--mute", "nose"],
        ["sound", str(source), str(tmp_path / "o.wav"), "--tempo", "3"],
    ):
        assert main(args) == 2
        assert len(capsys.readouterr().err.strip().splitlines()) == 1


def test_sound_writes_the_part_at_another_tempo_with_clicks(tmp_path: Path):
    source, out = tmp_path / "rock.count", tmp_path / "rock.wav"
    source.write_text(songs.ROCK)
    assert main(["sound", str(source), str(out), "--tempo", "200", "--click", "8ths"]) == 0
    sound, rate = sf.read(out)
    score = count.read(songs.ROCK)
    assert len(sound) / rate == pytest.approx(score.pulse.times[-1] / 2 + 2.1, abs=0.1)
    assert 0.1 < np.abs(sound).max() < 1


def test_events_follow_the_grid_the_feel_or_the_measure():
    score = count.read("tempo: 120\nkick: 1 3\nsnare: 2.f 4")
    timed = score.with_strokes(
        s.changed(measured=Measured(score.seconds(s.bar, s.place) + 0.01))
        for s in score.strokes.values()
    )
    grid = part.events(timed, "grid")
    assert [e[0] for e in grid if e[1] == "kick"] == [0.0, 1.0]
    assert len([e for e in grid if e[1] == "snare"]) == 3  # the flam's grace sounds too
    moved = part.events(timed, "song", lambda s: 0.02)
    assert [e[0] for e in moved if e[1] == "kick"] == [0.02, 1.02]
    assert [round(e[0], 3) for e in part.events(timed, "measured") if e[1] == "kick"] == [
        0.01,
        1.01,
    ]
    assert not [e for e in part.events(timed, mute=("RF",)) if e[1] == "kick"]
    with pytest.raises(BadScore, match="neither a limb"):
        part.events(timed, mute=("nose",))


def test_judged_tells_doubts_with_their_bars():
    told = judged(count.read(THREE))
    assert [d["kind"] for d in told["doubts"]] == ["hands"]
    assert told["doubts"][0]["bars"] == [1, 2, 3] and told["doubts"][0]["position"] == "1/4"
