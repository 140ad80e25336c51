"""The ``orchesis`` command: thin faces on the core, without a server.

Exit 0 when done, 2 with one clear line on standard error for bad input.
"""

from __future__ import annotations

import argparse
import json
import re
import sys
from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from orchesis.errors import BadScore, OrchesisError
from orchesis.score import Score
from orchesis.score.player import HANDS, SCHOOLS, Player

if TYPE_CHECKING:
    from orchesis.formats.registry import Read


def main(argv: list[str] | None = None) -> int:
    args = _parser().parse_args(argv)
    try:
        args.run(args)
    except OrchesisError as problem:
        print(f"orchesis: {problem}", file=sys.stderr)
        return 2
    except OSError as problem:
        reason = problem.strerror or problem
        print(f"orchesis: {problem.filename or 'the file'}: {reason}.", file=sys.stderr)
        return 2
    return 0


#: What argparse gives for adding commands; its type has no public name.
Commands = Any


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="orchesis", description=__doc__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for add in (_add_hearing, _add_pages, _add_findings, _add_practice, _add_files, _add_sound):
        add(commands)
    return parser


def _add_hearing(commands: Commands) -> None:
    listen = commands.add_parser("listen", help="hear one recording")
    listen.add_argument("audio", type=Path)
    listen.add_argument("--json", type=Path, required=True, metavar="OUT")
    listen.add_argument("--drums", type=Path, metavar="FLAC", help="write the drums alone")
    listen.add_argument(
        "--no-repetition",
        action="store_true",
        help="let the song's own repetition settle nothing",
    )
    listen.set_defaults(run=_listen)


def _add_pages(commands: Commands) -> None:
    chart = commands.add_parser("chart", help="write pages and files")
    chart.add_argument("score", type=Path, help="an analysis file, or any format we read")
    for name in ("pdf", "musicxml", "midi", "tab", "mei"):
        chart.add_argument(f"--{name}", type=Path, metavar="F")
    chart.add_argument("--svg", type=Path, metavar="DIR", help="one SVG a page")
    chart.add_argument("--png", type=Path, metavar="DIR", help="one picture a page")
    chart.add_argument(
        "--view",
        default="full",
        metavar="LIST",
        help="full, road-map, limbs, counting, excerpts, variations, stages; with commas between",
    )
    chart.add_argument("--paper", default="A4", choices=["A4", "letter", "tablet"])
    chart.add_argument("--sticking", default="none", choices=["none", "fills", "all"])
    chart.add_argument("--counts", default="none", choices=["none", "hard", "all"])
    chart.set_defaults(run=_chart)


def _add_findings(commands: Commands) -> None:
    read = commands.add_parser("read", help="grooves, fills, feel and doubts of a score")
    read.add_argument("score", type=Path, help="an analysis file, or any format we read")
    read.add_argument("--json", type=Path, required=True, metavar="OUT")
    read.add_argument(
        "--threshold",
        type=float,
        default=0.75,
        help="share of the bars from which on a stroke is core",
    )
    read.set_defaults(run=_read)
    stick = commands.add_parser("stick", help="a limb for each stroke, and how hard it is")
    stick.add_argument("score", type=Path, help="an analysis file, or any format we read")
    stick.add_argument("--hand", choices=HANDS)
    stick.add_argument("--school", choices=SCHOOLS)
    stick.add_argument("--kit", type=Path, metavar="FILE", help="a player and the kit, as JSON")
    stick.add_argument("--json", type=Path, required=True, metavar="OUT")
    stick.set_defaults(run=_stick)


