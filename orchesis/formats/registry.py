"""Every format by its ending: what reads it, what writes it, what it can hold."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from orchesis.errors import BadScore
from orchesis.formats import (
    count,
    count_writer,
    midi,
    midi_reader,
    musicxml,
    musicxml_reader,
    package,
    package_parts,
    tab,
    tables,
)
from orchesis.score import Score

Read = Callable[[bytes, str], tuple[Score, list[str]]]
Write = Callable[[Score], bytes]

#: What a score may hold, and how one sees that it does.
HOLDS: dict[str, Callable[[Score], bool]] = {
    "limbs chosen by hand": lambda s: any(x.limb_by == "person" for x in s.strokes.values()),
    "ghosts": lambda s: any(x.dynamic == "ghost" for x in s.strokes.values()),
    "accents": lambda s: any(x.dynamic == "accent" for x in s.strokes.values()),
    "ornaments": lambda s: any(x.ornament for x in s.strokes.values()),
    "choked strokes": lambda s: any(x.choked for x in s.strokes.values()),
    "doubts and layers": lambda s: any(x.doubt for x in s.strokes.values()),
    "sections": lambda s: len(s.sections) > 1,
    "a tempo that varies": lambda s: s.pulse.tempo()[2] - s.pulse.tempo()[1] > 2.5,
    "swing": lambda s: s.swing[0] != "none",
    "cues": lambda s: bool(s.cues),
    "notes on bars": lambda s: bool(s.notes),
    "pitches of cues": lambda s: any(c.pitches for c in s.cues.values()),
    "rhythm words": lambda s: bool(s.spoken),
    "how signs are played": lambda s: bool(s.how_to),
    "what stands on the sheets": lambda s: bool(s.on_paper),
    "moments of the strokes": lambda s: any(x.measured for x in s.strokes.values()),
}
_COUNT = (
    "limbs chosen by hand",
    "ghosts",
    "accents",
    "ornaments",
    "choked strokes",
    "doubts and layers",
    "sections",
    "swing",
    "cues",
    "pitches of cues",
)
_MUSICXML = (
    "limbs chosen by hand",
    "ghosts",
    "accents",
    "ornaments",
    "choked strokes",
    "sections",
    "swing",
    "notes on bars",
)
_MIDI = ("ghosts", "accents", "sections", "a tempo that varies")
_TAB = ("ghosts", "accents", "ornaments", "sections")
_CSV = ("limbs chosen by hand", "ghosts", "accents", "ornaments", "a tempo that varies")


@dataclass(frozen=True)
class Format:
    """holds: of HOLDS."""

    name: str
    endings: tuple[str, ...]
    kind: str
    read: Read | None
    write: Write | None
    holds: tuple[str, ...]


def _read_count(data: bytes, _title: str) -> tuple[Score, list[str]]:
    try:
        return count.read(data.decode("utf-8")), []
    except UnicodeDecodeError:
        raise BadScore("This is not a text file.") from None


def _write_count(score: Score) -> bytes:
    return count_writer.whole(score).encode()


FORMATS: tuple[Format, ...] = (
    Format("count text", (".count",), "text/plain", _read_count, _write_count, _COUNT),
    Format(
        "MusicXML",
        (".musicxml", ".xml"),
        "application/vnd.recordare.musicxml+xml",
        musicxml_reader.read,
        musicxml.write,
        _MUSICXML,
    ),
    Format("MIDI", (".mid", ".midi"), "audio/midi", midi_reader.read, midi.write, _MIDI),
    Format("text tab", (".tab", ".txt"), "text/plain", tab.read, tab.write, _TAB),
    Format("table of strokes", (".csv",), "text/csv", tables.read_csv, tables.write_csv, _CSV),
    Format(
        "song package",
        (package_parts.ENDING,),
        "application/zip",
        package.read,
        package.write,
        tuple(HOLDS),
    ),
    Format(
        "time list of sections",
        (".sections.tsv",),
        "text/tab-separated-values",
        None,
        tables.write_sections,
        ("sections",),
    ),
    Format(
        "time list of beats",
        (".beats.tsv",),
        "text/tab-separated-values",
        None,
        tables.write_beats,
        ("a tempo that varies",),
    ),
    Format(
        "time list of strokes",
        (".strokes.tsv",),
        "text/tab-separated-values",
        None,
        tables.write_strokes,
        ("moments of the strokes", "a tempo that varies"),
    ),
)


def format_of(name: str) -> Format:
    """The format of a file's name; BadScore where its ending is none of ours."""
    small = name.lower()
    for f in FORMATS:
        if any(small.endswith(e) for e in f.endings):
            return f
    endings = ", ".join(e for f in FORMATS for e in f.endings)
    raise BadScore(f"“{name}” has an ending that is none of {endings}.")


def read(name: str, data: bytes, title: str = "") -> tuple[Score, list[str]]:
    """(the score of a file, what could not be kept); BadScore in one sentence."""
    file_format = format_of(name)
    if file_format.read is None:
        raise BadScore(f"A {file_format.name} is only written, not read.")
    return file_format.read(data, title)


def write(name: str, score: Score) -> tuple[bytes, list[str]]:
    """(a score in the format of a file's name, what that format can't hold)."""
    file_format = format_of(name)
    if file_format.write is None:
        raise BadScore(f"A {file_format.name} is only read, not written.")
    return file_format.write(score.played()), lost(file_format, score)


def lost(f: Format, score: Score) -> list[str]:
    """What a format can't hold of a score."""
    return [what for what, has in HOLDS.items() if what not in f.holds and has(score)]
