"""Stickings that accents ask for: which hand a fast row gives to its loud strokes.

Rules of the trade. Where hands in turn keep the accents in one hand they stay as they are. Else
each accent begins a cell that one hand leads, and a cell of odd length ends with a double of the
other hand (three: R L L), so that the accents stay in one hand and the soft strokes in the other.
An accent right behind another one goes to the other hand. Six with the first and the last accented
are a six-stroke roll.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

#: Why a row is stuck so: the accents lie in one hand as it is; each accent begins a cell; a
#: six-stroke roll; paradiddles.
REASONS = ("turns", "cells", "six", "paradiddle")
MIN_ACCENTS = 2  # of a row that asks for a sticking
MIN_STROKES = 4
_MAX_SWITCHES = 1  # times that accents may change hands with hands in turn
_SIX = (True, False, False, False, False, True)
#: Words for cells of one length beside hands in turn; the second time round with the other hand.
_PARADIDDLES = {4: "RLRR", 6: "RLRRLL", 8: "RLRRLRLL"}
_SWAP = str.maketrans("RL", "LR")


def stickings(accents: Sequence[bool], first: str = "R") -> list[tuple[str, str]]:
    """(reason, hands) for a row of evenly spaced strokes, the most idiomatic first; none where its
    accents ask for nothing.

    accents: of each stroke. first: the hand that hands in turn would begin with; "R" stands for the
    lead hand throughout.

    >>> stickings([True, False, False] * 4)[0]
    ('cells', 'RLLRLLRLLRLL')
    >>> stickings([True, False] * 3)[0]
    ('turns', 'RLRLRL')
    >>> stickings([True, False, False, False, False, True])[0]
    ('six', 'RLLRRL')
    """
    loud = [k for k, a in enumerate(accents) if a]
    if len(loud) < MIN_ACCENTS or len(accents) < MIN_STROKES or len(loud) == len(accents):
        return []
    in_turn = "".join("RL"[(k + (first == "L")) % 2] for k in range(len(accents)))
    offered: list[tuple[str, str]] = []
    if _is_of_sixes(accents):
        offered.append(("six", "RLLRRL" * (len(accents) // 6)))
    cells = _cells(accents, loud)
    begins = [b for a, b in pairwise([-2, *loud]) if b - a > 1]  # accents side by side are one
    switches = sum(in_turn[a] != in_turn[b] for a, b in pairwise(begins))
    by_turns, by_cells = ("turns", in_turn), ("cells", cells)
    offered += [by_turns, by_cells] if switches <= _MAX_SWITCHES else [by_cells, by_turns]
    lengths = {b - a for a, b in pairwise([*loud, len(accents)])}
    if loud[0] == 0 and len(lengths) == 1 and (size := lengths.pop()) in _PARADIDDLES:
        word = _PARADIDDLES[size]
        turned = [word.translate(_SWAP) if size == 4 and n % 2 else word for n in range(len(loud))]
        offered.append(("paradiddle", "".join(turned)))
    seen: dict[str, str] = {}
    for reason, hands in offered:
        seen.setdefault(hands, reason)
    return [(reason, hands) for hands, reason in seen.items()]


def _is_of_sixes(accents: Sequence[bool]) -> bool:
    return len(accents) % 6 == 0 and all(
        tuple(accents[k : k + 6]) == _SIX for k in range(0, len(accents), 6)
    )


def _cells(accents: Sequence[bool], loud: Sequence[int]) -> str:
    """Each accent begins a cell led by one hand; behind a cell of one stroke the other leads."""
    hands, lead = "", "R"
    usual = loud[1] - loud[0]
    opening = _word(usual, lead)[-loud[0] :] if 0 < loud[0] < usual else _back(loud[0], lead)
    hands += opening if loud[0] else ""
    for begin, end in pairwise([*loud, len(accents)]):
        hands += _word(end - begin, lead)
        if end - begin == 1:
            lead = lead.translate(_SWAP)
    return hands


def _back(count: int, lead: str) -> str:
    """Hands in turn that lead to a stroke of the lead hand."""
    other = lead.translate(_SWAP)
    return "".join(other if (count - k) % 2 else lead for k in range(count))


def _word(size: int, lead: str) -> str:
    """Hands in turn, the last two strokes of an odd cell in the other hand.

    >>> [_word(n, "R") for n in (1, 2, 3, 4, 5)]
    ['R', 'RL', 'RLL', 'RLRL', 'RLRLL']
    """
    word = "".join("RL"[k % 2] for k in range(size))
    if size > 1 and size % 2:
        word = word[:-1] + "L"
    return word if lead == "R" else word.translate(_SWAP)
