"""Taking in: every format on one timeline, and one clear sentence for what can't be heard."""

import contextlib
import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile as sf

from orchesis.errors import BadSound, Cancelled
from orchesis.hearing import programs, spectrum, take_in
from tests import songs

AT = 7.3125
FORMATS = {
    "wav": [],
    "flac": [],
    "ogg": ["-c:a", "libvorbis", "-q:a", "6"],
    "opus": ["-c:a", "libopus", "-b:a", "128k"],
    "mp3": ["-c:a", "libmp3lame", "-b:a", "192k"],
    "m4a": ["-c:a", "aac", "-b:a", "192k"],
}


@pytest.fixture(scope="module")
def click(tmp_path_factory):
    return songs.impulse(tmp_path_factory.mktemp("click") / "click.wav", AT, 12)


@pytest.mark.parametrize("ending", FORMATS)
def test_an_impulse_stays_where_it_was_in_every_format(click, tmp_path, ending):
    source = songs.converted(click, tmp_path / f"c.{ending}", *FORMATS[ending])
    intake = take_in(source, tmp_path / "sound.flac")
    sound = sf.read(intake.path, always_2d=True)[0].mean(axis=1)
    near = slice(int((AT - 0.3) * songs.RATE), int((AT + 0.3) * songs.RATE))
    found = (near.start + int(np.abs(sound[near]).argmax())) / songs.RATE
    assert found == pytest.approx(AT, abs=0.002)
    heard = spectrum.measure(intake.path, intake.duration).fine  # what onsets are timed by
    step = spectrum.FINE / songs.RATE
    first = int((AT - 0.3) / step)
    peak = (first + int(heard[first : first + int(0.6 / step)].argmax()) + 0.5) * step
    assert peak == pytest.approx(AT, abs=0.002)


def test_a_video_gives_its_sound(click, tmp_path):
    video = tmp_path / "v.mp4"
    songs.converted(
        click, video, "-f", "lavfi", "-i", "color=c=gray:s=64x64:r=10", "-shortest", "-c:a", "aac"
    )
    assert take_in(video, tmp_path / "s.flac").duration == pytest.approx(12, abs=0.15)


@pytest.mark.parametrize(
    "options",
    [
        ["-ar", "8000"],
        ["-ar", "96000", "-ac", "2"],
        ["-ac", "6"],
        ["-c:a", "pcm_u8"],
        ["-c:a", "pcm_s32le"],
    ],
)
def test_odd_rates_channels_and_depths_are_taken(click, tmp_path, options):
    source = songs.converted(click, tmp_path / "odd.wav", *options)
    intake = take_in(source, tmp_path / "s.flac")
    assert sf.info(intake.path).samplerate == 44100
    assert intake.duration == pytest.approx(12, abs=0.05)


def test_a_wrong_ending_does_not_matter(click, tmp_path):
    disguised = tmp_path / "song.wav"
    songs.converted(click, tmp_path / "x.mp3", "-c:a", "libmp3lame")
    (tmp_path / "x.mp3").rename(disguised)
    assert take_in(disguised, tmp_path / "s.flac").duration > 11


