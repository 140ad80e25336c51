"""A whole account into one file, and out of it into an empty system."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import IO, Annotated, Any, Literal

from django.contrib.auth.models import User
from django.db import transaction
from library.models import RequestForm, Song
from planning.models import SetItem, SetList
from practice.models import Loop, PracticeLimits
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from transcription.models import KeptFill, Preferences

from keeping import songs
from keeping.rows import told, values
from orchesis.errors import BadScore
from orchesis.formats import package_parts

FORMAT, MANIFEST, ENDING = "orchesis-account", "account.json", ".orchesis-account"
_MAX_MEMBERS, _MAX_BYTES = 6000, 4 * 2**30

_PREFERENCES = ("player", "counting", "reads", "note_names", "keys", "rhythm_words")
_CARE = ("level", "protection", "rule", "minutes")
_FORM = ("token", "title", "words", "closed")
_LOOP = (
    "at",
    "first",
    "last",
    "order",
    "stage",
    "stages",
    "hard",
    "seconds",
    "tempo",
    "judgement",
    "rung_tempo",
    "clean_loops",
    "is_learned",
    "note",
    "beside",
)
_FILL = ("title", "bar", "tempo", "note", "document", "created")
_LIST = ("kind", "title", "words", "due", "token", "created")
_ITEM = ("place", "due", "note")

Row = dict[str, Any]
Tell = Callable[[str, float], None]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class KeptSong(_Part):
    """member: the song's package. removed: since when it rests in the bin. loops: what the account
    practised of it, each with the number of its arrangement."""

    member: Annotated[str, Field(max_length=80)]
    removed: str | None = None
    asked_by_form: bool = False
    loops: list[Row] = []


class KeptList(_Part):
    """items: each with the number of its song, and of its lesson as (arrangement, lesson)."""

    row: Row
    items: list[Row] = []


class AccountManifest(_Part):
    """account.json. Songs are named by their numbers, from 0."""

    format: Literal["orchesis-account"] = "orchesis-account"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=150)]
    songs: Annotated[list[KeptSong], Field(max_length=_MAX_MEMBERS)] = []
    preferences: Row | None = None
    care: Row | None = None
    request_form: Row | None = None
    kept_fills: list[Row] = []
    set_lists: list[KeptList] = []


# -- out


def back_up(
    owner: User, out: IO[bytes] | Path, *, with_sound: bool, tell: Tell | None = None
) -> None:
    """Writes everything of an account into one file."""
    songs_of_owner = list(songs.each_of(owner))
    numbers = {song.pk: n for n, song in enumerate(songs_of_owner)}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        kept = []
        for n, song in enumerate(songs_of_owner):
            if tell is not None:
                tell("packing", n / max(len(songs_of_owner), 1))
            member = f"songs/{n + 1}{package_parts.ENDING}"
            with tempfile.TemporaryFile() as file:
                songs.pack(song, file, with_sound=with_sound, whole=True)
                file.seek(0)
                with archive.open(member, "w", force_zip64=True) as target:
                    while chunk := file.read(1 << 20):
                        target.write(chunk)
            kept.append(
                KeptSong(
                    member=member,
                    removed=song.removed.isoformat() if song.removed else None,
                    asked_by_form=song.form_id is not None,
                    loops=_loops(owner, song),
                )
            )
        manifest = AccountManifest(
            name=owner.username,
            songs=kept,
            kept_fills=_fills(owner, numbers),
            set_lists=_lists(owner, numbers),
            preferences=_one(Preferences, owner, "user", _PREFERENCES),
            care=_one(PracticeLimits, owner, "user", _CARE),
            request_form=_one(RequestForm, owner, "owner", _FORM),
        )
        archive.writestr(MANIFEST, manifest.model_dump_json())


def _one(model: Any, owner: User, whose: str, fields: tuple[str, ...]) -> Row | None:
    row = model.objects.filter(**{whose: owner}).first()
    return told(row, *fields) if row is not None else None


def _loops(owner: User, song: Song) -> list[Row]:
    parts = list(song.arrangements.order_by("pk").values_list("pk", flat=True))
    rows = Loop.objects.of(owner).filter(arrangement__in=parts).order_by("at", "pk")
    return [{**told(row, *_LOOP), "arrangement": parts.index(row.arrangement_id)} for row in rows]


def _fills(owner: User, numbers: dict[int, int]) -> list[Row]:
    rows = KeptFill.objects.visible_to(owner).order_by("created", "pk")
    return [{**told(row, *_FILL), "song": numbers.get(row.song_id or 0)} for row in rows]


def _lists(owner: User, numbers: dict[int, int]) -> list[KeptList]:
    lists = []
    for set_list in SetList.objects.filter(owner=owner).order_by("created", "pk"):
        items = [
            {
                **told(item, *_ITEM),
                "song": numbers[item.song_id],
                "lesson": _place_of(item.lesson),
                "link": _place_of(item.link),
            }
            for item in set_list.items.select_related("lesson", "link", "song")
            if item.song_id in numbers
        ]
        lists.append(KeptList(row=told(set_list, *_LIST), items=items))
    return lists


def _place_of(link: Any) -> list[int] | None:
    """A player's link by the numbers of its arrangement and of itself in the song's package."""
    if link is None:
        return None
    parts = list(link.arrangement.song.arrangements.order_by("pk").values_list("pk", flat=True))
    links = list(
        link.arrangement.player_links.order_by("created", "pk").values_list("pk", flat=True)
    )
    return [parts.index(link.arrangement_id), links.index(link.pk)]


# -- in


def restore(file: IO[bytes] | Path, name: str = "") -> tuple[User, list[str]]:
    """An account out of a backup, all of it or nothing: made where there is none of that name,
    and only filled where it holds no song yet. Returns it and what could not be kept.

    Raises BadScore where the backup is none, or the account holds songs already.
    """
    with _opened(file) as archive:
        manifest = _manifest(archive)
        with transaction.atomic():
            owner, _ = User.objects.get_or_create(username=name or manifest.name)
            if Song.objects.filter(owner=owner).exists():
                raise BadScore(
                    f"“{owner.username}” holds songs already; restore into an account without any, "
                    "or give another name."
                )
            lost: list[str] = []
            songs_made = [_song_in(archive, kept, owner, lost) for kept in manifest.songs]
            _rest_in(manifest, owner, songs_made)
    return owner, list(dict.fromkeys(lost))


def _opened(file: IO[bytes] | Path) -> zipfile.ZipFile:
    try:
        archive = zipfile.ZipFile(file)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise BadScore("This is no backup of an account, or only a part of one.") from None
    names = [i.filename for i in archive.infolist()]
    if len(names) > _MAX_MEMBERS or len(set(names)) < len(names):
        raise BadScore("This is no backup of an account.")
    return archive


def _read(archive: zipfile.ZipFile, name: str, out: IO[bytes]) -> None:
    try:
        info = archive.getinfo(name)
        if info.compress_type not in (0, 8) or info.flag_bits & 1:
            raise BadScore("A backup is neither locked nor packed in an unusual way.")
        size = 0
        with archive.open(info) as member:
            while chunk := member.read(1 << 20):
                size += len(chunk)
                if size > _MAX_BYTES:
                    raise BadScore(f"“{name}” in this backup is bigger than it may be.")
                out.write(chunk)
    except (KeyError, zipfile.BadZipFile, EOFError, RuntimeError):
        raise BadScore(f"“{name[:80]}” in this backup can't be read.") from None


def _manifest(archive: zipfile.ZipFile) -> AccountManifest:
    out = io.BytesIO()
    _read(archive, MANIFEST, out)
    try:
        return AccountManifest.model_validate(json.loads(out.getvalue()))
    except (ValueError, ValidationError, RecursionError):
        raise BadScore("This is no backup of an account that can be read.") from None


def _song_in(archive: zipfile.ZipFile, kept: KeptSong, owner: User, lost: list[str]) -> Song:
    with tempfile.TemporaryFile() as file:
        _read(archive, kept.member, file)
        file.seek(0)
        song, missing = songs.unpack(file, owner, whole=True)
    lost += [f"{song.title}: {what}" for what in missing]
    parts = list(song.arrangements.order_by("pk"))
    for row in kept.loops:
        if 0 <= row.get("arrangement", -1) < len(parts):
            Loop.objects.create(
                user=owner, arrangement=parts[row["arrangement"]], **values(Loop, row, *_LOOP)
            )
    if kept.removed:
        Song.objects.filter(pk=song.pk).update(**values(Song, {"removed": kept.removed}, "removed"))
    return song


def _rest_in(manifest: AccountManifest, owner: User, songs_in: list[Song]) -> None:
    if manifest.preferences is not None:
        row = values(Preferences, manifest.preferences, *_PREFERENCES)
        Preferences.objects.update_or_create(user=owner, defaults=row)
    if manifest.care is not None:
        row = values(PracticeLimits, manifest.care, *_CARE)
        PracticeLimits.objects.update_or_create(user=owner, defaults=row)
    if manifest.request_form is not None:
        row = values(RequestForm, manifest.request_form, *_FORM)
        if RequestForm.objects.filter(token=row.get("token")).exclude(owner=owner).exists():
            row.pop("token")
        form, _ = RequestForm.objects.update_or_create(owner=owner, defaults=row)
        asked = [s.pk for s, k in zip(songs_in, manifest.songs, strict=True) if k.asked_by_form]
        Song.objects.filter(pk__in=asked).update(form=form)
    for row in manifest.kept_fills:
        KeptFill.objects.create(
            owner=owner, song=_of(songs_in, row.get("song")), **values(KeptFill, row, *_FILL)
        )
    for kept in manifest.set_lists:
        data = values(SetList, kept.row, *_LIST)
        if data.get("token") and SetList.objects.filter(token=data["token"]).exists():
            data["token"] = ""
        set_list = SetList.objects.create(owner=owner, **data)
        for item in kept.items:
            song = _of(songs_in, item.get("song"))
            if song is not None:
                SetItem.objects.create(
                    set_list=set_list,
                    song=song,
                    lesson=_link_of(song, item.get("lesson")),
                    link=_link_of(song, item.get("link")),
                    **values(SetItem, item, *_ITEM),
                )


def _of(songs_in: list[Song], number: Any) -> Song | None:
    return songs_in[number] if isinstance(number, int) and 0 <= number < len(songs_in) else None


def _link_of(song: Song, place: Any) -> Any:
    try:
        part, link = place
        arrangements = list(song.arrangements.order_by("pk"))[part]
        return list(arrangements.player_links.order_by("created", "pk"))[link]
    except (TypeError, ValueError, IndexError):
        return None
