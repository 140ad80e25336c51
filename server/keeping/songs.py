"""A song with all that belongs to it, into a package and out of one."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from config.time_limits import if_soon
from django.db import transaction
from findings import by_worker
from library import store
from library.models import Analysis, Song, Take
from library.quota import ending_of, room_for
from practice import clips
from practice.models import Clip, PlayerLink, PlayerProgress, StageNotes
from sharing.models import Comment, NamedVersion
from transcription.models import Arrangement, Edit, Preferences

from keeping import reading
from keeping.rows import told, values
from orchesis.errors import BadScore
from orchesis.formats import package, package_parts
from orchesis.hands import with_limbs
from orchesis.score import Score
from orchesis.score.untrusted import printable

_SONG = ("title", "artist", "asked_by", "due", "depth", "created", "tags", "votes")
_TAKE = (
    "name",
    "kind",
    "is_video",
    "rights",
    "digest",
    "anchors",
    "likeness",
    "duration",
    "heard",
    "created",
)
_PART = ("name", "version", "based", "doubts", "doubts_heard", "minutes", "created")
_LINE = (
    "version",
    "kind",
    "operation",
    "args",
    "patch",
    "inverse",
    "says",
    "of",
    "decides",
    "undo",
    "redo",
    "under",
    "at",
)
_COMMENT = ("bar", "section", "words", "created", "resolved")
_NAMED = ("version", "name", "created")
_STAGES = ("first", "last", "order", "titles", "dropped", "words")
_CLIP = ("first", "last", "order", "stage", "name", "created")
_LESSON = ("title", "words", "passages", "version", "with_recording", "created", "revoked")
_PROGRESS = ("device", "name", "minutes", "stages")


# -- out


def pack(song: Song, out: IO[bytes] | Path, *, with_sound: bool, whole: bool = False) -> None:
    """Writes a song as a package. whole: with what a backup alone may hold: the addresses of
    players' links, and what players told."""
    writer = package.Writer(out)
    takes = list(song.takes.order_by("pk"))
    numbers = {take.pk: n for n, take in enumerate(takes)}
    manifest = package_parts.Manifest(
        song=package_parts.Song(**told(song, *_SONG), of=song.owner.username),
        takes=[_take(writer, take, n, with_sound) for n, take in enumerate(takes, 1)],
        arrangements=[
            _part(writer, part, n, numbers[part.take_id], whole)
            for n, part in enumerate(song.arrangements.order_by("pk"), 1)
        ],
    )
    writer.close(manifest)


def _take(writer: package.Writer, take: Take, n: int, with_sound: bool) -> package_parts.Take:
    files: dict[str, Any] = {}
    for role in Take.FILES if with_sound else ():
        stored = getattr(take, role)
        if stored:
            ending = ending_of(str(stored.name))
            with stored.open("rb") as file:
                files[role] = writer.file(f"takes/{n}/{role}.{ending}", file)
    analysis = Analysis.objects.filter(take=take).first()
    if analysis is not None:
        files["analysis"] = writer.document(f"takes/{n}/analysis.json", analysis.document)
    return package_parts.Take(**told(take, *_TAKE), **files)


def _part(
    writer: package.Writer, part: Arrangement, n: int, take: int, whole: bool
) -> package_parts.Arrangement:
    at = f"arrangements/{n}"
    lines = part.edits.filter(version__lte=part.version).select_related("author")
    comments = list(part.comments.select_related("author").order_by("created", "pk"))
    places = {c.pk: k for k, c in enumerate(comments)}
    return package_parts.Arrangement(
        **told(part, *_PART),
        take=take,
        score=writer.document(f"{at}/score.json", part.document),
        start=writer.document(f"{at}/start.json", part.document_at(0)),
        edits=writer.lines(
            f"{at}/edits.jsonl", ({**told(e, *_LINE), "by": _name(e.author)} for e in lines)
        ),
        comments=[
            package_parts.Comment(
                **told(c, *_COMMENT),
                author=_name(c.author),
                answers=places.get(c.answers_id) if c.answers_id else None,
            )
            for c in comments
        ],
        named_versions=[
            package_parts.NamedVersion(**told(v, *_NAMED), by=_name(v.by))
            for v in part.named_versions.select_related("by").order_by("created", "pk")
        ],
        stage_plans=[
            package_parts.StagePlan(**told(s, *_STAGES)) for s in part.stage_notes.order_by("pk")
        ],
        clips=[_clip(writer, c, f"{at}/clips/{k}") for k, c in enumerate(part.clips.all(), 1)],
        lessons=[_lesson(link, whole) for link in part.player_links.order_by("created", "pk")],
    )


