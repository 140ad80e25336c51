"""What a request may bring: JSON of bounded size and depth, with numbers and words that we keep."""

from __future__ import annotations

import json
import math
from typing import Any

from django.conf import settings
from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser

from orchesis.score.untrusted import shown, unprintable

TOO_BIG = f"A request has {settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 2**20} MB at the most."
_DEEPEST = 12  # lists and objects in one another; an edit of many strokes has five
_MOST_DIGITS = 15


class BoundedJSONParser(JSONParser):
    """Refuses in one sentence what no page of ours sends and what costs or breaks too much."""

    def parse(self, stream: Any, media_type: str | None = None, parser_context: Any = None) -> Any:
        raw = stream.read(settings.DATA_UPLOAD_MAX_MEMORY_SIZE + 1)
        if len(raw) > settings.DATA_UPLOAD_MAX_MEMORY_SIZE:
            raise ParseError(TOO_BIG)
        try:
            text = raw.decode(settings.DEFAULT_CHARSET)
            data = json.loads(text, parse_int=_whole, parse_float=_number, parse_constant=_number)
        except UnicodeDecodeError:
            raise ParseError("The request is not text in UTF-8.") from None
        except RecursionError:
            raise ParseError("The request is nested too deeply.") from None
        except ValueError as problem:
            raise ParseError(f"The request is not JSON: {shown(str(problem))}") from None
        _must_be_plain(data)
        return data


def _whole(digits: str) -> int:
    if len(digits) > _MOST_DIGITS:
        raise ParseError(f"The number {shown(digits)} has too many digits.")
    return int(digits)


def _number(digits: str) -> float:
    value = float(digits) if len(digits) <= 40 else math.inf
    if not math.isfinite(value):
        raise ParseError(f"“{shown(digits)}” is not a number we can keep.")
    return value


def _must_be_plain(data: Any) -> None:
    level = [data]
    for _ in range(_DEEPEST):
        words = [x for x in level if isinstance(x, str)]
        words += [k for x in level if isinstance(x, dict) for k in x]
        for word in words:
            if sign := unprintable(word):
                raise ParseError(
                    f"The text “{shown(word)}” holds a sign that can't be printed ({sign})."
                )
        level = [
            y
            for x in level
            if isinstance(x, dict | list)
            for y in (x.values() if isinstance(x, dict) else x)
        ]
        if not level:
            return
    raise ParseError("The request is nested too deeply.")