def _add_practice(commands: Commands) -> None:
    teach = commands.add_parser("stages", help="the stage plan of a part, with its tempi")
    teach.add_argument("score", type=Path, help="an analysis file, or any format we read")
    teach.add_argument("--school", default="computed", help="computed, limbs, hands, steady, ...")
    teach.add_argument("--bars", metavar="FIRST-LAST", help="of these bars; else of the first two")
    teach.add_argument("--json", type=Path, required=True, metavar="OUT")
    teach.set_defaults(run=_stages)
    judged = commands.add_parser("judge", help="what a performance was like, against the part")
    judged.add_argument("score", type=Path, help="an analysis file, or any format we read")
    judged.add_argument(
        "performance", type=Path, metavar="PERFORMANCE", help="a MIDI file, or a recording"
    )
    judged.add_argument("--json", type=Path, required=True, metavar="OUT")
    judged.set_defaults(run=_judge)


def _add_files(commands: Commands) -> None:
    convert = commands.add_parser("convert", help="between formats, told by their endings")
    convert.add_argument("score", type=Path, help=".json, .count, .musicxml, .mid, .tab or .csv")
    convert.add_argument("out", type=Path, metavar="OUT")
    convert.add_argument(
        "--feel",
        choices=["grid", "song", "measured"],
        default="grid",
        help="when the strokes of a MIDI file sound",
    )
    convert.add_argument(
        "--keys", type=Path, metavar="FILE", help="MIDI keys of a kit: lines like “snare: 38, 40”"
    )
    convert.add_argument("--strict", action="store_true", help="refuse a tab at its first fault")
    convert.set_defaults(run=_convert)
    check = commands.add_parser("check", help="whether a song package opens, all of it")
    check.add_argument("package", type=Path)
    check.set_defaults(run=_check)


def _add_sound(commands: Commands) -> None:
    sound = commands.add_parser("sound", help="the written part as sound")
    sound.add_argument("score", type=Path, help="an analysis file, or any format we read")
    sound.add_argument("out", type=Path, metavar="OUT.wav")
    sound.add_argument("--tempo", type=float, metavar="BPM")
    sound.add_argument("--click", choices=["quarters", "8ths", "16ths", "triplets"], default="")
    sound.add_argument("--mute", default="", metavar="LIMBS_OR_LAYERS", help="RF,ghosts,...")
    sound.add_argument("--feel", choices=["grid", "song", "measured"], default="grid")
    sound.add_argument("--count", action="store_true", help="counted aloud")
    sound.add_argument("--stage", type=int, metavar="N", help="a stage of learning it, from 1")
    sound.set_defaults(run=_sound)


def _listen(args: argparse.Namespace) -> None:
    from orchesis.analysis_file import analysis
    from orchesis.hearing import STEPS, listen
    from orchesis.transcribing import transcribe

    report = _reporter({key: label for key, label, _ in STEPS})
    hearing = listen(args.audio, repetition=not args.no_repetition, drums=args.drums, report=report)
    document = analysis(hearing, transcribe(hearing, title=args.audio.stem))
    document["title"] = args.audio.stem
    _write(args.json, (json.dumps(document) + "\n").encode())
    for note in hearing.notes:
        print(f"orchesis: {note}", file=sys.stderr)


def _read_score(
    path: Path, readers: Mapping[str, Read] | None = None, *, limbs: bool = True
) -> Score:
    """A score of any format we read; an analysis file by its ending .json. readers: by the name of
    a format, what reads it instead. limbs: whether each stroke gets one, as the solver has it."""
    from orchesis.analysis_file import score_of
    from orchesis.formats import registry
    from orchesis.hands import with_limbs

    if path.suffix != ".json":
        read = (readers or {}).get(registry.format_of(path.name).name)
        data = path.read_bytes()
        score, lost = read(data, path.stem) if read else registry.read(path.name, data, path.stem)
        for what in lost:
            print(f"orchesis: not kept: {what}.", file=sys.stderr)
        return with_limbs(score) if limbs else score
    try:
        data = json.loads(path.read_text(encoding="utf-8"))
    except UnicodeDecodeError:
        raise BadScore(f"“{path.name}” is not a text file; give an analysis file.") from None
    except json.JSONDecodeError as problem:
        raise BadScore(f"“{path.name}” is not JSON (line {problem.lineno}).") from None
    return score_of(data, title=path.stem)


