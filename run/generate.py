"""Writes what is generated from the core and the API; with --check only compares.

The guide's page of keys is written by the page's own tests: npx vitest run src/keys -u
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from orchesis.formats.package_parts import Line, Manifest
from orchesis.page_rules import rules

ROOT = Path(__file__).resolve().parent.parent
MANAGE = [sys.executable, str(ROOT / "server" / "manage.py")]
PACKAGE = ROOT / "docs" / "song-package.schema.json"
RULES = ROOT / "web" / "src" / "kit" / "rules.json"
TYPES = ROOT / "web" / "src" / "api" / "schema.ts"


def run(*command: str) -> None:
    env = {**os.environ, "ORCHESIS_VAR": tempfile.gettempdir()}
    subprocess.run(command, check=True, cwd=ROOT / "web", env=env, stdout=subprocess.DEVNULL)


def main() -> None:
    before = {p: p.read_bytes() if p.exists() else b"" for p in (RULES, TYPES, PACKAGE)}
    with tempfile.NamedTemporaryFile(suffix=".yml") as schema:
        run(*MANAGE, "spectacular", "--file", schema.name, "--fail-on-warn")
        run(
            "npx",
            "openapi-typescript",
            schema.name,
            "--default-non-nullable",
            "false",
            "-o",
            str(TYPES),
        )
    RULES.write_text(json.dumps(rules(), indent=1) + "\n")
    described = {"song.json": Manifest.model_json_schema(), "line": Line.model_json_schema()}
    PACKAGE.write_text(json.dumps(described, indent=1) + "\n")
    if "--check" not in sys.argv:
        return
    drifted = [p.name for p, old in before.items() if p.read_bytes() != old]
    for path, old in before.items():
        path.write_bytes(old)
    if drifted:
        sys.exit(f"{', '.join(drifted)} no longer match the core; run “make generate”.")


if __name__ == "__main__":
    main()
