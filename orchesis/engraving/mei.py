"""One system of the page model -> MEI, as text: notes, rests and their signs; no words.

Every note's id is ``n-`` and its stroke's id, every bar's is ``bar-`` and its number, so that the
page can light them up. Words, counts, sticking and brackets are set round the engraved system by
``orchesis.engraving.rows``, where nothing collides.
"""

from __future__ import annotations

from dataclasses import replace
from xml.sax.saxutils import escape, quoteattr

from orchesis.page.model import Bar, Beam, Event, Group, Head, Heading, Page, Staff, System, Voice

#: The engraver's fonts have no triangle (it drew a plain head): cowbell and block are square.
_HEADS = {
    "": "",
    "x": "x",
    "diamond": "diamond",
    "triangle": "rectangle",
    "slashed": "slash",
    "beat": "slash",
}
_STROKED = {"buzz": "z", "diddle": "1slash"}  # signs on the stem
_OPEN = '<artic artic="open" glyph.auth="smufl" glyph.num="U+E614" place="above"/>'
_MARKS = {
    "accent": '<artic artic="acc" place="{side}"/>',
    "choked": '<artic artic="stacciss" place="above"/>',
    "open": _OPEN,
    "half": '<artic artic="stop" place="above"/>',
}


def mei(system: System, staves: tuple[tuple[str, int], ...]) -> str:
    """A system as an MEI document. staves: (label, lines) of each."""
    first = system.bars[0]
    shown = "" if first.shows_meter else ' meter.visible="false"'
    apart = _FEET if counts_inside(system, len(staves)) else 0
    defs = "".join(_staff_def(n, lines, n == apart) for n, (_, lines) in enumerate(staves, 1))
    group = (
        f'<staffGrp bar.thru="true">{defs}</staffGrp>'
        if len(staves) > 1
        else (f"<staffGrp>{defs}</staffGrp>")
    )
    # A rest lies in the middle of the hands' half of a drum staff, or on a single line.
    rest = 6 if staves[0][1] > 1 else 0
    body = "\n".join(_measure(b, n > 0, rest) for n, b in enumerate(system.bars))
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0">
<meiHead><fileDesc><titleStmt><title/></titleStmt><pubStmt/></fileDesc></meiHead>
<music><body><mdiv><score>
<scoreDef meter.count="{first.meter.count}" meter.unit="{first.meter.unit}"{shown}>
{group}</scoreDef>
<section>
{body}
</section></score></mdiv></body></music></mei>
"""


def document(page: Page) -> str:
    """A whole page as one MEI document, with its words (sections, tempo, counts, sticking)."""
    first = page.systems[0].bars[0]
    measures = []
    for n, system in enumerate(page.systems):
        measures += ["<sb/>"] if n else []
        for k, bar in enumerate(system.bars):
            heading = system.heading if k == 0 else None
            words = _said(bar, heading, page.tempo if n == k == 0 else "")
            measure = _measure(bar, n + k > 0, 6 if page.staves[0][1] > 1 else 0)
            measures.append(measure.replace("</measure>", f"{words}</measure>"))
    defs = "".join(_staff_def(n, lines) for n, (_, lines) in enumerate(page.staves, 1))
    body = "\n".join(measures)
    artist = f"<composer>{escape(page.artist)}</composer>" if page.artist else ""
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mei xmlns="http://www.music-encoding.org/ns/mei" meiversion="5.0">
<meiHead><fileDesc><titleStmt><title>{escape(page.title)}</title>{artist}</titleStmt><pubStmt/>
</fileDesc></meiHead>
<music><body><mdiv><score>
<scoreDef meter.count="{first.meter.count}" meter.unit="{first.meter.unit}">
<staffGrp>{defs}</staffGrp></scoreDef>
<section>
{body}
</section></score></mdiv></body></music></mei>
"""


def _said(bar: Bar, heading: Heading | None, tempo: str) -> str:
    """What stands round a bar's notes."""
    events = []
    if tempo:
        events.append(f'<tempo staff="1" tstamp="1">= {escape(tempo)}</tempo>')
    if heading is not None and heading.name:
        name = escape(heading.name)
        events.append(f'<reh staff="1" tstamp="0"><rend rend="box">{name}</rend></reh>')
    for w in bar.words:
        if w.kind == "uncounted":
            continue
        at = float(1 + w.place * bar.meter.beat_quarters * bar.meter.unit / 4)
        side = "below" if w.kind in ("count", "stick", "spoken") else "above"
        events.append(
            f'<dir staff="1" tstamp="{at:g}" place="{side}" type="{w.kind}">{escape(w.text)}</dir>'
        )
    return "".join(events)


def counts_inside(system: System, staves: int) -> bool:
    """Whether the count row stands between hands and feet: on a limb chart, where it is wished."""
    kinds = {w.kind for b in system.bars for w in b.words}
    return staves == _LIMBS and bool(kinds & {"count", "uncounted"})


