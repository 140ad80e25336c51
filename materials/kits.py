"""One-shots for training: drum kits by part, and notes for a band, from the listed sources.

Split by kit: TRAIN kits only train, TUNE kits only choose thresholds, TEST kits do neither
(the demo's kit and all other drum sets of fluid-soundfont-gm are test kits too).

Lineages were compared before the split (largest correlation of the same part's sounds): the drums of
``csound-soundfont`` are those of ``timgm6mb-soundfont`` but for three pieces, and only these are
taken from it; ``fluid-soundfont-gm`` shares a kick with both at most (.65).
"""

from __future__ import annotations

import os
import struct
import subprocess
from functools import cache
from io import BytesIO
from pathlib import Path

import mido
import numpy as np
import soundfile as sf
import soxr

from demo import kit as bank
from materials import drum_synth
from orchesis.hearing.network import CLASSES as CLASSES

RATE = 44100
KITS = Path("/usr/share/hydrogen/data/drumkits")
MADE_KITS = Path(__file__).resolve().parent.parent / "var" / "training" / "kits"
BANK = "/usr/share/sounds/sf2/TimGM6mb.sf2"
BANK_2 = "/usr/share/sounds/sf2/sf_GMbank.sf2"
FLUID = "/usr/share/sounds/sf2/FluidR3_GM.sf2"
CHIP = "/usr/share/sounds/sf2/OPL-3_FM_128M.sf2"
#: "made-N" are kits of materials/drum_synth.py, "gm-N" drum sets of the sound bank.
MADE = tuple(f"made-{n}" for n in range(120))
TRAIN = (
    "BJA_Pacific",
    "ColomboAcousticDrumkit",
    "Millo_MultiLayered2",
    "VariBreaks",
    "ElectricEmpireKit",
    "TR808EmulationKit",
    "HardElectro1",
    "Gimme A Hand 1.0",
    "gm-0",
    "gm-8",
    "gm-25",
    "gm-40",
    "freepats",
    "freepats-2",
    "exadrums",
    "rumpf_kit_z01_h2",
    "Audiophob",
    "csound",
    "chip",
    *MADE,
)
TUNE_MADE = tuple(f"made-{n}" for n in range(200, 216))
TUNE_SAMPLED = ("Millo_MultiLayered3", "Millo-Drums_v.1", "gm-rare", "colombo-bell")
TUNE = (*TUNE_SAMPLED, *TUNE_MADE)
TEST = ("ForzeeStereo", "fluid-power", "fluid-jazz", "fluid-brush")
#: kit -> part -> file patterns; toms carry a number (1 the lowest) so that a song has several.
FILES: dict[str, dict[str, str]] = {
    "BJA_Pacific": {
        "kick": "BD_*",
        "snare": "SN_*",
        "cross_stick": "SN3_*",
        "hat_closed": "HH_*",
        "hat_open": "HH2_*",
        "hat_foot": "HH3_*",
        "tom1": "TM_*",
        "tom2": "TM2_*",
        "crash": "CB_*",
        "crash2": "CB2_*",
        "ride": "RD_*",
        "ride_bell": "BL_*",
    },
    "ColomboAcousticDrumkit": {
        "kick": "bassdrum*",
        "snare": "snare*",
        "cross_stick": "stick-rim*",
        "hat_closed": "hihat-closed*",
        "hat_open": "hihat-open*",
        "tom1": "tom-low*",
        "tom2": "tom-mid*",
        "tom3": "tom-hi*",
        "crash": "crash16i__crash*",
        "crash2": "crash20i__crash*",
        "ride": "crash20i__ride4*",
    },
    "colombo-bell": {"ride_bell": "crash20i__ride-cup*"},
    "Gimme A Hand 1.0": {
        "clap": "HandClap*",
        "shaker": "Maraca*",
        "tambourine": "Tambourine*",
        "cowbell": "Cowbell*",
        "block": "WoodBlock*",
    },
    "Millo_MultiLayered2": {
        "kick": "bd_*",
        "snare": "[jr]snare_*",
        "cross_stick": "rim_*",
        "hat_closed": "hhclosed_*",
        "hat_open": "hhopen_*",
        "hat_foot": "hhpedal_*",
        "tom1": "floortom_*",
        "tom2": "tom_*",
        "ride": "ride_*",
        "crash": "crash_*",
        "clap": "clap_*",
    },
    "Millo_MultiLayered3": {
        "kick": "bd_*",
        "snare": "sd_*",
        "cross_stick": "rs_*",
        "hat_closed": "hh_0*",
        "hat_open": "ho_*",
        "hat_foot": "hh_p*",
        "tom1": "ft_*",
        "tom2": "t1_*",
        "tom3": "t2_*",
        "ride": "rc_*",
        "crash": "cc_*",
    },
    "Millo-Drums_v.1": {
        "kick": "bd1*",
        "snare": "snare1*",
        "cross_stick": "stick*",
        "hat_closed": "closehihat*",
        "hat_open": "openhat*",
        "hat_foot": "pedalhihat*",
        "tom1": "tom2_1*",
        "tom2": "tom1_1*",
        "tom3": "tom1_a*",
        "ride": "ride1*",
        "crash": "cra_Rock*",
        "clap": "clap*",
    },
    "VariBreaks": {
        "kick": "VP Kick*",
        "snare": "VP Snare*",
        "hat_closed": "VP Hat*Cl*",
        "hat_open": "VP Hat*Op*",
        "hat_foot": "VP Hat*Pd*",
        "tom1": "VP Tom Low*",
        "tom2": "VP Tom Mid*",
        "tom3": "VP Tom Hi*",
    },
    "ElectricEmpireKit": {
        "kick": "EE_Kick_[LHP]*",
        "snare": "EE_Snare_*",
        "clap": "EE_Clap*",
        "hat_closed": "EE_Hat_Cl*",
        "hat_open": "EE_Hat_Op*",
    },
    "TR808EmulationKit": {
        "kick": "808_Kick*",
        "snare": "808_Snare*",
        "clap": "808_Clap*",
        "hat_closed": "808_Hat_Closed*",
        "hat_open": "808_Hat_Open*",
        "tom1": "808_Tom_Low*",
        "tom2": "808_Tom_Hi*",
        "crash": "808_Cymbal*",
    },
    "HardElectro1": {
        "kick": "PowR_BD*",
        "snare": "PowR_SN*",
        "hat_closed": "Hard_CHH*",
        "hat_open": "Hard_Hse_OHH*",
        "clap": "Clap_1*",
    },
    "ForzeeStereo": {
        "kick": "Kick-*",
        "snare": "Snare-*",
        "cross_stick": "RimClick-*",
        "hat_closed": "HiHatClosed-*",
        "hat_open": "HiHatOpen-*",
        "hat_foot": "HiHatFoot-*",
        "tom1": "TomLow-*",
        "tom2": "TomMid-*",
        "tom3": "TomHigh-*",
        "crash": "Crash18-*",
        "ride": "RideBow-*",
        "ride_bell": "RideBell-*",
    },
}
FILES |= {
    # Of these only the pieces that sound as their name says (looked at: centroid, share below 500 Hz,
    # time to -20 dB): the ride of exadrums is an edge crash, most of rumpf's cymbals are something else.
    "exadrums": {
        "kick": "BD_*",
        "snare": "Snr_*",
        "hat_closed": "HiHat*",
        "crash": "Crash_High*",
        "ride_bell": "RideBell*",
        "tom1": "Tom03*",
        "tom2": "Tom01*",
    },
    "rumpf_kit_z01_h2": {
        "kick": "beats_0[67]-[34][068]*",
        "snare": "beats_01-21*",
        "clap": "beats_01-26*",
        "hat_closed": "beats_09-10*",
        "hat_foot": "beats_06-28*",
        "tom1": "beats_08-17*",
        "cowbell": "beats_08-32*",
    },
    "Audiophob": {
        "snare": "25671*",
        "hat_closed": "116973*",
        "hat_open": "104227*",
        "crash": "124101*",
    },
}
_FOLDER = {"colombo-bell": "ColomboAcousticDrumkit", "exadrums": "/usr/share/exadrums"}
PATCHES = Path("/usr/share/midi/freepats/Drum_000")
#: Kits of GUS patches: part -> key.
PATCHED = {
    "freepats": {
        "kick": 36,
        "snare": 38,
        "cross_stick": 37,
        "hat_closed": 42,
        "hat_open": 46,
        "hat_foot": 44,
        "tom1": 43,
        "tom2": 47,
        "tom3": 50,
        "crash": 49,
        "ride": 51,
        "ride_bell": 53,
        "china": 52,
        "splash": 55,
        "tambourine": 54,
        "cowbell": 56,
        "clap": 39,
        "shaker": 82,
        "block": 76,
    },
    "freepats-2": {
        "kick": 35,
        "snare": 40,
        "tom1": 41,
        "tom2": 45,
        "tom3": 48,
        "ride": 59,
        "block": 77,
    },
}
_GM = {
    "kick": 36,
    "snare": 38,
    "cross_stick": 37,
    "hat_closed": 42,
    "hat_open": 46,
    "hat_foot": 44,
    "tom1": 43,
    "tom2": 47,
    "tom3": 50,
    "crash": 49,
    "crash2": 57,
    "ride": 51,
    "ride_bell": 53,
    "clap": 39,
}
#: Tuned on, never trained: what training knows only from made kits and a hand kit.
_GM_RARE = {"splash": 55, "china": 52, "tambourine": 54, "cowbell": 56, "shaker": 82, "block": 76}
#: kit -> sound bank, drum set, keys of its parts.
BANKS = {
    "gm-rare": (BANK, 0, _GM_RARE),
    "csound": (BANK_2, 0, {"hat_open": 46, "ride_bell": 53, "splash": 55}),
    "chip": (CHIP, 0, _GM),
    "fluid-power": (FLUID, 16, _GM),
    "fluid-jazz": (FLUID, 32, _GM),
    "fluid-brush": (FLUID, 40, _GM),
}
_LONGEST = 3.0


