"""Servers for the tests: our own MariaDB and Redis in a folder of their own."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "run"))
sys.path.insert(0, str(ROOT))
sys.path.insert(0, str(ROOT / "server"))

# Settings read $ORCHESIS_VAR when Django is imported, so it is chosen here.
if "ORCHESIS_VAR" not in os.environ:
    os.environ["ORCHESIS_VAR"] = tempfile.mkdtemp(prefix="orchesis-test-")
