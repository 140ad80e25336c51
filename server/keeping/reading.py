"""A score file or a song package from outside is read by a process of its own, with bounds on time
and memory and without a network: whatever it holds, it harms nobody else's work."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from library.quota import ending_of

from orchesis.errors import BadScore
from orchesis.formats import package, package_parts, registry
from orchesis.hearing import programs
from orchesis.score import Score

_SECONDS = 20.0
_READ = 2  # the code with which the shell command ends on bad input
_TOO_MUCH = "{} can't be read: it needs more than such a file should."
_SELF, _LOST = "orchesis: ", "orchesis: not kept: "


def read(name: str, data: bytes) -> tuple[Score, list[str]]:
    """(the score of a file, what could not be kept of it). Raises BadScore in one sentence."""
    file_format = registry.format_of(name)
    if file_format.read is None:
        raise BadScore(f"A {file_format.name} is only written, not read.")
    ending = next(e for e in file_format.endings if name.lower().endswith(e))
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / f"{_stem(name)}{ending}"
        out = Path(folder) / f"read{package_parts.ENDING}"
        source.write_bytes(data)
        lines = _in_a_process_of_its_own(f"“{name}”", "convert", str(source), str(out))
        if not out.exists():
            raise BadScore(_TOO_MUCH.format(f"“{name}”"))
        with package.opened(out) as opened:
            score = opened.score(opened.manifest.arrangements[0].score)
        return score, _not_kept(lines)


def check(path: Path) -> list[str]:
    """Reads a song package as a whole, so that nothing it holds surprises us; what can't be kept
    of it, in words. Raises BadScore."""
    return _not_kept(_in_a_process_of_its_own("This package", "check", str(path)))


def _not_kept(lines: list[str]) -> list[str]:
    return [line.removeprefix(_LOST).rstrip(".") for line in lines if line.startswith(_LOST)]


def _in_a_process_of_its_own(name: str, *command: str) -> list[str]:
    """What a command of the shell said beside its work. Raises BadScore where it refused."""
    try:
        ended = programs.run(
            ["env", "OPENBLAS_NUM_THREADS=1", sys.executable, "-m", "orchesis.cli", *command],
            seconds=_SECONDS,
        )
    except programs.TookTooLong:
        raise BadScore(f"{name} takes too long to read; save it anew, or a part of it.") from None
    lines = ended.err.decode("utf-8", "replace").splitlines()
    if ended.code == _READ and lines:
        raise BadScore(lines[-1].removeprefix(_SELF))
    if ended.code != 0:
        raise BadScore(_TOO_MUCH.format(name))
    return lines


@contextmanager
def at_a_path(file: IO[bytes] | Path) -> Iterator[Path]:
    """A file as one of this disk."""
    if isinstance(file, Path):
        yield file
        return
    with tempfile.NamedTemporaryFile() as temporary:
        file.seek(0)
        shutil.copyfileobj(file, temporary)
        temporary.flush()
        yield Path(temporary.name)


def _stem(name: str) -> str:
    """A name for the file on this disk, which can lead nowhere."""
    stem = "".join(c for c in Path(name).stem if c.isalnum() or c in " -")[:80].strip()
    return stem or ending_of(name) or os.urandom(4).hex()
