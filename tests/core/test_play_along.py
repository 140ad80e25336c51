"""Files to play along with: in step with the score at every tempo, counted, and what can't be is told."""

from __future__ import annotations

import io
import zipfile
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
    made = [sf.read(io.BytesIO(opened(tmp_path / "a.zip")[n]), always_2d=True)[0].mean(axis=1)
            for n in names if n.endswith(".flac")]  # fmt: skip
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
    assert {"chart.pdf", "bars.pdf"} <= set(names)
    assert sum("stage" in n for n in names) >= 3
    (tmp_path / "part.wav").write_bytes(opened(tmp_path / "a.zip")[names[0]])
    heard = [h for h in listen(tmp_path / "part.wav").hits if h.part == "kick"]
    lead = SONG.seconds(2) - SONG.seconds(1)
    length = SONG.seconds(3) - SONG.seconds(1)
    told = [lead + k * length + SONG.seconds(s.bar, s.place) - SONG.seconds(1)
            for k in range(8) for b in (1, 2) for s in SONG.strokes_of(b) if s.part == "kick"]  # fmt: skip
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
    [{"shares": (0.1,)}, {"mixes": ("loud",)}, {"form": "mp3"}, {"loops": 99}, {"bars": (3, 9), "mixes": ("part",)},
     {"mixes": ("recording",)}, {"mixes": ("part",) * 41}],
)  # fmt: skip
def test_what_can_not_be_made_is_told(tmp_path, wish):
    with pytest.raises(BadScore):
        written(tmp_path / "a.zip", SONG, Wish(**wish), None, None, silent)