def _clip(writer: package.Writer, clip: Clip, at: str) -> package_parts.Clip:
    with clip.file.open("rb") as file:
        member = writer.file(f"{at}.{ending_of(str(clip.file.name))}", file)
    return package_parts.Clip(**told(clip, *_CLIP), file=member)


def _lesson(link: PlayerLink, whole: bool) -> package_parts.Lesson:
    private: dict[str, Any] = {}
    if whole:
        private = {
            "token": link.token,
            "progress": [told(p, *_PROGRESS) for p in link.progress.order_by("pk")],
        }
    return package_parts.Lesson(**told(link, *_LESSON), **private)


def _name(user: Any) -> str:
    return "" if user is None else user.username


# -- in


def unpack(file: IO[bytes] | Path, owner: Any, *, whole: bool = False) -> tuple[Song, list[str]]:
    """A song out of a package onto somebody's shelf, and what could not be kept.

    whole: a backup of one's own: addresses of players' links live on. Raises BadScore where the
    package is none, OutOfRoom where its recordings are too many; nothing is kept then.
    """
    with reading.at_a_path(file) as path:
        lost = reading.check(path)
        return _unpacked(path, owner, whole, lost)


def _unpacked(path: Path, owner: Any, whole: bool, lost: list[str]) -> tuple[Song, list[str]]:
    with package.opened(path) as opened:
        m = opened.manifest
        files = [f for t in m.takes for f in (t.original, t.sound, t.drums, t.fitted) if f]
        with room_for(owner, sum(f.size for f in files)), store.all_or_nothing():
            song = _song(m.song, owner)
            takes = [_take_in(opened, song, t, lost) for t in m.takes]
            if m.arrangements and not takes:  # a score alone
                takes = [_silent(song, opened.score(m.arrangements[0].score))]
            for part in m.arrangements:
                _part_in(opened, song, takes, part, owner, m.song.of, whole, lost)
        return song, list(dict.fromkeys(lost))


def _song(data: package_parts.Song, owner: Any) -> Song:
    given = values(Song, data.model_dump(), *_SONG)
    for name in ("title", "artist", "asked_by"):
        given[name] = printable(given[name]) or ("Untitled" if name == "title" else "")
    return Song.objects.create(owner=owner, **given)


def _take_in(
    opened: package.Package, song: Song, data: package_parts.Take, lost: list[str]
) -> Take:
    given = values(Take, data.model_dump(), *_TAKE)
    for role in Take.FILES:
        member = getattr(data, role)
        if member is not None:
            with tempfile.TemporaryFile() as file:
                opened.extract(member, file)
                given[role] = store.keep(file, ending_of(member.name), member.sha256).name
    if data.original is not None:
        given["digest"] = data.original.sha256
    elif not data.sound:
        lost.append("the recording: this package travelled without it")
    take = Take.objects.create(song=song, **given)
    if data.analysis is not None:
        Analysis.objects.create(take=take, document=opened.analysis(data.analysis))
    return take


def _silent(song: Song, score: Score) -> Take:
    """What a score without a recording hangs on."""
    return Take.objects.create(
        song=song, name=song.title, duration=round(score.seconds(score.bar_count + 1), 3)
    )


