"""Runs every check and test: core, server, web units, browser. Ends on the first kind that fails.

python run/test.py [--only lint|web|core|server|house|browser]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
WEB = ROOT / "web"

#: The server's apps are found by their own names, also by what checks types and imports.
ENVIRONMENT = {**os.environ, "PYTHONPATH": str(ROOT / "server")}

#: What sounds while it is looked at has a processor for itself.
SOUNDING = [f"tests/browser/test_{name}.py" for name in ("loops", "sound", "practice")]

KINDS: dict[str, list[tuple[list[str], Path]]] = {
    "lint": [
        ([str(BIN / "ruff"), "check", "."], ROOT),
        ([str(BIN / "ruff"), "format", "--check", "-q", "."], ROOT),
        ([str(BIN / "mypy")], ROOT),
        ([str(BIN / "lint-imports"), "--no-logo"], ROOT),
        ([sys.executable, "run/generate.py", "--check"], ROOT),
        (["npx", "eslint", "src"], WEB),
        (["npx", "vue-tsc", "--noEmit"], WEB),
    ],
    "web": [(["npx", "vitest", "run"], WEB)],
    "core": [
        (
            [
                sys.executable,
                "-m",
                "pytest",
                "-n",
                "2",
                "--doctest-modules",
                "tests/core",
                "orchesis/score",
                "orchesis/formats",
                "orchesis/beats",
            ],
            ROOT,
        )
    ],
    "server": [([sys.executable, "-m", "pytest", "-n", "2", "tests/server"], ROOT)],
    "house": [([sys.executable, "-m", "pytest", "tests/house"], ROOT)],
    "browser": [
        (
            [
                sys.executable,
                "-m",
                "pytest",
                "-n",
                "2",
                "--dist",
                "loadfile",
                "tests/browser",
                *(f"--ignore={path}" for path in SOUNDING),
            ],
            ROOT,
        ),
        ([sys.executable, "-m", "pytest", *SOUNDING], ROOT),
    ],
}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", choices=KINDS)
    only = parser.parse_args().only
    for kind, commands in KINDS.items():
        if only and kind != only:
            continue
        for command, folder in commands:
            print(f"== {kind}: {' '.join(Path(c).name for c in command[:3])}", flush=True)
            start = time.monotonic()
            done = subprocess.run(command, cwd=folder, env=ENVIRONMENT)
            print(f"   {time.monotonic() - start:.0f} s", flush=True)
            if done.returncode:
                sys.exit(f"The {kind} tests failed.")


if __name__ == "__main__":
    main()
