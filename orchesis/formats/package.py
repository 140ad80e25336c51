"""Song package: one file that holds everything of a song (docs/song-package.md).

A zip: ``song.json`` says what is in it; scores, edit logs and analyses lie beside it as JSON,
recordings as they are. What comes in is checked before anything is believed: names, counts and
sizes of members, each document against its types, each file against its digest.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

import orjson
from pydantic import ValidationError

from orchesis.errors import BadScore, OrchesisError
from orchesis.formats.analysis_document import must_be_analysis
from orchesis.formats.package_parts import (
    BIGGEST_FILE,
    FORMAT,
    Arrangement,
    Line,
    Manifest,
    Member,
    Song,
)
from orchesis.score import Score, document
from orchesis.score.patches import difference, patched
from orchesis.score.untrusted import shown

MANIFEST = "song.json"
_MEMBER = re.compile(r"[a-z0-9-]{1,40}(/[a-z0-9-]{1,40}){0,3}(\.[a-z0-9]{1,8}){0,2}")
#: Of one document, of all of them together: bytes; values, which cost far more than their bytes.
_MOST_MEMBERS = 2000
_BIGGEST_DOCUMENT, _BIGGEST_TOGETHER = 24 * 2**20, 96 * 2**20
_MOST_VALUES, _MOST_TOGETHER = 1_500_000, 5_000_000
_CHUNK = 1 << 20
_UNREADABLE = (
    zipfile.BadZipFile,
    zlib.error,
    OSError,
    EOFError,
    NotImplementedError,
    RuntimeError,
    ValueError,
)


class Writer:
    """A package that is being written; documents may be added in any order, the manifest last."""

    def __init__(self, out: IO[bytes] | Path) -> None:
        self._zip = zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED)

    def document(self, name: str, data: Any) -> str:
        self._zip.writestr(name, json.dumps(data, ensure_ascii=False, separators=(",", ":")))
        return name

    def lines(self, name: str, rows: Iterable[Mapping[str, Any]]) -> str:
        text = (json.dumps(row, ensure_ascii=False, separators=(",", ":")) + "\n" for row in rows)
        with self._zip.open(name, "w") as out:
            for line in text:
                out.write(line.encode())
        return name

    def file(self, name: str, content: IO[bytes]) -> Member:
        """Sound is packed already: it is kept as it is."""
        size, digest = 0, hashlib.sha256()
        info = zipfile.ZipInfo(name)
        with self._zip.open(info, "w", force_zip64=True) as out:
            while chunk := content.read(_CHUNK):
                out.write(chunk)
                digest.update(chunk)
                size += len(chunk)
        return Member(name=name, size=size, sha256=digest.hexdigest())

    def close(self, manifest: Manifest) -> None:
        self.document(MANIFEST, manifest.model_dump(mode="json"))
        self._zip.close()


def write(score: Score) -> bytes:
    """A score alone as a package."""
    out = io.BytesIO()
    package = Writer(out)
    name = package.document("arrangements/1/score.json", score.to_json())
    song = Song(title=score.title or "Untitled", artist=score.artist)
    part = Arrangement(name="As recorded", score=name)
    package.close(Manifest(song=song, arrangements=[part]))
    return out.getvalue()


class Package:
    """A package that was opened and looked over; what it holds is read on asking."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self._zip = archive
        self._sizes = _looked_over(archive)
        self._bytes = self._values = 0
        self.manifest = _read_as(Manifest, self.document(MANIFEST), MANIFEST)
        if len({a.name for a in self.manifest.arrangements}) < len(self.manifest.arrangements):
            raise BadScore("Two arrangements of this package have one name.")
        for part in self.manifest.arrangements:
            if self.manifest.takes and part.take >= len(self.manifest.takes):
                raise BadScore(f"“{shown(part.name)}” names a recording that is not there.")
        self._must_know_all()

    def _must_know_all(self) -> None:
        """Raises BadScore where a part of the package has no place in the song, or two."""
        named = [MANIFEST]
        for take in self.manifest.takes:
            named += [m.name for m in (take.original, take.sound, take.drums, take.fitted) if m]
            named += [take.analysis] if take.analysis else []
        for part in self.manifest.arrangements:
            named += [name for name in (part.score, part.start, part.edits) if name]
            named += [clip.file.name for clip in part.clips]
        twice = next((name for name, times in Counter(named).items() if times > 1), None)
        if twice is not None:
            raise BadScore(f"“{shown(twice)}” has two places in this package; pack it again.")
        unknown = next((name for name in self._sizes if name not in set(named)), None)
        if unknown is not None:
            raise BadScore(f"“{shown(unknown)}” has no place in this package; pack it again.")

    def must_open(self) -> list[str]:
        """Reads all that is in the package but its sound; what can't be kept of it, in words.

        A part whose log can't be read, or leads elsewhere, is kept without its history.
        Raises BadScore.
        """
        lost = []
        for take in self.manifest.takes:
            if take.analysis:
                self.analysis(take.analysis)
        for part in self.manifest.arrangements:
            newest = self.score(part.score)
            if part.edits:
                start = self.score(part.start) if part.start else newest
                if not self._leads(start, part.edits, part.version, newest):
                    lost.append(history_of(part.name))
        return lost

    def _leads(self, start: Score, edits: str, version: int, newest: Score) -> bool:
        """Whether a part's log leads from its start to its newest version, and back."""
        data = self._log(edits)
        score, count = start, 0
        try:
            for count, line in enumerate(_lines_of(data, edits), 1):
                after = patched(score, line.patch)
                if line.version != count or difference(score, patched(after, line.inverse)):
                    return False
                score = after
        except (OrchesisError, TypeError, AttributeError, ValueError, LookupError):
            return False
        return count == 0 or (count == version and not difference(score, newest))

    def document(self, name: str) -> Any:
        """A JSON document of the package. Raises BadScore."""
        data = self._read(name)
        self._must_be_few(name, data)
        try:
            return orjson.loads(data)  # strict: no NaN, no number and no letter that is none
        except ValueError:
            raise BadScore(f"“{name}” in this package is not JSON.") from None

    def analysis(self, name: str) -> dict[str, Any]:
        """What was heard of a take. Raises BadScore."""
        content = self.document(name)
        must_be_analysis(content, f"“{name}” in this package")
        return content

    def _must_be_few(self, name: str, data: bytes) -> None:
        """Before anything is made of it."""
        values = sum(map(data.count, (b",", b"[", b"{")))
        self._values += values
        if values > _MOST_VALUES or self._values > _MOST_TOGETHER:
            raise BadScore(f"“{name}” in this package holds more than a song does.")

    def _log(self, name: str) -> bytes:
        data = self._read(name)
        self._must_be_few(name, data)
        return data

    def lines(self, name: str) -> Iterator[Line]:
        """The lines of a log. Raises BadScore."""
        return _lines_of(self._log(name), name)

    def score(self, name: str) -> Score:
        """Raises BadScore where it is none that opens."""
        document_of_score = self.document(name)
        song = self.manifest.song
        if isinstance(document_of_score, dict):
            document_of_score = {**document_of_score, "title": song.title, "artist": song.artist}
        return document.read(document_of_score, f"“{name}” in this package")

    def extract(self, member: Member, out: IO[bytes]) -> None:
        """Writes a file of the package. Raises BadScore where it is not what the manifest says."""
        size, digest = 0, hashlib.sha256()
        for chunk in self._chunks(member.name, member.size):
            size += len(chunk)
            digest.update(chunk)
            out.write(chunk)
        if size != member.size or digest.hexdigest() != member.sha256:
            raise BadScore(f"“{member.name}” in this package is damaged; pack the song again.")

    def _read(self, name: str) -> bytes:
        data = b"".join(self._chunks(name, _BIGGEST_DOCUMENT))
        self._bytes += len(data)
        if self._bytes > _BIGGEST_TOGETHER:
            raise BadScore(f"“{name}” in this package is one too many: together they are too big.")
        return data

    def _chunks(self, name: str, most: int) -> Iterator[bytes]:
        """What a member really holds, whatever its header says of its size."""
        if name not in self._sizes:
            raise BadScore(f"“{shown(name)}” is missing in this package.")
        size = 0
        try:
            with self._zip.open(name) as file:
                while chunk := file.read(_CHUNK):
                    size += len(chunk)
                    if size > most:
                        raise BadScore(f"“{name}” in this package is bigger than it may be.")
                    yield chunk
        except _UNREADABLE:
            raise BadScore(f"“{name}” in this package can't be read; pack it again.") from None


