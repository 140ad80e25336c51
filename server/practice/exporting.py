"""Making files to play along with, as a kind of long work."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.files import File
from django.db.models.fields.files import FieldFile
from jobs import queue
from jobs.kinds import Kind
from jobs.models import Job
from jobs.work import Work
from library.quota import room_for
from transcription.models import Arrangement

from orchesis import play_along
from orchesis.errors import Cancelled
from practice.models import PlayAlong

PLAY_ALONG = "play_along"
_KEPT_ZIPS = 20  # zips of a song; older ones make room


def wish_of(asked: dict[str, Any]) -> play_along.Wish:
    """Raises BadScore where there is no such thing."""
    bars = (asked["first"], asked["last"]) if asked.get("first") else None
    return play_along.Wish(
        bars=bars,
        shares=tuple(asked["shares"]),
        mixes=tuple(asked["mixes"]),
        mute=tuple(asked["mute"]),
        stages=asked["stages"],
        order=asked["order"],
        click=asked["click"],
        counted=asked["counted"],
        form=asked["form"],
        loops=asked["loops"],
    )


def ask(arrangement: Arrangement, asked: dict[str, Any], who: Any) -> tuple[PlayAlong, Job]:
    """Asks for a zip; the oldest ones of the song make room."""
    wish_of(asked)
    old = PlayAlong.objects.filter(arrangement__song=arrangement.song_id).order_by(
        "-created", "-id"
    )
    for extra in old[_KEPT_ZIPS - 1 :]:
        extra.delete()
    play_along = PlayAlong.objects.create(
        arrangement=arrangement, wish=asked, version=arrangement.version
    )
    return play_along, queue.start(PLAY_ALONG, arrangement.song, play_along.pk, who)


def make(work: Work) -> None:
    """One zip from an arrangement. Raises BadScore, BadSound; Cancelled where it is gone."""
    made = (
        PlayAlong.objects.select_related("arrangement__take", "arrangement__song__owner")
        .filter(pk=work.job.subject)
        .first()
    )
    if made is None:
        raise Cancelled("The song is gone.")
    arrangement = made.arrangement
    sound = _here(arrangement.take.sound, work.folder / "sound.flac")
    drums = _here(arrangement.take.drums, work.folder / "drums.flac")
    out = work.folder / "out.zip"
    wish = wish_of(made.wish)
    names = play_along.written(out, arrangement.score, wish, sound, drums, work.tell)

    size = out.stat().st_size

    def keep() -> list[str]:
        with out.open("rb") as file:
            made.file.save("out.zip", File(file), save=False)
        PlayAlong.objects.filter(pk=made.pk).update(
            file=made.file.name, size=size, names=names, version=arrangement.version
        )
        return []

    with room_for(arrangement.song.owner, size):
        work.finish(keep)


def _here(stored: FieldFile, path: Path) -> Path | None:
    """A kept file on this machine's disk."""
    if not stored:
        return None
    with stored.open("rb") as file, path.open("wb") as out:
        for chunk in File(file).chunks():
            out.write(chunk)
    return path


KIND = Kind(
    PLAY_ALONG,
    make,
    (("rendering", "Making the files", 1.0),),
    doing="These files are being made already.",
    done="These files have been made already.",
    failed="Making the files failed for a reason of ours. Try again.",
    unreadable="The recording's file can't be read; the files can't be made.",
)
