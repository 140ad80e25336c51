"""Tests in tests/server get our own MariaDB and Redis, in a folder of their own.

They start while this file is imported: settings are read, and models imported, by the
conftest of tests/server, which pytest loads next.
"""

from __future__ import annotations

import atexit
import os
import shutil
import sys
import tempfile
from pathlib import Path

from hypothesis import settings

# How long an example takes says how busy the machine is, not whether the code is right.
settings.register_profile("orchesis", deadline=None)
settings.load_profile("orchesis")

ROOT = Path(__file__).resolve().parent.parent
for folder in ("run", "server", "."):
    sys.path.insert(0, str(ROOT / folder))


def _server_tests_are_asked_for() -> bool:
    paths = [Path(a.split("::")[0]) for a in sys.argv[1:] if Path(a.split("::")[0]).exists()]
    return not paths or any(
        not {"core", "browser", "house"} & set(p.resolve().parts) for p in paths
    )


_services = None


def pytest_unconfigure() -> None:
    """Ends the servers; safe to be called twice."""
    if _services is not None:
        _services.stop()
        shutil.rmtree(_services.var, ignore_errors=True)


# The workers of a parallel run don't see what was asked for; they inherit the answer.
asked = os.environ.setdefault("ORCHESIS_TEST_SERVERS", str(_server_tests_are_asked_for()))
if asked == "True" and "PYTEST_XDIST_WORKER" in os.environ:
    import django

    django.setup()  # with a database of its own on the servers of the whole run
elif asked == "True":
    from services import Services

    os.environ["ORCHESIS_VAR"] = tempfile.mkdtemp(prefix="orchesis-test-")
    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    _services = Services(Path(os.environ["ORCHESIS_VAR"]))
    atexit.register(pytest_unconfigure)  # also where a test file can't be imported
    _services.start()
    import django

    django.setup()