def _lines_of(data: bytes, name: str) -> Iterator[Line]:
    for number, line in enumerate(data.splitlines(), 1):
        try:
            fields = orjson.loads(line)
        except ValueError:
            raise BadScore(f"Line {number} of “{name}” in this package is not JSON.") from None
        yield _read_as(Line, fields, f"line {number} of {name}")


def history_of(name: str) -> str:
    """What is lost of a part whose log is damaged, in words."""
    return f"the history of “{shown(name)}”: it is damaged"


def _looked_over(archive: zipfile.ZipFile) -> dict[str, int]:
    """Members by name. Raises BadScore where a name, a number or a size is none of ours."""
    members = archive.infolist()
    if len(members) > _MOST_MEMBERS:
        raise BadScore(f"A package has {_MOST_MEMBERS} parts at the most.")
    for info in members:
        if not _MEMBER.fullmatch(info.filename):
            raise BadScore(f"“{shown(info.filename)}” is no name of a part of a package.")
        if info.flag_bits & 1 or info.compress_type not in (0, 8):
            raise BadScore("A package is neither locked nor packed in an unusual way.")
        if info.file_size > BIGGEST_FILE:
            raise BadScore(f"“{info.filename}” in this package is bigger than it may be.")
    sizes = {info.filename: info.file_size for info in members}
    if len(sizes) < len(members):
        raise BadScore("Two parts of this package have one name.")
    return sizes


def _read_as(model: Any, data: Any, what: str) -> Any:
    try:
        return model.model_validate(data)
    except ValidationError as problem:
        error = problem.errors(include_url=False)[0]
        where = ".".join(str(p) for p in error["loc"])
        if where == "version" and isinstance(data, dict) and data.get("format") == FORMAT:
            raise BadScore(
                "This package was written by a newer Orchesis; bring this one up to date."
            ) from None
        message = error["msg"][0].lower() + error["msg"][1:]
        raise BadScore(
            f"This is no song package: {what}, {where or 'all of it'}: {message}."
        ) from None


@contextmanager
def opened(file: IO[bytes] | Path) -> Iterator[Package]:
    """A package, looked over. Raises BadScore in one sentence where it is none."""
    try:
        archive = zipfile.ZipFile(file)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise BadScore("This is no song package, or only a part of one.") from None
    with archive:
        yield Package(archive)


def read(data: bytes, _title: str = "") -> tuple[Score, list[str]]:
    """(the first part of a package, what is not read of it)."""
    with opened(io.BytesIO(data)) as package:
        if not package.manifest.arrangements:
            raise BadScore("This package holds a song that was not heard yet; there is no part.")
        score = package.score(package.manifest.arrangements[0].score)
        more = [a.name for a in package.manifest.arrangements[1:]]
        return score, [f"the arrangement “{name}”" for name in more]
