"""Runs every check and test: core, server, web units, browser. Ends on the first kind that fails.

What starts no server of its own runs two at a time.

python run/test.py [--only lint|web|core|server|house|browser]
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
BIN = Path(sys.executable).parent
WEB = ROOT / "web"

#: The server's apps are found by their own names, also by what checks types and imports.
ENVIRONMENT = {**os.environ, "PYTHONPATH": str(ROOT / "server")}

#: What sounds while it is looked at has a processor for itself.
SOUNDING = "tests/browser/test_loudspeaker.py"

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
                "tests/tools",
                "orchesis",
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
                f"--ignore={SOUNDING}",
            ],
            ROOT,
        ),
        ([sys.executable, "-m", "pytest", SOUNDING], ROOT),
    ],
}


#: Kinds whose commands hardly wait: two at a time take half as long.
TOGETHER = ("lint", "web")


def told(command: list[str], took: float) -> str:
    return f"== {' '.join(Path(c).name for c in command[:3])}: {took:.0f} s"


def quietly(kind: str, commands: list[tuple[list[str], Path]]) -> None:
    """Runs commands two at a time, and shows what each said once it is over."""

    def one(command: list[str], folder: Path) -> int:
        start = time.monotonic()
        done = subprocess.run(
            command, cwd=folder, env=ENVIRONMENT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        output = done.stdout.decode(errors="replace").rstrip()
        print(f"{told(command, time.monotonic() - start)}\n{output}".rstrip(), flush=True)
        return done.returncode

    with ThreadPoolExecutor(2) as pool:
        if any(pool.map(lambda own: one(*own), commands)):
            sys.exit(f"The {kind} tests failed.")


def aloud(kind: str, commands: list[tuple[list[str], Path]]) -> None:
    for command, folder in commands:
        print(f"== {kind}: {' '.join(Path(c).name for c in command[:3])}", flush=True)
        start = time.monotonic()
        done = subprocess.run(command, cwd=folder, env=ENVIRONMENT)
        print(f"   {time.monotonic() - start:.0f} s", flush=True)
        if done.returncode:
            sys.exit(f"The {kind} tests failed.")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--only", choices=KINDS)
    only = parser.parse_args().only
    asked = [kind for kind in KINDS if only in (None, kind)]
    if few := [kind for kind in asked if kind in TOGETHER]:
        quietly(" and ".join(few), [command for kind in few for command in KINDS[kind]])
    for kind in asked:
        if kind not in TOGETHER:
            aloud(kind, KINDS[kind])


if __name__ == "__main__":
    main()
