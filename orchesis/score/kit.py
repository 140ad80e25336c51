"""The one table of the kit: every fact about a kit part stands here and nowhere else.

Engraving, MIDI, tab, audition and the browser (through ``orchesis.score.kit_json``)
read it. Staff places follow the usual drum-set notation (percussion clef, five
lines): ``loc`` counts half spaces from the bottom line (0) to the top line (8).
"""

from __future__ import annotations

from dataclasses import asdict, dataclass

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

#: Layers of a part, as a drummer listens to them one by one.
LAYERS = (
    "time",
    "backbeat",
    "kick",
    "ghosts",
    "ornaments",
    "openings",
    "left_foot",
    "toms",
    "crashes",
    "auxiliary",
)


_LIMBS = {"time": "RH", "backbeat": "LH", "hand": "RH", "right_foot": "RF", "left_foot": "LF"}


@dataclass(frozen=True, slots=True)
class KitPart:
    """One part of the kit or one way of playing it.

    family: drum, hat, cymbal or auxiliary. role: who plays it by default (time hand,
    backbeat hand, either hand, right foot, left foot). shape and letter: its head on
    the spine. head: note head on the staff. midi: General MIDI percussion key;
    midi_also: further keys read as this part. tab: one or two letters of a text tab.
    sample: the one-shot of our own kit that sounds it; gain: its amplitude in the balance
    of the kit. instrument: what it is a way of playing. surface: how it is called where it
    keeps the time; empty where it never does.
    """

    name: str
    label: str
    family: str
    role: str
    layer: str
    shape: str
    letter: str
    loc: int
    head: str
    midi: int
    tab: str
    sample: str
    midi_also: tuple[int, ...] = ()
    gain: float = 0.7
    instrument: str = ""
    surface: str = ""

    @property
    def limb(self) -> str:
        """The limb that plays it by its role, on a right-handed kit."""
        return _LIMBS[self.role]

    @property
    def is_crash(self) -> bool:
        """Whether it marks moments: crashes, splash, china."""
        return self.layer == "crashes"

    @property
    def is_backbeat(self) -> bool:
        """Whether a backbeat is played on it: the snare in all ways, or a clap."""
        return self.role == "backbeat" or self.name == "clap"


def _p(
    name: str,
    label: str,
    family: str,
    role: str,
    layer: str,
    shape: str,
    letter: str,
    loc: int,
    head: str,
    midi: int,
    tab: str,
    gain: float = 0.7,
    sample: str = "",
    also: tuple[int, ...] = (),
    of: str = "",
    surface: str = "",
) -> KitPart:
    return KitPart(
        name,
        label,
        family,
        role,
        layer,
        shape,
        letter,
        loc,
        head,
        midi,
        tab,
        sample or name,
        also,
        gain,
        of or label.lower(),
        surface,
    )


