"""What makes code hard to read and a program can see: long functions, long files, participles as
names. The lists of what is still so may only get shorter."""

from __future__ import annotations

import ast
from pathlib import Path

ROOT = Path(__file__).parents[2]
FOLDERS = ("orchesis", "server", "run", "bench", "materials", "training")
MAX_LINES_OF_A_FUNCTION, MAX_LINES_OF_A_FILE = 60, 400
#: Names that say what was done to a value, not what it is.
PARTICIPLES = {"made", "own", "found", "told", "known", "said"}
LONG_FUNCTIONS = {
    "bench/__main__.py main",
    "bench/desk.py figures",
    "bench/load.py table",
    "bench/meaning.py from_sound",
    "bench/meaning.py table",
    "bench/records.py _told",
    "materials/made_up_songs.py made_up",
    "materials/mix.py _band",
    "materials/mix.py _drums",
    "materials/parts_by_style.py _play",
    "orchesis/analysis_file.py _score",
    "orchesis/analysis_file.py analysis",
    "orchesis/formats/count.py _assemble",
    "orchesis/formats/count.py read",
    "orchesis/formats/tab.py _read",
    "orchesis/grooves/reader.py groove",
    "orchesis/hearing/align.py laid_over",
    "orchesis/teaching/stages.py _mistake",
    "run/screenshots.py shots",
}
LONG_FILES = {
    "materials/drum_synth.py",
    "materials/kits.py",
    "materials/mix.py",
    "materials/parts_by_style.py",
    "materials/songs.py",
    "orchesis/feel/reader.py",
    "orchesis/grooves/reader.py",
    "orchesis/hands/solver.py",
    "orchesis/teaching/judging.py",
}


def sources() -> list[Path]:
    return [
        path
        for folder in FOLDERS
        for path in sorted((ROOT / folder).rglob("*.py"))
        if "migrations" not in path.parts
    ]


def name(path: Path) -> str:
    return path.relative_to(ROOT).as_posix()


def test_no_function_is_longer_than_a_screen():
    long = {
        f"{name(path)} {node.name}"
        for path in sources()
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef)
        and (node.end_lineno or 0) - node.lineno >= MAX_LINES_OF_A_FUNCTION
    }
    assert long == LONG_FUNCTIONS, "Divide them; strike from the list what was divided."


def test_no_file_is_longer_than_its_job():
    long = {
        name(path) for path in sources() if len(path.read_text().splitlines()) > MAX_LINES_OF_A_FILE
    }
    assert long == LONG_FILES, "Divide them; strike from the list what was divided."


def test_values_are_named_by_what_they_hold():
    bound = [
        f"{name(path)}:{node.lineno} {node.id}"
        for path in sources()
        if path.relative_to(ROOT).parts[0] in ("orchesis", "server", "run")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store)
        if node.id in PARTICIPLES
    ]
    assert len(bound) <= 20, bound
