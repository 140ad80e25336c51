"""What notes are called, by where their reader learned it."""

from __future__ import annotations

#: letters: as in English. h: as where B is a flat. syllables: a fixed do.
NOTE_NAMES: dict[str, tuple[str, ...]] = {
    "letters": ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"),
    "h": ("C", "Cis", "D", "Es", "E", "F", "Fis", "G", "As", "A", "B", "H"),
    "syllables": ("do", "do♯", "re", "mi♭", "mi", "fa", "fa♯", "sol", "la♭", "la", "si♭", "si"),
}


def note_name(pitch: int, names: str = "letters") -> str:
    """The name of a MIDI pitch without its octave; names: of NOTE_NAMES.

    >>> note_name(34), note_name(34, "h"), note_name(35, "h")
    ('B♭', 'B', 'H')
    """
    return NOTE_NAMES[names][pitch % 12]
