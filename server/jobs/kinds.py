"""What kinds of long work there are. Each app names its own when it is loaded (``apps.py``)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Kind:
    """run: does the work (it is given a jobs.work.Work), and ends by its ``finish``. steps: key,
    label for the page, and share of the whole; what stands last may take no share of its own.
    doing, done: what is said to whoever asks for the same again. failed, unreadable: the sentences
    for a failure of ours, and for a file that can't be read."""

    name: str
    run: Callable[..., None]
    steps: tuple[tuple[str, str, float], ...]
    doing: str
    done: str
    failed: str
    unreadable: str


KINDS: dict[str, Kind] = {}


def register(kind: Kind) -> None:
    """Makes a kind known to the queue."""
    KINDS[kind.name] = kind


def step_name(kind: str, step: str) -> str:
    """A step in words; what is said before the first one where it has none."""
    labels = {key: label for key, label, _ in KINDS[kind].steps} if kind in KINDS else {}
    return labels.get(step, "Waiting for its turn")


def share_of(kind: str, step: str, share: float) -> float:
    """How much of the whole is done when ``share`` (0 to 1) of a step is."""
    before = 0.0
    for key, _, size in KINDS[kind].steps:
        if key == step:
            return before + size * min(max(share, 0.0), 1.0)
        before += size
    return before
