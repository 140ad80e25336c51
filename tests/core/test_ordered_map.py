"""Work in pieces: in order, not too far ahead, and at an end when nobody asks any more."""

import threading
import time
from itertools import count

import pytest

from orchesis.hearing.ordered_map import in_order


def test_results_come_in_the_order_of_the_pieces():
    def slow_when_even(n):
        time.sleep(0.01 if n % 2 == 0 else 0)
        return n * n

    assert list(in_order(slow_when_even, range(9))) == [n * n for n in range(9)]
    assert list(in_order(slow_when_even, [])) == []


def test_pieces_are_taken_only_a_few_at_a_time():
    taken = []

    def endless():
        for n in count():
            taken.append(n)
            yield n

    results = in_order(lambda n: n, endless())
    assert [next(results) for _ in range(4)] == [0, 1, 2, 3]
    assert len(taken) <= 8
    results.close()
    assert not any(t.name.startswith("ThreadPoolExecutor") for t in threading.enumerate())


def test_a_piece_that_fails_fails_the_whole():
    def broken(n):
        if n == 2:
            raise ValueError("piece 2")
        return n

    with pytest.raises(ValueError, match="piece 2"):
        list(in_order(broken, range(5)))