def _stages(args: argparse.Namespace) -> None:
    from orchesis.formats import count_writer
    from orchesis.teaching.stages import plan

    score = _read_score(args.score)
    first, last = 1, min(2, score.bar_count)
    if args.bars:
        bars_named = re.fullmatch(r"([0-9]{1,4})-([0-9]{1,4})", args.bars)
        if not bars_named or not 1 <= int(bars_named[1]) <= int(bars_named[2]) <= score.bar_count:
            raise BadScore(f"Bars are given as FIRST-LAST, of 1 to {score.bar_count}.")
        first, last = int(bars_named[1]), int(bars_named[2])
    stages_out = [
        {
            "title": s.title,
            "score": count_writer.write(s.score) or "kick: -",
            "tempo": s.ladder.start,
            "goal": s.ladder.goal,
            "plays": s.plays,
            "says": s.says,
            "with_song": s.with_song,
        }
        for s in plan(score, range(first, last + 1), args.school)
    ]
    _write(args.json, (json.dumps({"stages": stages_out}) + "\n").encode())


def _judge(args: argparse.Namespace) -> None:
    score = _read_score(args.score)
    if args.performance.suffix.lower() in _MIDI:
        from orchesis.teaching.judging import judge
        from orchesis.teaching.simulated import from_midi

        judged_take = judge(score, from_midi(args.performance.read_bytes()))
    else:
        from orchesis.practice_take import STEPS, judge_recording

        names = {key: label for key, label, _ in STEPS}
        judged_take = judge_recording(args.performance, score, _reporter(names)).judged
    _write(args.json, (json.dumps(judged_take.to_json()) + "\n").encode())


_MIDI = (".mid", ".midi")


def _reporter(names: Mapping[str, str]) -> Callable[[str, float], None]:
    """Says on standard error what is being done. names: of the steps, by their keys."""
    shown = ""

    def report(step: str, _share: float) -> None:
        nonlocal shown
        if step != shown:
            shown = step
            print(f"{names.get(step, step)} ...", file=sys.stderr)

    return report


def _convert(args: argparse.Namespace) -> None:
    from orchesis.feel import shifts
    from orchesis.formats import midi, midi_reader, package_parts, registry, tab
    from orchesis.formats.midi_keys import GENERAL, keys_of
    from orchesis.sounding import part

    keys = keys_of(args.keys.read_text(encoding="utf-8")) if args.keys else GENERAL
    readers: dict[str, registry.Read] = {
        "MIDI": lambda data, title: midi_reader.read(data, title, keys)
    }
    if args.strict:
        readers["text tab"] = tab.read_strictly
    # A package's limbs are chosen where it is taken in, which long scores need not wait for.
    is_package = args.out.name.endswith(package_parts.ENDING)
    score = _read_score(args.score, readers, limbs=not is_package)
    content, lost = registry.write(args.out.name, score)
    if registry.format_of(args.out.name).name == "MIDI":
        played = score.played()
        content = midi.write(played, part.moments(played, args.feel, shifts(played)), keys)
    _write(args.out, content)
    for what in lost:
        print(f"orchesis: this format can't hold {what}.", file=sys.stderr)


def _check(args: argparse.Namespace) -> None:
    from orchesis.formats import package

    with package.opened(args.package) as opened:
        for what in opened.must_open():
            print(f"orchesis: not kept: {what}.", file=sys.stderr)


def _read(args: argparse.Namespace) -> None:
    from orchesis.reading_file import judged

    if not 0.3 <= args.threshold <= 1:
        raise BadScore("The threshold is a share of the bars, from 0.3 to 1.")
    document = judged(_read_score(args.score), args.threshold)
    _write(args.json, (json.dumps(document) + "\n").encode())


