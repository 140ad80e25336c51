"""Which MIDI key is which part, where a kit's keys are others than General MIDI's.

A file of lines like ``snare: 38, 40``: the first key is written, all are read; what it does not
name stays as usual. Lines that begin with # say nothing."""

from __future__ import annotations

from dataclasses import dataclass
from types import MappingProxyType

from orchesis.errors import BadScore
from orchesis.score import KIT
from orchesis.score.kit import MIDI_PARTS
from orchesis.score.kit import part as kit_part
from orchesis.score.untrusted import read_whole, shown


@dataclass(frozen=True)
class Keys:
    """written: part -> key. read: key -> part."""

    written: MappingProxyType[str, int]
    read: MappingProxyType[int, str]


GENERAL = Keys(
    MappingProxyType({name: p.midi for name, p in KIT.items()}), MappingProxyType(MIDI_PARTS)
)


def keys_of(text: str) -> Keys:
    """The keys of a kit; BadScore names the line.

    >>> own = keys_of("snare: 40, 38\\ncrash: 55")
    >>> own.written["snare"], own.read[55], own.written["kick"]
    (40, 'crash', 36)
    """
    written, read = dict(GENERAL.written), dict(GENERAL.read)
    part_of_key: dict[int, str] = {}
    for number, line in enumerate(text.splitlines(), 1):
        content = line.split("#", 1)[0].strip()
        if not content:
            continue
        name, colon, rest = content.partition(":")
        try:
            if not colon:
                raise BadScore(f"“{shown(content)}” is not like “snare: 38”.")
            name = kit_part(name.strip()).name
            keys = [read_whole(k.strip(), 0, 127, "A MIDI key") for k in rest.split(",")]
            for key in keys:
                if part_of_key.setdefault(key, name) != name:
                    raise BadScore(f"Key {key} is {KIT[part_of_key[key]].label} already.")
        except BadScore as problem:
            raise BadScore(f"Line {number} of the keys: {problem}") from None
        written[name] = keys[0]
    return Keys(MappingProxyType(written), MappingProxyType(read | part_of_key))
