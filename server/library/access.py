"""Whether who asks may do that with a song; the one refusal where they only see it."""

from __future__ import annotations

from people.access import OWN, SEE, not_enough, wanted
from rest_framework.request import Request

from library.models import Song


def must_be_allowed(request: Request, song: Song, may: str | None = None) -> None:
    """Raises PermissionDenied where somebody who sees a song may not do that with it.

    may: of people.access; where it is not said, what the request's method wants.
    """
    may = may or wanted(request)
    if may == SEE or song.owner_id == request.user.pk:
        return
    allowed = Song.objects.visible_to(request.user, may=may).filter(pk=song.pk)
    if may == OWN or not allowed.exists():
        raise not_enough(song.title, may)
