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


def _parts(set_list: SetList) -> list[Arrangement]:
    songs = [i.song_id for i in set_list.items.all()]
    rows = Arrangement.objects.filter(song__in=songs, name=Arrangement.RECORDED)
    by_song = {a.song_id: a for a in rows.select_related("song", "take")}
    return [by_song[s] for s in dict.fromkeys(songs) if s in by_song]


def made_of(set_list: SetList) -> str:
    """A word that is another one as soon as the pages of a list would be."""
    parts = [(a.pk, a.version, a.song.title) for a in _parts(set_list)]
    return hashlib.sha256(repr((set_list.title, parts)).encode()).hexdigest()


def ask(set_list: SetList, who: Any) -> Job | None:
    """Asks for the pages, unless they are being made or are there as they would be."""
    newest = Job.objects.filter(kind=PAPER, subject=set_list.pk).order_by("-pk").first()
    if (newest is not None and newest.is_open) or (
        set_list.pdf and set_list.pdf_of == made_of(set_list)
    ):
        return newest
    return queue.start(PAPER, None, set_list.pk, who)


def make(work: Work) -> None:
    """One PDF, a road map after the other. Raises BadScore where no song of the list is
    readable; Cancelled where it is gone."""
    set_list = SetList.objects.prefetch_related("items").filter(pk=work.job.subject).first()
    if set_list is None:
        raise Cancelled("The list is gone.")
    parts, word = _parts(set_list), made_of(set_list)
    out, missing = PdfWriter(), []
    for n, arrangement in enumerate(parts):
        work.tell("pages", n / max(len(parts), 1))
        try:
            pages = charting.pdf(arrangement.score, charting.Wish(view="road-map"))
        except BadScore:
            missing.append(f"“{arrangement.song.title}” can't be read and has no page.")
            continue
        first = len(out.pages)
        out.append(PdfReader(BytesIO(pages)), import_outline=False)
        out.add_outline_item(title=arrangement.song.title, page_number=first)
    if not out.pages:
        raise BadScore("No song of this list can be put on paper.")
    content = BytesIO()
    out.write(content)

    size = content.tell()

    def keep() -> list[str]:
        old = str(set_list.pdf.name) if set_list.pdf else ""
        set_list.pdf.save("list.pdf", ContentFile(content.getvalue()), save=False)
        SetList.objects.filter(pk=set_list.pk).update(
            pdf=set_list.pdf.name, pdf_size=size, pdf_of=word
        )
        if old:
            set_list.pdf.storage.delete(old)
        return missing

    with room_for(set_list.owner, size):
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
