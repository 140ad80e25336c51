"""Score -> MEI: a drum staff, hands with stems up and feet with stems down.

Every note's id is ``n-`` and its stroke's id, every bar's is ``bar-`` and its number, so
that the page can light them up.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction
from xml.sax.saxutils import escape, quoteattr

from orchesis.engraving.footnotes import Footnote
from orchesis.score import KIT, Cue, Meter, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.rhythm import Event, Group, spell
from orchesis.score.untrusted import printable

BARS_A_LINE = 4
_FEET = ("RF", "LF")
_HEADS = {"": "", "x": "x", "diamond": "diamond", "triangle": "isotriangle", "slashed": "slash"}
_STROKED = {"buzz": "z", "diddle": "1slash"}  # signs on the stem
_GRACES = {"flam": 1, "drag": 2, "ruff": 3}
_OPEN = '<artic artic="open" glyph.auth="smufl" glyph.num="U+E614" place="above"/>'


def mei(score: Score, notes: Sequence[Footnote] = ()) -> str:
    """The full chart as an MEI document; notes: footnotes whose numbers stand over the bars."""
    body = "\n".join(_bars(score, notes))
    first = score.meters[0]
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0">
<meiHead><fileDesc><titleStmt><title>{escape(printable(score.title))}</title></titleStmt><pubStmt/>
</fileDesc></meiHead>
<music><body><mdiv><score>
<scoreDef meter.count="{first.count}" meter.unit="{first.unit}">
{_head(score)}
<staffGrp><staffDef n="1" lines="5" clef.shape="perc"/></staffGrp></scoreDef>
<section>
{body}
</section></score></mdiv></body></music></mei>
"""


def _head(score: Score) -> str:
    title, artist = (escape(printable(t)) for t in (score.title or "Untitled", score.artist))
    return (
        f'<pgHead func="first"><rend halign="center" valign="top" fontsize="200%">{title}</rend>'
        f'<rend halign="right" valign="bottom" fontsize="100%">{artist}</rend></pgHead>'
        f'<pgHead func="all"><rend halign="left" fontsize="85%">{title}</rend>'
        '<rend halign="right" fontsize="85%"><num label="page">#</num></rend></pgHead>'
    )


def line_breaks(score: Score) -> set[int]:
    """Bars that begin a line: every section does, then every fourth bar.

    A single bar left over joins the line before it.
    """
    starts: set[int] = set()
    for section in score.sections:
        left, bar = section.bars, section.first_bar
        while left > 0:
            starts.add(bar)
            take = left if left <= BARS_A_LINE + 1 else BARS_A_LINE
            bar, left = bar + take, left - take
    return starts or set(range(1, score.bar_count + 1, BARS_A_LINE))


def _bars(score: Score, notes: Sequence[Footnote]) -> list[str]:
    by_bar = score.by_bar()
    marks: dict[int, list[Footnote]] = defaultdict(list)
    for note in notes:
        marks[note.bar].append(note)
    breaks = line_breaks(score)
    sections = {s.first_bar: s for s in score.sections}
    out: list[str] = []
    meter = score.meters[0]
    for bar in range(1, score.bar_count + 1):
        own = score.meters[bar - 1]
        if bar in breaks and bar > 1:
            out.append("<sb/>")
        if own != meter:
            out.append(f'<scoreDef meter.count="{own.count}" meter.unit="{own.unit}"/>')
            meter = own
        right = ' right="end"' if bar == score.bar_count else ""
        out.append(f'<measure xml:id="bar-{bar}" n="{bar}"{right}>')
        hands, feet = _voices(by_bar.get(bar, []), own)
        out.append(f'<staff n="1"><layer n="1">{hands}</layer><layer n="2">{feet}</layer></staff>')
        if bar in sections:
            name = escape(sections[bar].name)
            out.append(f'<reh staff="1" tstamp="0"><rend rend="box">{name}</rend></reh>')
        if bar in score.cues:
            out.append(_cue(score.cues[bar], own))
        out += [_mark(note, own) for note in marks[bar]]
        if bar == 1:
            out.append(_tempo(score))
        out.append("</measure>")
    return out


def _cue(cue: Cue, meter: Meter) -> str:
    """What the band does, in small words over the bar: its rhythm by the count."""
    words = [f"“{cue.words}”"] if cue.words else []
    if cue.places:
        words.append("band: " + " ".join(place_text(p, meter) for p in cue.places))
    text = escape(", ".join(words))
    return f'<dir staff="1" tstamp="1" place="above"><rend fontsize="small">{text}</rend></dir>'


def _mark(note: Footnote, meter: Meter) -> str:
    """A footnote's number over its place."""
    at = float(1 + note.place * meter.beat_quarters * meter.unit / 4)
    return (
        f'<dir staff="1" tstamp="{at:.3f}" place="above">'
        f'<rend fontsize="small">{note.number})</rend></dir>'
    )


