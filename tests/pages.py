"""What tests of pages ask: a part read from count text, a page's bars, the words on them."""

from __future__ import annotations

from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import Score


def read(text: str) -> Score:
    return with_limbs(count.read(text))


def bars(page):
    return [b for s in page.systems for b in s.bars]


def words(page, kind):
    return [[w.text for w in b.words if w.kind == kind] for b in bars(page)]
