"""The shell commands: exit codes, whole files or none, one line for bad input."""

import json
import re

from orchesis.cli import main
from tests import songs


def test_listen_then_chart_without_a_server(rock_file, tmp_path, capsys):
    out = tmp_path / "rock.json"
    assert main(["listen", str(rock_file), "--json", str(out)]) == 0
    assert "Finding the pulse" in capsys.readouterr().err
    data = json.loads(out.read_text())
    assert data["format"] == "orchesis-analysis" and data["beats"][0]["bar"] == 1
    files = {k: tmp_path / f"c.{k}" for k in ("pdf", "musicxml", "midi")}
    args = [a for k, f in files.items() for a in (f"--{k}", str(f))]
    assert main(["chart", str(out), *args, "--svg", str(tmp_path / "svg")]) == 0
    assert all(f.stat().st_size > 500 for f in files.values())
    assert (tmp_path / "svg" / "rock - chart - page 1.svg").exists()
    assert not list(tmp_path.glob("**/*.part"))


def test_chart_reads_count_text(tmp_path):
    source = tmp_path / "g.count"
    source.write_text(songs.ROCK)
    assert main(["chart", str(source), "--midi", str(tmp_path / "g.mid")]) == 0


def test_bad_input_gives_one_line_and_exit_2(tmp_path, capsys):
    text = tmp_path / "words.txt"
    text.write_text("no sound here")
    broken = tmp_path / "broken.json"
    broken.write_text("{")
    binary = tmp_path / "x.json"
    binary.write_bytes(b"\xff\xfe\x00")
    for args in (
        ["listen", str(text), "--json", str(tmp_path / "o")],
        ["listen", str(tmp_path / "none.wav"), "--json", str(tmp_path / "o")],
        ["chart", str(broken), "--pdf", str(tmp_path / "o")],
        ["chart", str(binary), "--pdf", str(tmp_path / "o")],
        ["chart", str(tmp_path / "none.json"), "--pdf", str(tmp_path / "o")],
    ):
        assert main(args) == 2
        said = capsys.readouterr().err.strip().splitlines()
        assert len(said) == 1 and said[0].startswith("orchesis: "), said
    assert not (tmp_path / "o").exists()


def test_the_stickings_of_a_chart_are_the_solver_s(tmp_path):
    source = tmp_path / "fill.count"
    source.write_text(
        "tempo: 100\nsnare: 1 1e 1& 1a 2 2e 2& 2a\ntom_floor: 3 3e 3& 3a 4 4e 4& 4a\n"
    )
    assert main(["chart", str(source), "--sticking", "all", "--svg", str(tmp_path)]) == 0
    [page] = tmp_path.glob("*.svg")
    sticks = re.findall(r'class="stick"[^>]*>([RL])<', page.read_text())
    assert "".join(sticks) == "RL" * 8
