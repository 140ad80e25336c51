"""Moments and lengths as minutes and seconds, the same everywhere."""

from __future__ import annotations


def clock_text(seconds: float) -> str:
    """Minutes and whole seconds, as a running clock shows them.

    >>> [clock_text(t) for t in (0, 59.99, 108.6, -1)]
    ['0:00', '0:59', '1:48', '0:00']
    """
    whole = max(0, int(seconds + 1e-6))
    return f"{whole // 60}:{whole % 60:02d}"