#: Lines of a limb chart, which of them is the first of the feet, and how many half spaces that one
#: stands lower where counts stand above it.
_LIMBS, _FEET, _APART = 4, 3, 14


def _staff_def(number: int, lines: int, is_apart: bool = False) -> str:
    clef = ' clef.shape="perc"' if lines > 1 else ""
    apart = f' spacing="{_APART}"' if is_apart else ""
    return f'<staffDef n="{number}" lines="{lines}"{clef}{apart}/>'


def _measure(bar: Bar, inside: bool, rest: int) -> str:
    meter = ""
    if inside and bar.shows_meter:
        meter = f'<scoreDef meter.count="{bar.meter.count}" meter.unit="{bar.meter.unit}"/>\n'
    right = f' right="{bar.end}"' if bar.end else ""
    staves = "".join(_staff(n, s, bar, rest) for n, s in enumerate(bar.staves, 1))
    return f'{meter}<measure xml:id="bar-{bar.number}"{right}>{staves}</measure>'


def _staff(number: int, staff: Staff, bar: Bar, rest: int) -> str:
    if bar.is_repeat:
        return f'<staff n="{number}"><layer n="1"><mRpt num.visible="false"/></layer></staff>'
    if not staff.voices:
        return f'<staff n="{number}"><layer n="1"><mRest/></layer></staff>'
    layers = [f'<layer n="{n}">{_voice(v, rest)}</layer>' for n, v in enumerate(staff.voices, 1)]
    return f'<staff n="{number}">{"".join(layers)}</staff>'


def _voice(voice: Voice, rest: int) -> str:
    if not any(e.heads for b in voice.beams for e in b.events):
        return "<mSpace/>" if voice.stem == "down" else f'<mRest loc="{rest}"/>'
    return "".join(_beam(b, voice.stem, rest) for b in voice.beams)


def _beam(beam: Beam, stem: str, rest: int) -> str:
    if not beam.is_joined:
        return "".join(_group(g, stem, False, rest) for g in beam.groups)
    # A grace that begins a beam is engraved without its flag: it stands before it.
    (first, *events), groups = beam.groups[0].events, beam.groups[1:]
    head = replace(beam.groups[0], events=(replace(first, graces=()), *events))
    inner = "".join(_group(g, stem, True, rest) for g in (head, *groups))
    return f"{_graces(first)}<beam>{inner}</beam>"


def _group(group: Group, stem: str, joined: bool, rest: int) -> str:
    inner = "".join(_event(e, stem, rest) for e in group.events)
    if not group.tuplet:
        return inner
    actual, normal = group.tuplet
    # A beam shows what belongs together; only without one a bracket has to.
    if not group.is_numbered:
        return (
            f'<tuplet num="{actual}" numbase="{normal}" bracket.visible="false"'
            f' num.visible="false">{inner}</tuplet>'
        )
    return (
        f'<tuplet num="{actual}" numbase="{normal}" bracket.visible="{str(not joined).lower()}"'
        f' num.place="{"above" if stem == "up" else "below"}">{inner}</tuplet>'
    )


def _event(event: Event, stem: str, rest: int) -> str:
    dur = f'dur="{event.value}"' + (' dots="1"' if event.dots else "")
    if not event.heads:
        return f'<rest {dur} loc="{rest}"/>' if event.silence == "rest" else f"<space {dur}/>"
    side = "above" if stem == "up" else "below"
    marks = "".join(_MARKS[m].format(side=side) for m in event.marks)
    graces = _graces(event)
    stroked = f' stem.mod="{_STROKED[event.stroked]}"' if event.stroked else ""
    # One note a staff place: of two (snare and rimshot) the louder is written.
    heads = list({h.loc: h for h in event.heads}.values())
    if len(heads) == 1:
        [head] = heads
        seen = 'stem.visible="false"' if stem == "none" else f'stem.dir="{stem}"'
        return f"{graces}<note {_head(head)} {dur} {seen}{stroked}>{marks}</note>"
    notes = "".join(f"<note {_head(h)}/>" for h in heads)
    return f'{graces}<chord {dur} stem.dir="{stem}"{stroked}>{marks}{notes}</chord>'


def _head(h: Head) -> str:
    out = f'xml:id={quoteattr("n-" + h.id)} loc="{h.loc}"'
    if _HEADS[h.shape]:
        out += f' head.shape="{_HEADS[h.shape]}"'
    if h.ghost == "brackets":
        out += ' head.mod="paren"'
    if h.small or h.ghost == "small":
        out += ' cue="true"'
    return out


def _graces(event: Event) -> str:
    return "".join(_grace(loc, count) for loc, count in event.graces)


def _grace(loc: int, count: int) -> str:
    note = f'<note loc="{loc}" dur="{8 if count == 1 else 16}" grace="unacc"'
    if count == 1:
        return f'{note} stem.mod="1slash" stem.dir="up"/>'
    inner = "".join(f'{note} stem.dir="up"/>' for _ in range(count))
    return f"<graceGrp><beam>{inner}</beam></graceGrp>"