def cut(sound: np.ndarray) -> np.ndarray:
    """From the physical onset on; the tail faded where it is long."""
    loud = np.abs(sound)
    start = max(int(np.argmax(loud > 0.04 * loud.max())) - 8, 0)
    out = sound[start : start + int(_LONGEST * RATE)].astype(np.float32).copy()
    fade = min(2000, len(out))
    out[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return out


def _read(path: Path) -> np.ndarray:
    sound, rate = sf.read(path, dtype="float32", always_2d=True)
    return cut(soxr.resample(sound.mean(axis=1), rate, RATE))


def _patch(path: Path) -> np.ndarray:
    """The first sample of a GUS patch: 129 bytes of header, 63 of instrument, 47 of layer, then 96 of
    sample (length at 8, rate at 20, modes at 55: 16 bits, unsigned) and its data."""
    raw = path.read_bytes()[129 + 63 + 47 :]
    (size,), (rate,), mode = (
        struct.unpack("<I", raw[8:12]),
        struct.unpack("<H", raw[20:22]),
        raw[55],
    )
    kind, zero, full = (
        (("<u2", 32768, 32768) if mode & 2 else ("<i2", 0, 32768))
        if mode & 1
        else (("u1", 128, 128) if mode & 2 else ("i1", 0, 128))
    )
    sound = (np.frombuffer(raw[96 : 96 + size], kind).astype(np.float32) - zero) / full
    return cut(soxr.resample(sound, rate, RATE))


@cache
def kit(name: str) -> dict[str, list[np.ndarray]]:
    """Layers of each part, softest first, the loudest with peak 1."""
    if name.startswith("made-"):
        return _kept(name)
    if name in PATCHED:
        raw = {
            p: [_patch(next(PATCHES.glob(f"{key:03d}_*.pat")))] for p, key in PATCHED[name].items()
        }
    elif name in BANKS or name.startswith("gm-"):
        bank.SOUND_BANK, program, keys = BANKS.get(name) or (BANK, int(name[3:]), _GM)
        raw = {p: [_gm_hit(key, v, program) for v in (40, 80, 120)] for p, key in keys.items()}
    else:
        folder = KITS / _FOLDER.get(name, name)
        raw = {p: [_read(f) for f in sorted(folder.glob(g))] for p, g in FILES[name].items()}
    made = {}
    for part, shots in raw.items():
        shots = [s for s in shots if len(s) > 500 and np.abs(s).max() > 1e-4]
        if shots:
            shots.sort(key=lambda s: float(np.sqrt((s[:6000] ** 2).mean())))
            peak = max(float(np.abs(s).max()) for s in shots)
            made[part] = [s / peak for s in shots]
    return made


def _kept(name: str) -> dict[str, list[np.ndarray]]:
    """A made kit, kept as a file since it takes seconds to make."""
    path = MADE_KITS / f"{name}.npz"
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        made = drum_synth.kit(int(name[5:]))
        part = path.with_name(f"{name}-{os.getpid()}.npz")
        np.savez(part, **{f"{p} {k}": x for p, xs in made.items() for k, x in enumerate(xs)})
        part.replace(path)
    kept: dict[str, list[np.ndarray]] = {}
    with np.load(path) as arrays:
        for key in arrays.files:
            kept.setdefault(key.split(" ")[0], []).append(arrays[key])
    return kept


def _gm_hit(key: int, velocity: int, program: int) -> np.ndarray:
    track = mido.MidiTrack(
        [
            mido.Message("program_change", channel=9, program=program),
            mido.Message("note_on", channel=9, note=key, velocity=velocity, time=240),
            mido.Message("note_off", channel=9, note=key, time=1920),
        ]
    )
    return cut(bank.fluidsynth(mido.MidiFile(tracks=[track])).mean(axis=1))


PROGRAMS = {
    "bass": (32, 33, 34, 36, 38, 39),
    "chord": (0, 4, 5, 16, 18, 19, 24, 25, 27, 28, 29, 30, 48, 50, 61, 62, 89),
    "lead": (40, 52, 53, 56, 65, 66, 73, 80, 81, 85),
}


#: Banks that the band plays on.
BAND = (BANK, BANK_2)


@cache
def notes(program: int, source: str = BANK) -> dict[int, np.ndarray]:
    """Two-second notes of one General MIDI program, every third semitone: key -> sound."""
    bank.SOUND_BANK = source
    low, high = (28, 56) if program in PROGRAMS["bass"] else (48, 84)
    keys = range(low, high, 3)
    track = mido.MidiTrack([mido.Message("program_change", program=program)])
    for key in keys:  # two seconds sounding, one to die away
        track.append(mido.Message("note_on", note=key, velocity=100, time=960))
        track.append(mido.Message("note_off", note=key, time=1920))
    sound = bank.fluidsynth(mido.MidiFile(tracks=[track])).mean(axis=1).astype(np.float32)
    made = {}
    for i, key in enumerate(keys):
        start = int((1.0 + 3.0 * i) * RATE)
        own = sound[start : start + int(2.2 * RATE)]
        if len(own) and np.abs(own).max() > 1e-4:
            made[key] = own / np.abs(own).max()
    return made


@cache
def voices() -> list[np.ndarray]:
    """Spoken nonsense, which a network must not take for drums: syllables of espeak-ng."""
    rng = np.random.default_rng(4)
    made = []
    for _ in range(30):
        text = " ".join(
            "".join(rng.choice(["ta", "ka", "so", "li", "she", "pu", "na", "rei", "mo", "st"], 2))
            for _ in range(12)
        )
        command = [
            "espeak-ng",
            "-v",
            str(rng.choice(["en", "en+f3", "it", "de", "es+f2", "fr"])),
            "-p",
            str(rng.integers(20, 90)),
            "-s",
            str(rng.integers(90, 170)),
            "--stdout",
            text,
        ]
        sound, rate = sf.read(
            BytesIO(subprocess.run(command, check=True, capture_output=True).stdout),
            dtype="float32",
        )
        sound = soxr.resample(sound, rate, RATE)
        made.append(sound / (np.abs(sound).max() + 1e-9))
    return made
