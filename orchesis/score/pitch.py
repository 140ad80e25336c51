"""What notes are called, by where their reader learned it."""

from __future__ import annotations

#: letters: as in English. h: as where B is a flat. syllables: a fixed do.
NOTE_NAMES: dict[str, tuple[str, ...]] = {
    "letters": ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"),
    "h": ("C", "Cis", "D", "Es", "E", "F", "Fis", "G", "As", "A", "B", "H"),
    "syllables": ("do", "do♯", "re", "mi♭", "mi", "fa", "fa♯", "sol", "la♭", "la", "si♭", "si"),
}