# fmt: off
_PARTS = (
    _p("kick", "Kick", "drum", "right_foot", "kick", "barrel", "k", 1, "", 36, "B", 1.0, also=(35,)),
    _p("snare", "Snare", "drum", "backbeat", "backbeat", "disc", "s", 5, "", 38, "S", 0.85, also=(40,), surface="snare"),
    _p("cross_stick", "Cross-stick", "drum", "backbeat", "backbeat", "disc_bar", "c", 5, "x", 37,
       "C", 0.5, of="snare"),
    _p("rimshot", "Rimshot", "drum", "backbeat", "backbeat", "disc_ring", "s", 5, "slashed", 91,
       "I", 1.0, sample="snare", of="snare"),
    _p("hat_closed", "Hat closed", "hat", "time", "time", "lens", "h", 9, "x", 42, "H", 0.42, of="hat", surface="hat"),
    _p("hat_half", "Hat half-open", "hat", "time", "openings", "lens_half", "h", 9, "x", 92, "Hh", 0.36,
       sample="hat_open", of="hat", surface="half-open hat"),
    _p("hat_open", "Hat open", "hat", "time", "openings", "lens_open", "h", 9, "x", 46, "Ho", 0.42, of="hat", surface="open hat"),
    _p("hat_foot", "Hat foot", "hat", "left_foot", "left_foot", "lens", "f", -1, "x", 44, "F", 0.25, of="foot hat"),
    _p("ride", "Ride", "cymbal", "time", "time", "dish", "r", 8, "x", 51, "R", 0.42, also=(59,), surface="ride"),
    _p("ride_bell", "Ride bell", "cymbal", "time", "time", "dish_bell", "b", 8, "diamond", 53,
       "Rb", 0.5, of="ride", surface="ride bell"),
    _p("hat_splash", "Hat foot splash", "hat", "left_foot", "left_foot", "lens_open", "f", -1, "x",
       93, "Fs", 0.3, sample="hat_open", of="foot hat"),
    _p("crash", "Crash", "cymbal", "hand", "crashes", "burst", "C", 10, "x", 49, "Cr", 0.6, surface="crash"),
    _p("crash_2", "Crash 2", "cymbal", "hand", "crashes", "burst", "D", 11, "x", 57, "C2", 0.6, of="crash", surface="crash"),
    _p("splash", "Splash", "cymbal", "hand", "crashes", "burst", "p", 11, "x", 55, "Sp", 0.5, of="crash"),
    _p("china", "China", "cymbal", "hand", "crashes", "bowl", "n", 12, "x", 52, "Ch", 0.55, of="crash", surface="china"),
    _p("tom_high", "High tom", "drum", "hand", "toms", "keg", "1", 7, "", 50, "T1", also=(48,), of="toms"),
    _p("tom_mid", "Mid tom", "drum", "hand", "toms", "keg", "2", 6, "", 47, "T2", of="toms", surface="mid tom"),
    _p("tom_low", "Low tom", "drum", "hand", "toms", "keg", "3", 4, "", 45, "T3", of="toms", surface="low tom"),
    _p("tom_floor", "Floor tom", "drum", "hand", "toms", "keg", "4", 3, "", 43, "Ft", also=(41,), of="toms", surface="floor tom"),
    _p("clap", "Clap", "auxiliary", "hand", "auxiliary", "gem", "l", 6, "x", 39, "Cp"),
    _p("shaker", "Shaker", "auxiliary", "time", "auxiliary", "gem", "a", 9, "diamond", 82, "Sh",
       also=(70,), surface="shaker"),
    _p("tambourine", "Tambourine", "auxiliary", "time", "auxiliary", "gem", "t", 9, "diamond", 54,
       "Tb", surface="tambourine"),
    _p("cowbell", "Cowbell", "auxiliary", "time", "auxiliary", "gem", "w", 8, "triangle", 56, "Cb", surface="cowbell"),
    _p("block", "Block", "auxiliary", "hand", "auxiliary", "gem", "o", 8, "triangle", 76, "Bl",
       also=(77,)),
)
# fmt: on

#: Every part by its name, in the order of the table.
KIT: dict[str, KitPart] = {p.name: p for p in _PARTS}

#: Which line is which, where it is not as the table has it. common: as the table. ride_above: the
#: hat on the top line, the ride in the space above it. low_kick: the feet under the staff, so that
#: every tom has a space of its own.
LAYOUTS: dict[str, dict[str, int]] = {
    "common": {},
    "ride_above": {
        "hat_closed": 8,
        "hat_half": 8,
        "hat_open": 8,
        "ride": 9,
        "ride_bell": 9,
        "cowbell": 7,
        "block": 7,
    },
    "low_kick": {"kick": -1, "hat_foot": -3, "hat_splash": -3, "tom_low": 3, "tom_floor": 1},
}


def loc_in(layout: str, name: str) -> int:
    """Where a part stands on the staff of a layout, in half spaces from the bottom line."""
    return LAYOUTS[layout].get(name, KIT[name].loc)


#: Part -> the first of the parts that are ways of playing the same instrument.
MAIN_WAY: dict[str, str] = {
    p.name: next(q.name for q in _PARTS if q.instrument == p.instrument) for p in _PARTS
}

#: Part -> the piece of the kit that is struck, named by its first part: who lacks a ride lacks its
#: bell.
PIECE: dict[str, str] = {
    p.name: p.name if p.layer in ("toms", "crashes", "auxiliary") else MAIN_WAY[p.name]
    for p in _PARTS
}

#: General MIDI percussion key -> part name.
MIDI_PARTS: dict[int, str] = {k: p.name for p in _PARTS for k in (p.midi, *p.midi_also)}

HAT_PARTS = tuple(p.name for p in _PARTS if p.family == "hat")
TIME_PARTS = tuple(p.name for p in _PARTS if p.role == "time")
FOOT_PARTS = tuple(p.name for p in _PARTS if p.role.endswith("_foot"))


def part(name: str) -> KitPart:
    """The part of that name; BadScore names the word if there is none."""
    try:
        return KIT[name]
    except KeyError:
        raise BadScore(
            f"There is no kit part called “{shown(name)}”; the parts are {', '.join(KIT)}."
        ) from None


def band(name: str) -> tuple[int, int]:
    """Where a part speaks, in Hz: what is left of a recording when one listens to it alone."""
    p = part(name)
    if p.family in ("hat", "cymbal"):
        return 4000, 16000
    if p.layer == "kick":
        return 30, 130
    if p.layer == "toms":
        return 60, 500
    return (150, 3000) if p.layer == "backbeat" else (300, 12000)


def kit_json() -> list[dict[str, object]]:
    """The table for the browser, in table order."""
    return [asdict(p) | {"band": band(p.name), "limb": p.limb} for p in _PARTS]
