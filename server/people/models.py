"""Who works with whom: bands and classes, what each member may, and the invitations to them."""

from __future__ import annotations

import secrets
from datetime import timedelta
from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.sessions.base_session import AbstractBaseSession, BaseSessionManager
from django.db import models
from django.utils import timezone

#: What somebody may do with what is shared with a group, least first: a player sees, plays and
#: says; an editor changes too; an owner also decides who belongs to it.
PLAYER, EDITOR, OWNER = ROLES = ("player", "editor", "owner")
_INVITED_FOR = timedelta(days=14)


class GroupQuerySet(models.QuerySet["Group"]):
    def visible_to(self, user: Any, *, roles: tuple[str, ...] = ROLES) -> GroupQuerySet:
        """The groups in which somebody has one of some roles."""
        memberships = Membership.objects.filter(user=user.pk, role__in=roles)
        return self.filter(pk__in=memberships.values("group"))


class Group(models.Model):
    """A band or a class: songs, lessons and set lists are shared with it."""

    KINDS = ("band", "class")

    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=8, choices=[(k, k) for k in KINDS], default="band")
    created = models.DateTimeField(default=timezone.now)

    objects = GroupQuerySet.as_manager()

    class Meta:
        ordering = ["name", "id"]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """One person in one group."""

    group = models.ForeignKey(Group, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )
    role = models.CharField(max_length=8, choices=[(r, r) for r in ROLES], default=PLAYER)

    class Meta:
        ordering = ["user__username"]
        constraints = [models.UniqueConstraint(fields=["group", "user"], name="once_a_group")]

    def __str__(self) -> str:
        return f"{self.user} in {self.group}: {self.role}"


def _new_token() -> str:
    return secrets.token_urlsafe(18)


def _in_two_weeks() -> Any:
    return timezone.now() + _INVITED_FOR


class InvitationQuerySet(models.QuerySet["Invitation"]):
    def open(self, token: str) -> InvitationQuerySet:
        """The invitation at an address nobody guesses, as long as it stands."""
        return self.filter(token=token, used=None, until__gt=timezone.now())


class Invitation(models.Model):
    """An address by which one person joins a group, and gets an account where they have none.

    group: none where it is for an account alone. used: when somebody came by it.
    """

    group = models.ForeignKey(
        Group, on_delete=models.CASCADE, related_name="invitations", null=True
    )
    role = models.CharField(max_length=8, choices=[(r, r) for r in ROLES], default=PLAYER)
    token = models.CharField(max_length=40, unique=True, default=_new_token)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    until = models.DateTimeField(default=_in_two_weeks)
    used = models.DateTimeField(null=True)

    objects = InvitationQuerySet.as_manager()

    def __str__(self) -> str:
        return f"to {self.group or 'an account'}"


class LogIn(AbstractBaseSession):
    """A session, with whose it is, on what, and when it was last written."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="log_ins"
    )
    what = models.CharField(max_length=200, blank=True)
    seen = models.DateTimeField(auto_now=True)

    objects = BaseSessionManager()  # type: ignore[misc]

    @classmethod
    def get_session_store_class(cls) -> type:
        return import_module(settings.SESSION_ENGINE).SessionStore
