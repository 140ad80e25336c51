"""What a song package holds, by its types (docs/song-package.md)."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

BIGGEST_FILE = 400 * 2**20
FORMAT, VERSION, ENDING = "orchesis-song", 1, ".orchesis"
Text = Annotated[str, Field(max_length=4000)]
Name = Annotated[str, Field(max_length=255)]
Count = Annotated[int, Field(ge=0, le=2**31 - 1)]  # as its columns hold it
Moment = Annotated[str, Field(max_length=40)]  # ISO 8601


class PackagePart(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Song(PackagePart):
    """As it stands on a shelf. due, created: ISO 8601. of: whose it was."""

    title: Annotated[str, Field(min_length=1, max_length=200)]
    artist: Annotated[str, Field(max_length=200)] = ""
    asked_by: Annotated[str, Field(max_length=120)] = ""
    due: Moment | None = None
    depth: Literal["outline", "every_bar"] = "every_bar"
    created: Moment | None = None
    tags: list[Annotated[str, Field(max_length=40)]] = []
    votes: Count = 0
    of: Name = ""


class Member(PackagePart):
    """A file of the package. size: bytes; sha256: of what it holds, in hexadecimal digits."""

    name: Name
    size: Annotated[int, Field(ge=0, le=BIGGEST_FILE)]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class Take(PackagePart):
    """A recording. original: as it was given; sound, drums, fitted: what was made of it (FLAC);
    none of them where the package travels without sound. analysis: member with what was heard."""

    name: Name
    kind: Literal["first", "stem", "other"] = "first"
    is_video: bool = False
    rights: Literal["own", "licensed", "private"] = "private"
    digest: Annotated[str, Field(max_length=64)] = ""
    anchors: list[list[float]] = []
    likeness: float | None = None
    duration: float | None = None
    heard: dict[str, Any] = {}
    created: Moment | None = None
    original: Member | None = None
    sound: Member | None = None
    drums: Member | None = None
    fitted: Member | None = None
    analysis: Name | None = None


class Comment(PackagePart):
    """answers: the number (from 0) of the comment above it."""

    bar: Count = 0
    section: Annotated[str, Field(max_length=40)] = ""
    answers: Count | None = None
    author: Name = ""
    words: Annotated[str, Field(max_length=1000)]
    created: Moment | None = None
    resolved: Moment | None = None


class NamedVersion(PackagePart):
    version: Count
    name: Annotated[str, Field(max_length=80)]
    by: Name = ""
    created: Moment | None = None


class StagePlan(PackagePart):
    """What a teacher made of a stage plan."""

    first: Count
    last: Count
    order: Annotated[str, Field(max_length=20)]
    titles: list[Text] = []
    dropped: list[Text] = []
    words: dict[Text, Text] = {}


class Clip(PackagePart):
    """A sound or a video at a stage of a plan."""

    first: Count
    last: Count
    order: Annotated[str, Field(max_length=20)]
    stage: Annotated[str, Field(max_length=120)]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    created: Moment | None = None
    file: Member


class Lesson(PackagePart):
    """Passages for players, with words. version: of the arrangement that it holds; -1: the newest.
    token: of the address, only in a backup."""

    title: Annotated[str, Field(max_length=120)]
    words: Annotated[str, Field(max_length=2000)] = ""
    passages: list[dict[str, Any]] = []
    version: Annotated[int, Field(ge=-1, lt=2**31)] = -1
    with_recording: bool = False
    created: Moment | None = None
    revoked: Moment | None = None
    token: Annotated[str, Field(max_length=40)] = ""
    progress: list[dict[str, Any]] = []


class Arrangement(PackagePart):
    """One version of what is played. score: member with the newest score; start: with the one that
    the log begins from; edits: with the log, a line of JSON an edit. take: number, from 0."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    take: Count = 0
    version: Count = 0
    based: Count = 0
    doubts: Count = 0
    doubts_heard: Count = 0
    minutes: Annotated[float, Field(ge=0)] = 0
    created: Moment | None = None
    score: Name
    start: Name | None = None
    edits: Name | None = None
    comments: list[Comment] = []
    named_versions: list[NamedVersion] = []
    stage_plans: list[StagePlan] = []
    lessons: list[Lesson] = []
    clips: Annotated[list[Clip], Field(max_length=60)] = []


class Manifest(PackagePart):
    """song.json: what the package holds. The first arrangement is the part as it was recorded."""

    format: Literal["orchesis-song"] = "orchesis-song"
    version: Literal[1] = 1
    song: Song
    takes: Annotated[list[Take], Field(max_length=40)] = []
    arrangements: Annotated[list[Arrangement], Field(max_length=200)] = []


class Line(PackagePart):
    """A line of a log. by: who did it. The other keys: docs/how-it-works.md tells of edits."""

    version: Count
    kind: Literal["do", "undo", "redo"]
    operation: Annotated[str, Field(max_length=40)]
    args: dict[str, Any] = {}
    patch: dict[str, Any]
    inverse: dict[str, Any]
    says: Annotated[str, Field(max_length=120)] = ""
    of: Count | None = None
    decides: bool = False
    undo: Count | None = None
    redo: Count | None = None
    under: Count | None = None
    by: Name = ""
    at: Moment
