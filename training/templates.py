"""Makes orchesis/hearing/templates.npz: what each kit part sounds like at its attack.

    python -m training.templates    needs Debian's hydrogen-drumkits

One template (unit sum, shape BANDS) per kit and part: the mean spectrum of the first
60 ms of its one-shots. The demo kit (fluid-soundfont-gm) is not among them.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile as sf
import soxr

from orchesis.hearing.spectrum import HOP, RATE, WINDOW, _filters, magnitudes

KITS = Path("/usr/share/hydrogen/data/drumkits")
FILES: dict[str, dict[str, str]] = {
    "BJA_Pacific": {
        "kick": "BD_0[5-8]*", "snare": "SN_0[3-8]*", "hat_closed": "HH_0*", "hat_open": "HH2_0*",
        "tom_mid": "TM_0*", "tom_floor": "TM2_0*", "crash": "CB*_0*", "ride": "RD_0*",
        "ride_bell": "BL_0*",
    },
    "ColomboAcousticDrumkit": {
        "kick": "bassdrum*", "snare": "snare*", "cross_stick": "stick-rim*",
        "hat_closed": "hihat-closed*", "hat_open": "hihat-open*", "tom_floor": "tom-low*",
        "tom_mid": "tom-mid*", "tom_high": "tom-hi*", "crash": "crash*crash*",
        "ride_bell": "crash20i__ride-cup*",
    },
    "ForzeeStereo": {
        "kick": "Kick-*", "snare": "Snare-*", "cross_stick": "RimClick-*",
        "hat_closed": "HiHatClosed-*", "hat_open": "HiHatOpen-*", "tom_floor": "TomLow-*",
        "tom_mid": "TomMid-*", "tom_high": "TomHigh-*", "crash": "Crash*", "ride": "Ride-*",
        "ride_bell": "RideBell*",
    },
    "Millo_MultiLayered2": {
        "kick": "bd_*", "snare": "[jr]snare_*", "cross_stick": "rim_*",
        "hat_closed": "hhclosed_*", "hat_open": "hhopen_*", "tom_floor": "floortom_*",
        "tom_mid": "tom_*", "ride": "ride_*", "crash": "crash_*",
    },
    "VariBreaks": {
        "kick": "VP Kick*", "snare": "VP Snare*", "hat_closed": "VP Hat*Cl*",
        "hat_open": "VP Hat*Op*", "tom_floor": "VP Tom Low*", "tom_mid": "VP Tom Mid*",
        "tom_high": "VP Tom Hi*",
    },
    "ElectricEmpireKit": {"kick": "EE_Kick_[LHP]*", "snare": "EE_Snare_*",
                          "hat_closed": "EE_Hat_Cl*"},
}  # fmt: skip
OUT = Path(__file__).parent.parent / "orchesis" / "hearing" / "templates.npz"
ATTACK = 6  # frames


def attack(path: Path) -> np.ndarray:
    """Mean magnitude in bands of the first 60 ms behind the physical onset."""
    sound, rate = sf.read(path, dtype="float32", always_2d=True)
    mono = soxr.resample(sound.mean(axis=1), rate, RATE)
    start = int(np.argmax(np.abs(mono) > 0.05 * np.abs(mono).max()))
    mono = np.pad(mono[start:], (WINDOW // 2, WINDOW))
    frames = np.lib.stride_tricks.sliding_window_view(mono, WINDOW)[: ATTACK * HOP : HOP]
    shape = (magnitudes(frames) @ _filters()[0]).mean(axis=0)
    return shape / shape.sum()


def main() -> None:
    names, shapes = [], []
    for kit, parts in FILES.items():
        for part, pattern in parts.items():
            files = sorted((KITS / kit).glob(pattern))
            if not files:
                print("nothing for", kit, part)
                continue
            mean = np.mean([attack(f) for f in files], axis=0)
            names.append(part)
            shapes.append(mean / mean.sum())
    np.savez_compressed(OUT, parts=np.array(names), shapes=np.array(shapes, dtype=np.float32))
    print(len(names), "templates", OUT.stat().st_size, "bytes")


if __name__ == "__main__":
    main()
