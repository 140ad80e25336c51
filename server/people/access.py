"""Roles of a person, and what is told where one is not enough."""

from __future__ import annotations

from typing import Any

from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request

from people.models import EDITOR, OWNER, PLAYER, Membership

#: What somebody wants of a thing: to see it, to change it, to decide over it.
SEE, EDIT, OWN = "see", "edit", "own"
#: The roles in a group which let somebody do that with what is shared with the group.
ROLES_THAT = {SEE: (PLAYER, EDITOR, OWNER), EDIT: (EDITOR, OWNER), OWN: ()}
_SAFE = ("GET", "HEAD", "OPTIONS")


def wanted(request: Request) -> str:
    """What a request wants of a thing where nothing else is said: who asks sees, who sends
    changes."""
    return SEE if request.method in _SAFE else EDIT


def not_enough(name: str, want: str) -> PermissionDenied:
    """The refusal for somebody who sees a thing but may not do that with it."""
    what = "change it" if want == EDIT else "decide over it"
    return PermissionDenied(
        f"“{name}” is shared with you to play along; whoever shared it can let you {what}."
    )


def groups_with(user: Any, want: str) -> Any:
    """The numbers of the groups whose things a person may see, change or decide over."""
    memberships = Membership.objects.filter(user=user.pk, role__in=ROLES_THAT[want])
    return memberships.values("group")