def test_of_a_truncated_file_what_is_there_is_used_and_said(click, tmp_path):
    whole = click.read_bytes()
    cut = tmp_path / "cut.wav"
    cut.write_bytes(whole[: len(whole) * 2 // 3])
    intake = take_in(cut, tmp_path / "s.flac")
    assert 7 < intake.duration < 9


def test_a_truncated_flac_says_that_it_breaks_off(click, tmp_path):
    whole = songs.converted(click, tmp_path / "w.flac").read_bytes()
    cut = tmp_path / "cut.flac"
    cut.write_bytes(whole[: len(whole) * 2 // 3])
    intake = take_in(cut, tmp_path / "s.flac")
    assert intake.notes and "breaks off" in intake.notes[0]


def refusal(path, tmp_path):
    with pytest.raises(BadSound) as problem:
        take_in(path, tmp_path / "s.flac")
    text = str(problem.value)
    assert text.count(".") >= 1 and "\n" not in text
    return text


def test_what_can_not_be_heard_is_told_in_one_sentence(tmp_path):
    empty = tmp_path / "empty.mp3"
    empty.touch()
    assert "is empty" in refusal(empty, tmp_path)
    text = tmp_path / "notes.mp3"
    text.write_text("these are only words " * 400)
    assert "not a sound file" in refusal(text, tmp_path)
    noise = tmp_path / "noise.ogg"
    noise.write_bytes(np.random.default_rng(0).bytes(30000))
    assert "sound file" in refusal(noise, tmp_path)
    short = songs.write(tmp_path / "short.wav", songs.drums()[: songs.RATE])
    assert "1.0 seconds" in refusal(short, tmp_path)
    silence = songs.write(tmp_path / "silence.wav", np.zeros(10 * songs.RATE))
    assert "silent" in refusal(silence, tmp_path)
    assert "no file" in refusal(tmp_path / "gone.wav", tmp_path)


def test_a_video_without_sound_is_told(tmp_path):
    import subprocess

    video = tmp_path / "mute.mp4"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-f",
            "lavfi",
            "-i",
            "color=c=gray:s=64x64:r=10",
            "-t",
            "6",
            str(video),
        ],
        check=True,
    )
    assert "no sound" in refusal(video, tmp_path)


def test_too_long_is_told_before_it_is_decoded(tmp_path):
    long = tmp_path / "long.flac"
    with sf.SoundFile(long, "w", 8000, 1) as file:
        for _ in range(21):
            file.write(np.zeros(8000 * 60, dtype="int16"))
    assert "21:00" in refusal(long, tmp_path)


HOSTS = "#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\n{0}\n"
PLAYLISTS = {
    "live": HOSTS,  # no end is stated: a player would ask for more for ever
    "finished": HOSTS + "#EXT-X-ENDLIST\n",
    "concat": "ffconcat version 1.0\nfile {0}\n",
    "cue sheet of streams": "[playlist]\nFile1={0}\nNumberOfEntries=1\n",
    "session": "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\na={0}\n",
    "dash": '<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="dynamic"><Period><AdaptationSet><Representation id="1" mimeType="audio/mp4" bandwidth="1"><BaseURL>{0}</BaseURL></Representation></AdaptationSet></Period></MPD>',
}


@pytest.mark.parametrize("kind", PLAYLISTS)
@pytest.mark.parametrize("ending", ["m3u8", "mp3", "wav"])
@pytest.mark.parametrize("is_absolute", [True, False])
def test_a_list_of_other_files_is_refused_at_once(click, tmp_path, kind, ending, is_absolute):
    named = str(click) if is_absolute else click.name
    source = click.parent / f"list-{kind[:4]}-{is_absolute}.{ending}"
    source.write_text(PLAYLISTS[kind].format(named))
    began = time.monotonic()
    with pytest.raises(BadSound, match="is not a sound file we can read"):
        take_in(source, tmp_path / "out.flac")
    assert time.monotonic() - began < 20
    assert not (tmp_path / "out.flac").exists()


def children() -> set[str]:
    """Process ids of our children, by the kernel's own list."""
    made = set()
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError):  # it ended meanwhile
            if stat.read_text().rpartition(")")[2].split()[1] == str(os.getpid()):
                made.add(stat.parent.name)
    return made


def test_a_program_is_ended_by_the_clock_and_by_whoever_watches():
    before = children()
    with pytest.raises(programs.TookTooLong):
        programs.run(["sh", "-c", "sleep 60 & sleep 60"], seconds=1)

    def cancel(_said: bytes) -> None:
        raise Cancelled("enough")

    began = time.monotonic()
    with pytest.raises(Cancelled):
        programs.run(["sleep", "60"], seconds=30, tick=cancel)
    assert time.monotonic() - began < 2
    assert children() <= before
    with pytest.raises(programs.ProgramMissing, match="no-such-program is not installed"):
        programs.run(["no-such-program"], seconds=1)


def test_a_program_dies_with_the_one_that_started_it(tmp_path):
    script = (
        "import sys; from pathlib import Path; from orchesis.hearing import programs\n"
        "programs.run(['sh', '-c', 'echo $$ > ' + sys.argv[1] + '; exec sleep 60'], seconds=60)"
    )
    told = tmp_path / "pid"
    parent = subprocess.Popen([sys.executable, "-c", script, str(told)])
    while not (told.exists() and told.read_text().strip()):
        assert parent.poll() is None
        time.sleep(0.02)
    child = Path("/proc") / told.read_text().strip()
    parent.kill()
    parent.wait()
    until = time.monotonic() + 10
    with contextlib.suppress(OSError):  # gone while it is looked at
        while child.exists() and (child / "stat").read_text().split()[2] != "Z":
            assert time.monotonic() < until, "the program goes on"
            time.sleep(0.02)
