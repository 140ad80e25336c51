"""The lock holds all that is needed, also on the oldest Python that we promise."""

from __future__ import annotations

import re
from importlib import metadata
from pathlib import Path

import pytest
from packaging.markers import default_environment
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

ROOT = Path(__file__).resolve().parents[2]
_LINE = re.compile(r"^([A-Za-z0-9_.-]+)==(\S+?)(?: ; (.+?))? \\$", re.MULTILINE)


def locked(environment: dict[str, str]) -> dict[str, str]:
    """Version of each package that the lock installs in an environment."""
    made = {}
    for name, version, marker in _LINE.findall((ROOT / "requirements.txt").read_text()):
        if not marker or Requirement(f"{name}; {marker}").marker.evaluate(environment):
            made[canonicalize_name(name)] = version
    return made


def wanted() -> list[Requirement]:
    lines = (ROOT / "requirements.in").read_text().splitlines()
    return [Requirement(line) for line in lines if line and not line.startswith("#")]


def missing(environment: dict[str, str]) -> list[str]:
    """What a resolver would miss: it follows every package's own requirements."""
    have, waiting, seen, found = locked(environment), wanted(), set(), []
    while waiting:
        asked = waiting.pop()
        name = canonicalize_name(asked.name)
        if name not in have or not asked.specifier.contains(have[name], prereleases=True):
            found.append(str(asked))
            continue
        key = (name, frozenset(asked.extras))
        if key in seen:
            continue
        seen.add(key)
        try:
            own = metadata.requires(asked.name) or []
        except metadata.PackageNotFoundError:
            continue  # needed on that Python only; not installed on this one
        for text in own:
            more = Requirement(text)
            extras = ["", *asked.extras]
            if not more.marker or any(
                more.marker.evaluate({**environment, "extra": e}) for e in extras
            ):
                waiting.append(more)
    return found


@pytest.mark.parametrize("python", ["3.11.0", "3.11.2", "3.11.9"])
def test_nothing_is_missing_on_any_python_3_11(python):
    environment = {**default_environment(), "python_full_version": python, "python_version": "3.11"}
    assert missing(environment) == []


def test_a_lock_that_lacks_a_package_is_told():
    environment = {
        **default_environment(),
        "python_full_version": "3.11.2",
        "python_version": "3.11",
    }
    assert "async-timeout" in locked(environment)
    assert "async-timeout" not in locked({**environment, "python_full_version": "3.11.9"})


def test_the_lock_names_no_address():
    assert "://" not in (ROOT / "requirements.txt").read_text()
