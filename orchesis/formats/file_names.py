"""Names of files that are given out: they say song and content, and every system takes them."""

from __future__ import annotations

from pathvalidate import sanitize_filename

_MAX_LETTERS = (
    120  # letters before the ending; the shortest limit is 255 bytes, letters take up to 4
)
_LONGEST_BYTES = 230


def file_name(*parts: str, ending: str) -> str:
    """Song and content, joined, with the ending; legal on Windows, macOS and Linux.

    parts: what it is of and what it holds; empty ones are left out. ending: with its dot.

    >>> file_name("Copper Weather", "limbs", ending=".pdf")
    'Copper Weather - limbs.pdf'
    >>> file_name("AC/DC: live?", "step 4", "", ending=".ogg")
    'AC_DC_ live_ - step 4.ogg'
    >>> file_name("", ending=".mid")
    'Untitled.mid'
    """
    names = [" ".join(p.split()).rstrip(". ") for p in parts]
    whole = " - ".join(p for p in names if p) or "Untitled"
    clean = sanitize_filename(whole[:_MAX_LETTERS], replacement_text="_", platform="universal")
    while len(clean.encode()) > _LONGEST_BYTES:
        clean = clean[:-1]
    return f"{clean.strip('. ') or 'Untitled'}{ending}"