def _part_in(
    opened: package.Package,
    song: Song,
    takes: list[Take],
    data: package_parts.Arrangement,
    owner: Any,
    was: str,
    whole: bool,
    lost: list[str],
) -> None:
    score = opened.score(data.score)  # it opens, or nothing of the package is kept
    is_whole = package.history_of(data.name) not in lost
    lines = list(opened.lines(data.edits)) if data.edits and is_whole else []
    start = opened.document(data.start) if data.start and lines else score.to_json()
    version = data.version if lines else 0
    given = values(Arrangement, data.model_dump(), *_PART)
    given |= Arrangement.columns(score) | {"version": version}
    part = Arrangement.objects.create(song=song, take=takes[data.take], **given)
    part.snapshots.create(version=0, document=start)
    if version:
        part.snapshots.create(version=version, document=score.to_json())

    def who(name: str) -> Any:
        if name and name != was:
            lost.append(f"that {name} did or said some of it (they have no account here)")
        return owner if name == was else None

    Edit.objects.bulk_create(
        (Edit(arrangement=part, author=who(x.by), **_line(x)) for x in lines),
        batch_size=200,
    )
    _said_in(part, data, who)
    for plan in data.stage_plans:
        StageNotes.objects.create(
            arrangement=part, **values(StageNotes, plan.model_dump(), *_STAGES)
        )
    for clip in data.clips:
        given = values(Clip, clip.model_dump(exclude={"file"}), *_CLIP)
        with tempfile.TemporaryFile() as file:
            opened.extract(clip.file, file)
            clips.attach(part, file, given.pop("name"), **given)
    for lesson in data.lessons if whole else ():
        given = values(PlayerLink, lesson.model_dump(), *_LESSON)
        if not 0 <= lesson.version <= part.version:
            given["version"] = part.version
        link = PlayerLink.objects.create(arrangement=part, **given, **_address(lesson.token))
        for told_of in lesson.progress:
            PlayerProgress.objects.create(link=link, **values(PlayerProgress, told_of, *_PROGRESS))
    if data.lessons and not whole:
        lost.append("the addresses of players' links: give them out anew")


def _line(x: package_parts.Line) -> dict[str, Any]:
    return values(Edit, x.model_dump(), *_LINE)


def _address(token: str) -> dict[str, str]:
    """A link keeps its address where nobody has it by now."""
    free = token and not PlayerLink.objects.filter(token=token).exists()
    return {"token": token} if free else {}


def _said_in(part: Arrangement, data: package_parts.Arrangement, who: Any) -> None:
    comments: list[Comment] = []
    for c in data.comments:
        if c.answers is not None and c.answers >= len(comments):
            raise BadScore("A comment of this package answers one that is not there.")
        above = comments[c.answers] if c.answers is not None else None
        comments.append(
            Comment.objects.create(
                arrangement=part,
                author=who(c.author),
                answers=above,
                **values(Comment, c.model_dump(), *_COMMENT),
            )
        )
    for v in data.named_versions:
        if v.version <= part.version:
            NamedVersion.objects.create(
                arrangement=part, by=who(v.by), **values(NamedVersion, v.model_dump(), *_NAMED)
            )


def from_score(name: str, data: bytes, owner: Any) -> tuple[Song, list[str]]:
    """A song on somebody's shelf from a score in any format we read, without a recording."""
    title = Path(printable(name)).stem[:200] or "Untitled"
    score, lost = reading.read(name, data)
    score = Preferences.as_liked(owner.pk, score)
    solved = if_soon(lambda: with_limbs(score))
    with transaction.atomic():
        song = Song.objects.create(
            owner=owner, title=(score.title or title)[:200], artist=score.artist[:200]
        )
        part = Arrangement.start(_silent(song, score), solved or score)
        if solved is None:
            by_worker.ask(part, (by_worker.LIMBS, ()))
    return song, lost


def each_of(owner: Any) -> Iterator[Song]:
    """All songs of an account, those in its bin too, oldest first."""
    yield from Song.objects.filter(owner=owner).order_by("created", "pk")
