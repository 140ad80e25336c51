"""What was reckoned of the newest version of something, kept in a process up to a size."""

from __future__ import annotations

from collections.abc import Hashable
from threading import Lock
from typing import Any

from cachetools import LRUCache


class NewestKept:
    """A value for each name, of one version only; what was longest unasked goes first.

    most: the sum of the sizes that are kept, in whatever unit ``put`` is told.
    """

    def __init__(self, most: int) -> None:
        self._kept: LRUCache[Hashable, tuple[Hashable, Any, int]] = LRUCache(
            most, getsizeof=lambda kept: kept[2]
        )
        self._lock = Lock()

    def get(self, name: Hashable, version: Hashable) -> Any | None:
        """The value of that version; None where it is not at hand."""
        kept = self.latest(name)
        return kept[1] if kept is not None and kept[0] == version else None

    def latest(self, name: Hashable) -> tuple[Any, Any] | None:
        """(version, value) of whatever version is at hand; None where none is."""
        with self._lock:
            kept = self._kept.get(name)
        return None if kept is None else kept[:2]

    def put(self, name: Hashable, version: Hashable, value: Any, size: int) -> None:
        """Keeps a value in the place of the older one; one too big for all is not kept."""
        with self._lock:
            self._kept.pop(name, None)
            if size <= self._kept.maxsize:
                self._kept[name] = (version, value, size)

    @property
    def size(self) -> int:
        """The sum of the sizes that are kept now."""
        return int(self._kept.currsize)
