"""Files to play along with: in step with the score at every tempo, counted, and what can't be is told."""

from __future__ import annotations

import io
import re
import subprocess
import zipfile
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
import soundfile as sf

from orchesis.cli import main
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.hearing import listen
from orchesis.play_along import RATE, Wish, written
from orchesis.sounding import part
from tests import songs

SONG = with_limbs(
    count.read(
        "tempo: 110\n== A\nhat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | 1 3 3& | = | =\n"
    )
)


def silent(_step: str, _share: float) -> None: ...


@pytest.fixture(scope="module")
def recording(tmp_path_factory):
    """The song itself, as a recording in stereo."""
    path = tmp_path_factory.mktemp("song") / "song.flac"
    sound = part.sound(SONG)
    sf.write(path, np.stack([sound, sound], axis=1), RATE)
    return path


def opened(path):
    with zipfile.ZipFile(path) as archive:
        return {n: archive.read(n) for n in archive.namelist()}


@pytest.mark.parametrize("share", [0.7, 1.0, 1.2])
def test_part_and_recording_stay_within_five_milliseconds(tmp_path, recording, share):
    wish = Wish(bars=(2, 3), shares=(share,), mixes=("part", "recording"), form="flac", loops=3)
    names = written(tmp_path / "a.zip", SONG, wish, recording, None, silent)
    made = [
        sf.read(io.BytesIO(opened(tmp_path / "a.zip")[n]), always_2d=True)[0].mean(axis=1)
        for n in names
        if n.endswith(".flac")
    ]
    lead = (SONG.seconds(3) - SONG.seconds(2)) / share
    length = 2 * lead
    for k in range(3):
        for stroke in SONG.strokes_of(2):
            if stroke.part != "snare":
                continue
            at = lead + k * length + (SONG.seconds(2, stroke.place) - SONG.seconds(2)) / share
            for sound in made:
                near = np.abs(sound[round((at - 0.04) * RATE) : round((at + 0.04) * RATE)])
                first = np.argmax(near > 0.25 * near.max()) / RATE - 0.04
                assert abs(first) < 0.012  # the attack of a stretched snare is softer
        a, b = (
            np.abs(s[round((lead + k * length) * RATE) :][: round(length * RATE)]) for s in made
        )
        a, b = (np.convolve(x, np.ones(220) / 220, "same")[::44] for x in (a, b))
        lag = np.argmax(np.correlate(b - b.mean(), a - a.mean(), "full")) - len(a) + 1
        assert abs(lag) <= 5  # milliseconds


def test_a_stage_counted_aloud_is_heard_as_it_is_written(tmp_path):
    wish = Wish(bars=(1, 2), shares=(1.0,), mixes=("part",), stages=True, form="wav", loops=8)
    names = written(tmp_path / "a.zip", SONG, wish, None, None, silent)
    assert {"Untitled - chart.pdf", "Untitled - bars 1-2 - limbs.pdf"} <= set(names)
    assert sum(n.startswith("Untitled - step ") for n in names) >= 3
    (tmp_path / "part.wav").write_bytes(opened(tmp_path / "a.zip")[names[0]])
    heard = [h for h in listen(tmp_path / "part.wav").hits if h.part == "kick"]
    lead = SONG.seconds(2) - SONG.seconds(1)
    length = SONG.seconds(3) - SONG.seconds(1)
    told = [
        lead + k * length + SONG.seconds(s.bar, s.place) - SONG.seconds(1)
        for k in range(8)
        for b in (1, 2)
        for s in SONG.strokes_of(b)
        if s.part == "kick"
    ]
    right = sum(any(abs(h.time - t) < 0.03 for h in heard) for t in told)
    assert right >= 0.95 * len(told)


def test_the_count_says_what_is_played():
    said = [w for _, w in part.spoken(SONG)][:8]
    assert said == ["1", "&", "2", "&", "3", "&", "4", "&"]
    triplets = count.read("tempo: 80\nsnare: triplets")
    assert [w for _, w in part.spoken(triplets)][:3] == ["1", "trip", "let"]
    assert [w for _, w in part.spoken(triplets, "ta_ka")][:3] == ["1", "ki", "da"]
    assert SONG.seconds(1, Fraction(1, 2)) == pytest.approx(
        next(t for t, w in part.spoken(SONG) if w == "&")
    )


def test_a_stage_and_its_count_on_the_shell(tmp_path):
    (tmp_path / "a.count").write_text("tempo: 110\n== A\nhat: 8ths\nsnare: 2 4\nkick: 1 3\n")
    arguments = ["sound", str(tmp_path / "a.count"), str(tmp_path / "a.wav"), "--count"]
    assert main(arguments) == 0
    plain = sf.read(tmp_path / "a.wav")[0]
    assert main([*arguments, "--stage", "1"]) == 0
    assert len(sf.read(tmp_path / "a.wav")[0]) > len(plain)  # the stage begins slower
    assert main([*arguments, "--stage", "99"]) == 2


@pytest.mark.parametrize(
    "wish",
    [
        {"shares": (0.1,)},
        {"mixes": ("loud",)},
        {"form": "mp3"},
        {"loops": 99},
        {"bars": (3, 9), "mixes": ("part",)},
        {"mixes": ("recording",)},
        {"mixes": ("part",) * 41},
    ],
)
def test_what_can_not_be_made_is_told(tmp_path, wish):
    with pytest.raises(BadScore):
        written(tmp_path / "a.zip", SONG, Wish(**wish), None, None, silent)


