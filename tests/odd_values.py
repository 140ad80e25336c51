"""JSON documents with odd values in them, as a mistaken or a hostile program writes them."""

from __future__ import annotations

import copy
import random

ODD = (
    *(float("nan"), float("inf"), -1, 0, 0.5, -0.5, 1e308, 1e-320),
    *(2**31, 2**31 - 1, -(2**31), 2**63, 10**30),
    *("", "\ud800", "\x00", "x" * 40, "x" * 5000, "-5", "1/0", "1/3", "-1/2", "snare", "../../etc"),
    *("9999-12-31T23:59:59-12:00", "0001-01-01T00:00:00+12:00"),
    *(None, True, False, [], {}, [[]], [None], [{}], [1, 2], [1, 2, 3], {"a": 1}),
    *({"hits": [{}]}, {"strokes": {"s1": {}}}),
)


def leaves(data, at=()):
    """The places of all values in a document."""
    items = data.items() if isinstance(data, dict) else enumerate(data)
    for key, value in items:
        yield (*at, key)
        if isinstance(value, dict | list):
            yield from leaves(value, (*at, key))


def by_kind(document) -> list[list[tuple]]:
    """Places by their keys: what occurs once is as likely as what occurs a thousand times."""
    kinds: dict[tuple, list[tuple]] = {}
    for at in leaves(document):
        keys = tuple(k for k in at if isinstance(k, str) and not k[1:].isdigit())
        kinds.setdefault(keys, []).append(at)
    return list(kinds.values())


def a_place(kinds: list[list[tuple]], rng: random.Random) -> tuple:
    return rng.choice(rng.choice(kinds))


def put(document, at: tuple, value):
    """A copy with another value at a place."""
    changed = copy.deepcopy(document)
    inner = changed
    for key in at[:-1]:
        inner = inner[key]
    inner[at[-1]] = value
    return changed


def with_odd_values(document, kinds: list[list[tuple]], seed: int):
    """One to three values of a document replaced by odd ones, or gone."""
    rng = random.Random(seed)
    changed = copy.deepcopy(document)
    for _ in range(rng.choice((1, 1, 2, 3))):
        *path, key = a_place(kinds, rng)
        inner = changed
        try:
            for step in path:
                inner = inner[step]
            if rng.random() < 0.15:
                del inner[key]
            else:
                inner[key] = rng.choice(ODD)
        except (KeyError, TypeError, IndexError):
            pass  # another change took it away
    return changed
