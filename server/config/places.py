"""How many of a kind may be under way, for each address and in all: the oldest gives way."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager


class Places:
    """Places for what is under way. Used by one event loop; not safe for threads."""

    def __init__(self, each: int, all_together: int) -> None:
        self._each, self._all = each, all_together
        self._under_way: dict[object, tuple[str, Callable[[], object]]] = {}
        self._by_address: dict[str, dict[object, None]] = {}

    def __len__(self) -> int:
        return len(self._under_way)

    def take(self, one: object, address: str, end: Callable[[], object]) -> None:
        """A place for one. Where there is none, the oldest of that address, or of all, ends."""
        self._under_way[one] = (address, end)
        places_of_address = self._by_address.setdefault(address, {})
        places_of_address[one] = None
        while len(places_of_address) > self._each:
            self._end(next(iter(places_of_address)))
        while len(self._under_way) > self._all:
            self._end(next(iter(self._under_way)))

    def leave(self, one: object) -> None:
        address, _ = self._under_way.pop(one, ("", None))
        places_of_address = self._by_address.get(address, {})
        places_of_address.pop(one, None)
        if not places_of_address:
            self._by_address.pop(address, None)

    def _end(self, one: object) -> None:
        _, end = self._under_way[one]
        self.leave(one)
        end()

    @contextmanager
    def held(self, address: str, end: Callable[[], object]) -> Iterator[None]:
        one = object()
        self.take(one, address, end)
        try:
            yield
        finally:
            self.leave(one)