def measured(data: bytes) -> tuple[float, float]:
    """(LUFS, true peak in dB) of a file, as ffmpeg measures them."""
    command = [
        "ffmpeg",
        "-hide_banner",
        "-nostats",
        "-i",
        "pipe:0",
        "-af",
        "ebur128=peak=true",
        "-f",
        "null",
        "-",
    ]
    told = subprocess.run(command, input=data, capture_output=True, check=True).stderr.decode()
    end = told[told.rindex("Summary:") :]
    return tuple(float(re.search(rf"{what}: +(-?[0-9.]+)", end)[1]) for what in ("I", "Peak"))


def test_all_files_of_a_song_are_equally_loud(tmp_path, recording):
    """A step, a slow tempo, the recording: one gain, so that nobody reaches for the knob."""
    loud = tmp_path / "loud.flac"
    sound, _ = sf.read(recording)
    music = songs.band(len(sound) / RATE + 1, 0.8)[: len(sound), None]
    sf.write(loud, np.clip(0.4 * sound + music, -1, 1), RATE)
    sf.write(tmp_path / "drums.flac", 0.4 * sound, RATE)
    wish = Wish(
        bars=(1, 4),
        shares=(0.7, 1.0),
        mixes=("part", "part and click", "recording", "recording and part"),
        stages=True,
        form="ogg",
        loops=3,
    )
    written(tmp_path / "a.zip", SONG, wish, loud, tmp_path / "drums.flac", silent)
    levels = {
        n: measured(data) for n, data in opened(tmp_path / "a.zip").items() if n.endswith(".ogg")
    }
    whole = {n: lufs for n, (lufs, _) in levels.items() if "bars 1-4" in n}
    assert len(whole) == 8 and max(whole.values()) - min(whole.values()) < 4.5, whole
    at_tempo = [lufs for n, lufs in whole.items() if "110 bpm" in n]
    assert max(at_tempo) - min(at_tempo) < 2, at_tempo
    assert all(peak <= -1.0 for _, peak in levels.values()), levels
    # A step has fewer strokes and is softer by just those: each stroke keeps its level.
    one = with_limbs(count.read("tempo: 110\nsnare: 2 4 | = | = | ="))
    gains = {part.song_gain(SONG)}
    for mute in (("RH",), ("RH", "RF")):
        kept = part.sound(SONG, mute=mute, gain=gains.copy().pop())
        alone = part.sound(one, gain=gains.copy().pop())
        at = round(SONG.seconds(1, Fraction(1)) * RATE)
        a, b = (np.abs(x[at : at + 2000]).max() for x in (kept, alone))
        assert a == pytest.approx(b, rel=0.35)


def test_a_loop_holds_the_strokes_of_its_bars_and_no_others(tmp_path):
    """Also a 32nd just before its end, and not the one just before its start."""
    song = with_limbs(count.read("tempo: 120\nsnare: 1 4:7/8 | 1 4:7/8 | 1"))
    wish = Wish(bars=(2, 2), shares=(1.0,), mixes=("part",), form="flac", loops=2)
    written(tmp_path / "a.zip", song, wish, None, None, silent)
    data = next(d for n, d in opened(tmp_path / "a.zip").items() if n.endswith(".flac"))
    sound = np.abs(sf.read(io.BytesIO(data))[0])
    lead, length = 2.0, 2.0
    wanted = [lead + k * length + t for k in range(2) for t in (0.0, 1.9375)]
    for t in wanted:
        at = round(t * RATE)
        assert sound[at : at + 300].max() > 1.5 * sound[at - 300 : at - 10].max(), t
    early = round((lead - 0.0625) * RATE)
    assert sound[early : early + 2000].max() < 0.05 * sound.max()


def test_a_whole_song_is_coded_as_ogg(tmp_path):
    """Three minutes at once ended the process that coded them."""
    song = with_limbs(count.read("tempo: 90\nkick: " + " | ".join(["1 3"] * 68)))
    names = written(tmp_path / "a.zip", song, Wish(mixes=("part",), form="ogg"), None, None, silent)
    sound, rate = sf.read(io.BytesIO(opened(tmp_path / "a.zip")[names[0]]))
    assert (
        len(sound) / rate == pytest.approx(2.667 * 69 + 2, abs=1)
        and np.abs(sound[-20 * rate :]).max() > 0.1
    )


def test_names_say_song_and_content_and_are_legal_everywhere(tmp_path):
    song = replace(SONG, title='AC/DC: "live"? <1>.')
    wish = Wish(bars=(1, 2), shares=(1.0, 1.001), mixes=("part",), stages=True, form="ogg", loops=1)
    names = written(tmp_path / "a.zip", song, wish, None, None, silent)
    assert len(set(names)) == len(names)
    assert all(n.startswith("AC_DC_ _live__ _1_ - ") for n in names)
    assert not [n for n in names if set(n) & set('<>:"/\\|?*')]
    assert sum(" - step " in n for n in names) >= 3 and names[-1].endswith("limbs.pdf")