def _tempo(score: Score) -> str:
    median, low, high = score.pulse.tempo()
    unit = "&#xECA5;&#xECB7;" if score.meters[0].is_compound else "&#xECA5;"
    if score.meters[0].unit == 8 and not score.meters[0].is_compound:
        unit = "&#xECA7;"
    text = f"{median:.0f}" if high - low < 2.5 else f"about {median:.0f}"
    level, ratio = score.swing
    if level != "none":
        which = "8ths" if level == "eighth" else "16ths"
        text += f", {which} swung {ratio:.0%}"
    return (
        '<tempo staff="1" tstamp="1" place="above">'
        f'<rend glyph.auth="smufl" fontfam="smufl">{unit}</rend>&#160;=&#160;{escape(text)}</tempo>'
    )


def _voices(strokes: Sequence[Stroke], meter: Meter) -> tuple[str, str]:
    hands: dict[Fraction, list[Stroke]] = defaultdict(list)
    feet: dict[Fraction, list[Stroke]] = defaultdict(list)
    for s in strokes:
        (feet if s.limb in _FEET else hands)[s.place].append(s)
    if not hands and not feet:
        return "<mRest/>", "<mSpace/>"
    above = _voice(hands, meter, "up") if hands else '<mRest loc="6"/>'
    if not hands and feet:
        above = _voice({}, meter, "up", rests="rest")
    below = _voice(feet, meter, "down", rests="space") if feet else "<mSpace/>"
    return above, below


def _voice(
    strokes: dict[Fraction, list[Stroke]], meter: Meter, stem: str, rests: str = "rest"
) -> str:
    return "".join(_group(g, strokes, stem, rests) for g in spell(strokes, meter))


def _group(group: Group, strokes: dict[Fraction, list[Stroke]], stem: str, rests: str) -> str:
    inner = "".join(_event(e, strokes, stem, rests) for e in group.events)
    sounding = [e for e in group.events if e.place is not None]
    if len(sounding) > 1 and all(e.value >= 8 for e in sounding):
        inner = f"<beam>{inner}</beam>"
    if group.tuplet:
        actual, normal = group.tuplet
        inner = (
            f'<tuplet num="{actual}" numbase="{normal}" bracket.visible="true"'
            f' num.place="{"above" if stem == "up" else "below"}">{inner}</tuplet>'
        )
    return inner


def _event(event: Event, strokes: dict[Fraction, list[Stroke]], stem: str, rests: str) -> str:
    dur = f'dur="{event.value}"' + (' dots="1"' if event.dots else "")
    if event.place is None:
        return f'<rest {dur} loc="6"/>' if rests == "rest" else f"<space {dur}/>"
    own = _distinct(strokes[event.place])
    marks = "".join(sorted({m for s in own for m in _marks(s, stem)}))
    graces = "".join(_grace(s) for s in own)
    stroked = next((_STROKED[s.ornament] for s in own if s.ornament in _STROKED), "")
    buzz = f' stem.mod="{stroked}"' if stroked else ""
    if len(own) == 1:
        return f'{graces}<note {_pitch(own[0])} {dur} stem.dir="{stem}"{buzz}>{marks}</note>'
    notes = "".join(f"<note {_pitch(s)}/>" for s in own)
    return f'{graces}<chord {dur} stem.dir="{stem}"{buzz}>{marks}{notes}</chord>'


def _distinct(strokes: Sequence[Stroke]) -> list[Stroke]:
    """One note a staff place: of two (snare and rimshot) the louder is written."""
    by_loc: dict[int, Stroke] = {}
    for s in sorted(strokes, key=lambda s: s.loudness):
        by_loc[KIT[s.part].loc] = s
    return [by_loc[loc] for loc in sorted(by_loc)]


def _pitch(s: Stroke) -> str:
    known = KIT[s.part]
    head = _HEADS[known.head]
    out = f'xml:id={quoteattr("n-" + s.id)} loc="{known.loc}"'
    if head:
        out += f' head.shape="{head}"'
    if s.dynamic == "ghost":
        out += ' head.mod="paren"'
    return out


def _marks(s: Stroke, stem: str) -> list[str]:
    marks = []
    if s.dynamic == "accent":
        marks.append(f'<artic artic="acc" place="{"above" if stem == "up" else "below"}"/>')
    if s.choked:
        marks.append('<artic artic="stacciss" place="above"/>')
    if s.part in ("hat_open", "hat_splash"):
        marks.append(_OPEN)
    elif s.part == "hat_half":
        marks.append('<artic artic="stop" place="above"/>')
    return marks


def _grace(s: Stroke) -> str:
    count = _GRACES.get(s.ornament or "", 0)
    if not count:
        return ""
    note = f'<note loc="{KIT[s.part].loc}" dur="{8 if count == 1 else 16}" grace="unacc"'
    if count == 1:
        return f'{note} stem.mod="1slash" stem.dir="up"/>'
    inner = "".join(f'{note} stem.dir="up"/>' for _ in range(count))
    return f"<graceGrp><beam>{inner}</beam></graceGrp>"