def _stick(args: argparse.Namespace) -> None:
    from orchesis.sticking_file import stuck

    score = _read_score(args.score)
    player = score.player
    if args.kit is not None:
        try:
            data = json.loads(args.kit.read_text(encoding="utf-8"))
        except (UnicodeDecodeError, json.JSONDecodeError):
            raise BadScore(f"“{args.kit.name}” is not JSON; docs/stick-file.md has one.") from None
        player = Player.from_json(data)
    options = {k: v for k, v in (("hand", args.hand), ("school", args.school)) if v is not None}
    document = stuck(replace(score, player=replace(player, **options)))
    _write(args.json, (json.dumps(document) + "\n").encode())


def _sound(args: argparse.Namespace) -> None:
    from io import BytesIO

    import soundfile as sf

    from orchesis.feel import shifts
    from orchesis.sounding import part

    score = _read_score(args.score)
    gain = part.song_gain(score)  # of the whole song, whatever of it sounds
    if args.tempo is not None:
        score = part.at_tempo(score, args.tempo)
    mute = [m for m in args.mute.split(",") if m]
    if args.stage is not None:
        from orchesis.teaching.stages import plan

        made_stages = plan(score, range(1, score.bar_count + 1))
        if not 1 <= args.stage <= len(made_stages):
            raise BadScore(f"There are stages 1 to {len(made_stages)}, not {args.stage}.")
        tempo = args.tempo if args.tempo is not None else made_stages[args.stage - 1].ladder.start
        score = part.at_tempo(made_stages[args.stage - 1].score, tempo)
    sound = part.sound(
        score, args.feel, shifts(score), mute, args.click, "letters" if args.count else "", gain
    )
    out = BytesIO()
    sf.write(out, sound, part.RATE, format="WAV", subtype="PCM_16")
    _write(args.out, out.getvalue())


def _chart(args: argparse.Namespace) -> None:
    from orchesis import charting, engraving
    from orchesis.formats import midi, musicxml, tab
    from orchesis.formats.file_names import file_name
    from orchesis.score.notation import as_written

    score = _read_score(args.score)
    # As for “roadmap”, the way it is written on the shell.
    views = ["road-map" if v == "roadmap" else v for v in args.view.split(",")]
    wishes = [charting.Wish(view, args.paper, args.sticking, args.counts) for view in views]
    if args.musicxml:
        _write(args.musicxml, musicxml.write(as_written(score)))
    if args.midi:
        _write(args.midi, midi.write(as_written(score)))
    if args.mei:
        _write(args.mei, charting.mei(score, wishes[0]))
    if args.tab:
        _write(args.tab, tab.write(as_written(score)))
    if not (args.pdf or args.svg or args.png):
        return
    pages = {wish.view: charting.pages(score, wish) for wish in wishes}
    if args.pdf:
        whole = [page for pages_of_view in pages.values() for page in pages_of_view]
        _write(args.pdf, engraving.pdf_of(whole, args.paper))
    for wish in wishes:
        pages_of_view = pages[wish.view]
        names = [
            file_name(
                score.title or args.score.stem, charting.name_of(wish), f"page {n}", ending=""
            )
            for n in range(1, len(pages_of_view) + 1)
        ]
        if args.svg:
            args.svg.mkdir(parents=True, exist_ok=True)
            for name, page in zip(names, pages_of_view, strict=True):
                _write(args.svg / f"{name}.svg", page.encode())
        if args.png:
            args.png.mkdir(parents=True, exist_ok=True)
            for name, picture in zip(
                names, engraving.png_of(pages_of_view, args.paper), strict=True
            ):
                _write(args.png / f"{name}.png", picture)


def _write(path: Path, content: bytes) -> None:
    """Whole or not at all: a broken run leaves no half-written file."""
    part = path.with_name(path.name + ".part")
    part.write_bytes(content)
    part.replace(path)


if __name__ == "__main__":
    sys.exit(main())
