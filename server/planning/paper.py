"""All road maps of a list on paper, as a kind of long work."""

from __future__ import annotations

import hashlib
from io import BytesIO
from typing import Any

from django.core.files.base import ContentFile
from jobs import queue
from jobs.kinds import Kind
from jobs.models import Job
from jobs.work import Work
from library.quota import room_for
from pypdf import PdfReader, PdfWriter
from transcription.models import Arrangement

from orchesis import charting
from orchesis.errors import BadScore, Cancelled
from planning.models import SetList

PAPER = "set_list"


def _parts(found: SetList) -> list[Arrangement]:
    songs = [i.song_id for i in found.items.all()]
    rows = Arrangement.objects.filter(song__in=songs, name=Arrangement.RECORDED)
    by_song = {a.song_id: a for a in rows.select_related("song", "take")}
    return [by_song[s] for s in dict.fromkeys(songs) if s in by_song]


def made_of(found: SetList) -> str:
    """A word that is another one as soon as the pages of a list would be."""
    parts = [(a.pk, a.version, a.song.title) for a in _parts(found)]
    return hashlib.sha256(repr((found.title, parts)).encode()).hexdigest()


def ask(found: SetList, who: Any) -> Job | None:
    """Asks for the pages, unless they are being made or are there as they would be."""
    newest = Job.objects.filter(kind=PAPER, subject=found.pk).order_by("-pk").first()
    if (newest is not None and newest.is_open) or (found.pdf and found.pdf_of == made_of(found)):
        return newest
    return queue.start(PAPER, None, found.pk, who)


def make(work: Work) -> None:
    """One PDF, a road map after the other. Raises BadScore where no song of the list is
    readable; Cancelled where it is gone."""
    found = SetList.objects.prefetch_related("items").filter(pk=work.job.subject).first()
    if found is None:
        raise Cancelled("The list is gone.")
    parts, word = _parts(found), made_of(found)
    out, missing = PdfWriter(), []
    for n, arrangement in enumerate(parts):
        work.tell("pages", n / max(len(parts), 1))
        try:
            made = charting.pdf(arrangement.score, charting.Wish(view="road-map"))
        except BadScore:
            missing.append(f"“{arrangement.song.title}” can't be read and has no page.")
            continue
        first = len(out.pages)
        out.append(PdfReader(BytesIO(made)), import_outline=False)
        out.add_outline_item(title=arrangement.song.title, page_number=first)
    if not out.pages:
        raise BadScore("No song of this list can be put on paper.")
    content = BytesIO()
    out.write(content)

    size = content.tell()

    def keep() -> list[str]:
        old = str(found.pdf.name) if found.pdf else ""
        found.pdf.save("list.pdf", ContentFile(content.getvalue()), save=False)
        SetList.objects.filter(pk=found.pk).update(pdf=found.pdf.name, pdf_size=size, pdf_of=word)
        if old:
            found.pdf.storage.delete(old)
        return missing

    with room_for(found.owner, size):
        work.finish(keep)


KIND = Kind(
    PAPER,
    make,
    (("pages", "Putting the road maps on paper", 1.0),),
    doing="These pages are being made already.",
    done="These pages have been made already.",
    failed="Making the pages failed for a reason of ours. Try again.",
    unreadable="The pages could not be written; try again.",
)
