"""How often somebody may do a thing: counted in Redis, for all processes of a house together."""

from __future__ import annotations

import logging
import time
from typing import Any

from django.conf import settings
from django.core.cache import cache
from redis.exceptions import RedisError
from rest_framework.exceptions import Throttled
from rest_framework.request import Request
from rest_framework.throttling import BaseThrottle

from config import addresses

_UNITS = {"s": 1, "min": 60, "hour": 3600, "day": 86400}


class Limit:
    """So many times in so many seconds, for each who it is that does it. rate: like “30/hour”."""

    def __init__(self, what: str, rate: str) -> None:
        most, unit = rate.split("/")
        self.what, self.most, self.seconds = what, int(most), _UNITS[unit]

    def _key(self, who: object) -> str:
        return f"rate:{self.what}:{who}:{int(time.time() // self.seconds)}"

    def use(self, who: object) -> bool:
        """Counts once more; whether that is still within the limit."""
        key = self._key(who)
        try:
            cache.add(key, 0, self.seconds)
            return cache.incr(key) <= self.most
        except (RedisError, ValueError):  # away, or just run out: nobody is kept out for that
            logging.getLogger(__name__).warning("A rate could not be counted.")
            return True

    def is_used_up(self, who: object) -> bool:
        try:
            return int(cache.get(self._key(who), 0)) >= self.most
        except RedisError:
            return False

    @property
    def left(self) -> float:
        """Seconds until it is counted anew."""
        return self.seconds - time.time() % self.seconds

    def must_have_left(self, who: object) -> None:
        """Raises Throttled."""
        if self.is_used_up(who):
            raise Throttled(self.left)


class Rate(BaseThrottle):
    """A limit on the calls of a view, counted for what ``who`` tells."""

    limit: Limit

    def who(self, request: Request, view: Any) -> str:
        return addresses.of(request._request)

    def allow_request(self, request: Request, view: Any) -> bool:
        return self.limit.use(self.who(request, view))

    def wait(self) -> float:
        return self.limit.left


class OpenRate(Rate):
    """Of somebody without an account."""

    limit = Limit("open", settings.ANONYMOUS_RATE)


class RateOfAddress(Rate):
    """The address in its path that was given out: all who use it together."""

    def who(self, request: Request, view: Any) -> str:
        return str(view.kwargs.get("token", ""))
