"""Text tab: a line a part, a column a step, bars between strokes; as drummers send it round.

Written: “HH|x-x-x-x-o-x-x-x-|” with the kit table's letters. Read: the common dialects of it (other
names for the same part, other signs for a hit), every fault with line and column.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable
from fractions import Fraction
from math import lcm

from orchesis.errors import BadScore
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import printable, shown

_MOST_BARS_A_LINE = 2
_MOST_BARS = 3000
_LINE = re.compile(r"^\s*(?P<name>[A-Za-z][A-Za-z0-9 ]{0,9}?)\s*[|:](?P<row>.*)$")
_HEADER = re.compile(r"^(title|artist|tempo|meter)\s*:\s*(.+)$", re.IGNORECASE)
#: What else parts are called, in small letters.
_NAMES = {
    "hh": "hat_closed",
    "h": "hat_closed",
    "hi": "hat_closed",
    "hat": "hat_closed",
    "oh": "hat_open",
    "sd": "snare",
    "s": "snare",
    "sn": "snare",
    "bd": "kick",
    "b": "kick",
    "bass": "kick",
    "kd": "kick",
    "k": "kick",
    "cc": "crash",
    "c": "crash",
    "cr": "crash",
    "crash": "crash",
    "c1": "crash",
    "rd": "ride",
    "r": "ride",
    "rc": "ride",
    "ride": "ride",
    "rb": "ride_bell",
    "t1": "tom_high",
    "ht": "tom_high",
    "t": "tom_high",
    "t2": "tom_mid",
    "mt": "tom_mid",
    "t3": "tom_low",
    "lt": "tom_low",
    "ft": "tom_floor",
    "f": "tom_floor",
    "t4": "tom_floor",
    "hf": "hat_foot",
    "fh": "hat_foot",
    "pf": "hat_foot",
    "sp": "splash",
    "ch": "china",
    "xs": "cross_stick",
    "cs": "cross_stick",
    "cb": "cowbell",
}
#: Lines are written under these names; those that are read back to the same part.
_WRITTEN = {
    "kick": "BD",
    "snare": "SD",
    "cross_stick": "XS",
    "hat_closed": "HH",
    "hat_foot": "HF",
    "ride": "RD",
    "ride_bell": "RB",
    "crash": "CC",
    "crash_2": "C2",
    "splash": "SP",
    "china": "CH",
    "tom_high": "T1",
    "tom_mid": "T2",
    "tom_low": "T3",
    "tom_floor": "FT",
    "rimshot": "RM",
    "hat_splash": "HS",
    "clap": "CL",
    "shaker": "SK",
    "tambourine": "TM",
    "cowbell": "CB",
    "block": "BL",
}
_READ = {name.lower(): part for part, name in _WRITTEN.items()} | {
    k: v for k, v in _NAMES.items() if k not in {n.lower() for n in _WRITTEN.values()}
}
_ORNAMENTS = {"flam": "f", "drag": "d", "ruff": "u", "buzz": "z", "diddle": "i"}
_BACK = {sign: name for name, sign in _ORNAMENTS.items()} | {"b": "buzz", "r": "buzz"}
_SILENT = "-. _"
#: “x4” or “4x” behind a line; a row of counts.
_TIMES = re.compile(r"(?<=\|)\s*(?:x\s*([0-9]{1,2})|([0-9]{1,2})\s*x)\s*$", re.IGNORECASE)
_COUNTED = re.compile(r"^[\s|]*1[1-9e&+aitl \t|.-]*$")


def write(score: Score) -> bytes:
    """The written part as a tab; openings stand on the line of the hat as “o” and “h”."""
    names = {"title": printable(score.title), "artist": printable(score.artist)}
    lines = [f"{key}: {text}" for key, text in names.items() if text]
    tempos = score.tempo_changes()
    sections = {s.first_bar: s.name for s in score.sections}
    meter: Meter | None = None
    bar = 1
    while bar <= score.bar_count:
        if bar in sections:
            lines += ["", f"[{printable(sections[bar])}]"]
        if score.meters[bar - 1] != meter:
            meter = score.meters[bar - 1]
            lines += ["", f"meter: {meter}"]
        if bar in tempos:
            lines.append(f"tempo: {tempos[bar]:.1f}")
        stretch = [bar]
        while (
            len(stretch) < _MOST_BARS_A_LINE
            and stretch[-1] < score.bar_count
            and stretch[-1] + 1 not in {*sections, *tempos}
            and score.meters[stretch[-1]] == meter
        ):
            stretch.append(stretch[-1] + 1)
        lines += ["", *_rows(score, stretch)]
        bar = stretch[-1] + 1
    return ("\n".join(lines).lstrip("\n") + "\n").encode()


def _rows(score: Score, bars: list[int]) -> list[str]:
    used = {_row(s.part) for b in bars for s in score.strokes_of(b)} or {"kick"}
    cells = {part: "" for part in KIT if part in used}
    for b in bars:
        steps = _steps(score, b)
        size = score.meters[b - 1].beats * steps
        for part in cells:
            signs = ["-"] * size
            for s in score.strokes_of(b):
                if _row(s.part) == part:
                    signs[int(s.place * steps)] = _sign(s)
            cells[part] += "".join(signs) + "|"
    return [f"{_WRITTEN[part]:<3}|{row}" for part, row in cells.items()]


def _steps(score: Score, bar: int) -> int:
    """Columns a beat that hold every place of a bar."""
    divisions = [s.place.denominator for s in score.strokes_of(bar)]
    return lcm(*divisions, 3 if score.meters[bar - 1].is_compound else 4) if divisions else 4


def _row(part: str) -> str:
    return "hat_closed" if part in ("hat_open", "hat_half") else part


def _sign(s: Stroke) -> str:
    if s.ornament in _ORNAMENTS:
        return _ORNAMENTS[s.ornament or ""]
    if s.part in ("hat_open", "hat_half"):
        return "o" if s.part == "hat_open" else "h"
    if s.dynamic == "ghost":
        return "g"
    is_x = KIT[s.part].family in ("hat", "cymbal")
    loud = s.dynamic == "accent"
    return ("X" if loud else "x") if is_x else ("O" if loud else "o")


# -- reading


def read(data: bytes, title: str = "") -> tuple[Score, list[str]]:
    """(the score, what could not be kept): strictly, and where that fails leniently, with every
    fault told. Raises BadScore with line and column where nothing is left."""
    try:
        return read_strictly(data, title)
    except BadScore as fault:
        lost: list[str] = []
        try:
            score, more = _read(data, title, lost.append)
        except BadScore:
            raise fault from None
        return score, [*lost, *more]


def read_strictly(data: bytes, title: str = "") -> tuple[Score, list[str]]:
    """The same, but the first fault is raised."""

    def refuse(says: str) -> None:
        raise BadScore(says)

    return _read(data, title, refuse)


#: What is done with a fault of a line: raised, or noted.
Fault = Callable[[str], None]


def _read(data: bytes, title: str, fault: Fault) -> tuple[Score, list[str]]:
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        raise BadScore("This is not a text file.") from None
    head = {"title": title, "artist": ""}
    meter, tempo = Meter(), 100.0
    meters: list[Meter] = []
    tempos: list[float] = []
    names: dict[int, str] = {}
    strokes: dict[tuple[int, Fraction, str], Stroke] = {}
    lost: list[str] = []
    block: list[tuple[int, str, int, str]] = []

    def close() -> None:
        if block:
            _block(block, meter, meters, strokes, fault)
            tempos.extend([tempo] * (len(meters) - len(tempos)))
            block.clear()

    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.rstrip()
        if header := _HEADER.match(line):
            close()
            key, value = header[1].lower(), header[2].strip()
            if key == "meter":
                meter = _meter(value, number)
            elif key == "tempo":
                tempo = _tempo(value, number)
            elif key != "title" or not head["title"]:
                head[key] = value
        elif re.match(r"^\s*\[.+\]\s*$", line):
            close()
            names[len(meters) + 1] = printable(line.strip()[1:-1])
        elif "|" in line and (header := _LINE.match(line)):
            name = header["name"].strip().lower()
            if name not in _READ:
                fault(f"Line {number}, column 1: “{shown(header['name'])}” is no drum.")
                continue
            block.append((number, _READ[name], header.start("row") + 1, header["row"]))
        elif not line.strip():
            close()
        elif _COUNTED.match(line):
            continue  # a row that counts the columns
        else:
            lost.append(f"line {number}: “{shown(line.strip()[:30])}”")
    close()
    if not meters:
        raise BadScore("There is no bar in this tab.")
    times = [0.0]
    for m, bar_tempo in zip(meters, tempos, strict=True):
        for _ in range(m.beats):
            times.append(times[-1] + _beat(m, bar_tempo))
    score = Score(
        tuple(meters),
        PulseMap.of(times),
        {s.id: s for s in strokes.values()},
        _sections(names, len(meters)),
        title=printable(head["title"]),
        artist=printable(head["artist"]),
    )
    return score, lost


def _beat(meter: Meter, tempo: float) -> float:
    return (1.0 if meter.is_compound else float(meter.beat_quarters)) * 60 / tempo


def _meter(value: str, line: int) -> Meter:
    try:
        return Meter.parse(value)
    except BadScore as problem:
        raise BadScore(f"Line {line}, column 8: {problem}") from None


def _tempo(value: str, line: int) -> float:
    if not re.fullmatch(r"[0-9]{2,3}(\.[0-9]+)?", value):
        raise BadScore(f"Line {line}, column 8: “{shown(value)}” is not a tempo.")
    return float(value)


def _block(
    block: list[tuple[int, str, int, str]],
    meter: Meter,
    meters: list[Meter],
    strokes: dict[tuple[int, Fraction, str], Stroke],
    fault: Fault,
) -> None:
    """Lines that stand together: bars side by side, a part a line; “x4” behind one: four times."""
    first = len(meters) + 1
    width: dict[int, int] = {}
    strokes_here: dict[tuple[int, Fraction, str], Stroke] = {}
    count, times = 0, 1
    for number, part, column, row in block:
        at = column
        if repeats := _TIMES.search(row):
            times = max(1, int(repeats[1] or repeats[2]))
            row = row[: repeats.start()]
        for k, cell in enumerate(row.rstrip("| ").split("|")):
            size = _size(cell, k, width, meter, f"Line {number}, column {at}", fault)
            for step, sign in enumerate(cell[:size]):
                if sign in _SILENT:
                    continue
                where = f"Line {number}, column {at + step}"
                place = Fraction(step * meter.beats, size)
                if place.denominator > 48:
                    fault(f"{where}: too fine a step.")
                    continue
                stroke = _stroke(sign, part, first + k, place, where, fault)
                if stroke is not None:
                    strokes_here.setdefault((k, place, stroke.part), stroke)
            at += len(cell) + 1
            count = max(count, k + 1)
    if len(meters) + count * times > _MOST_BARS:
        raise BadScore(f"This tab has more than {_MOST_BARS} bars.")
    for turn in range(times):
        for (k, place, part), stroke in strokes_here.items():
            bar = first + turn * count + k
            copy = stroke.changed(id=f"s{len(strokes) + 1}", bar=bar)
            strokes[bar, place, part] = copy
    meters += [meter] * count * times


def _size(
    cell: str, bar: int, width: dict[int, int], meter: Meter, where: str, fault: Fault
) -> int:
    """Steps of a bar; of one that has more or fewer than the lines above, or that can't be
    divided, those that a lenient reader takes."""
    size = len(cell)
    if size and width.setdefault(bar, size) != size:
        fault(f"{where}: this bar has {size} steps, the lines above {width[bar]}.")
        size = width[bar]
    if size % meter.beats:
        fault(f"{where}: {size} steps can't be divided in {meter.beats} beats.")
        size = width[bar] = max(meter.beats, size - size % meter.beats)
    return size


def _stroke(
    sign: str, part: str, bar: int, place: Fraction, where: str, fault: Fault
) -> Stroke | None:
    dynamic, ornament = "normal", None
    is_hat = part == "hat_closed"
    if is_hat and sign in "oO":
        part = "hat_open"
    elif is_hat and sign in "h":
        part = "hat_half"
    elif sign in "XOA>":
        dynamic = "accent"
    elif sign in "g(":
        dynamic = "ghost"
    elif sign in _BACK:
        ornament = _BACK[sign]
    elif sign not in "xo#*+s@cB1":
        fault(f"{where}: “{shown(sign)}” is no sign of a stroke.")
        return None
    return Stroke(
        "s0", bar, place, part, KIT[part].limb, dynamic, CLASS_LOUDNESS[dynamic], ornament
    )


def _sections(names: dict[int, str], bars: int) -> tuple[Section, ...]:
    named = {1: "Song", **{b: n for b, n in names.items() if b <= bars}}
    firsts = sorted(named)
    labels: dict[str, str] = defaultdict(lambda: chr(65 + len(labels) % 26))
    sections = []
    for n, first in enumerate(firsts):
        end = firsts[n + 1] if n + 1 < len(firsts) else bars + 1
        stem = named[first].rstrip(" 0123456789")
        sections.append(Section(f"sec{n + 1}", named[first], labels[stem], first, end - first))
    return tuple(sections)
