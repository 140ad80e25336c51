"""Bands and classes: made, named, joined by invitation, left."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from config.errors import Conflict
from django.db import transaction
from django.db.models import Count, Q
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import PermissionDenied
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.score.edit import printable_text
from people import answers
from people.models import OWNER, Group, Invitation, Membership
from people.session_views import me


def _told(group: Group, request: Request) -> dict[str, Any]:
    members = list(group.members.select_related("user"))
    mine = next(m.role for m in members if m.user_id == request.user.pk)
    open_now = Invitation.objects.none()
    if mine == OWNER:
        rows = group.invitations.filter(used=None)
        open_now = Invitation.objects.filter(pk__in=[i.pk for i in rows]).order_by("until")
    return {
        "id": group.pk,
        "name": group.name,
        "kind": group.kind,
        "role": mine,
        "songs": group.songs.filter(removed=None).count(),
        "members": [
            {
                "user": m.user_id,
                "name": m.user.username,
                "role": m.role,
                "is_me": m.user_id == request.user.pk,
            }
            for m in members
        ],
        "invitations": [
            {
                "id": i.pk,
                "role": i.role,
                "address": f"/join/{i.token}",
                "until": i.until.isoformat(),
            }
            for i in open_now
        ],
    }


def _own(request: Request, pk: int) -> Group:
    """A group that the asker owns."""
    group = get_object_or_404(Group.objects.visible_to(request.user), pk=pk)
    if not Group.objects.visible_to(request.user, roles=(OWNER,)).filter(pk=pk).exists():
        raise PermissionDenied(f"Only an owner of “{group}” decides over it.")
    return group


class GroupsView(APIView):
    @extend_schema(responses=answers.GroupList)
    def get(self, request: Request) -> Response:
        groups = Group.objects.visible_to(request.user)
        return answered(answers.GroupList, groups=[_told(g, request) for g in groups])

    @extend_schema(request=answers.GroupRequest, responses={201: answers.GroupTold})
    def post(self, request: Request) -> Response:
        asked = read(answers.GroupRequest, request.data, "group")
        with transaction.atomic():
            group = Group.objects.create(name=printable_text(asked.name), kind=asked.kind)
            group.members.create(user=me(request), role=OWNER)
        return answered(answers.GroupTold, status=201, **_told(group, request))


class GroupView(APIView):
    @extend_schema(request=answers.GroupRequest, responses=answers.GroupTold)
    def put(self, request: Request, pk: int) -> Response:
        asked = read(answers.GroupRequest, request.data, "group")
        group = _own(request, pk)
        group.name, group.kind = printable_text(asked.name), asked.kind
        group.save(update_fields=["name", "kind"])
        return answered(answers.GroupTold, **_told(group, request))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """The group is no more; what was shared with it stays with whoever owns it."""
        _own(request, pk).delete()
        return Response(status=204)


class InvitationsView(APIView):
    @extend_schema(request=answers.RoleRequest, responses=answers.GroupTold)
    def post(self, request: Request, pk: int) -> Response:
        """An invitation for one person, by an address to be handed on; it stands two weeks."""
        asked = read(answers.RoleRequest, request.data, "invitation")
        group = _own(request, pk)
        if group.invitations.filter(used=None).count() >= 60:
            raise Conflict("60 invitations are open; withdraw one first.")
        group.invitations.create(role=asked.role, made_by=me(request))
        return answered(answers.GroupTold, **_told(group, request))


class InvitationOfGroupView(APIView):
    @extend_schema(responses={200: answers.GroupTold})
    def delete(self, request: Request, pk: int, number: int) -> Response:
        group = _own(request, pk)
        get_object_or_404(group.invitations.filter(used=None), pk=number).delete()
        return answered(answers.GroupTold, **_told(group, request))


class MemberView(APIView):
    """One member: another role, or gone. Anybody may leave; a group keeps an owner."""

    def _member(self, request: Request, pk: int, user: int) -> Membership:
        group = get_object_or_404(Group.objects.visible_to(request.user), pk=pk)
        if user != request.user.pk:
            _own(request, pk)
        return get_object_or_404(group.members.select_for_update(), user=user)

    @staticmethod
    def _must_keep_an_owner(member: Membership) -> None:
        owners = Membership.objects.filter(group=member.group_id, role=OWNER)
        if member.role == OWNER and not owners.exclude(pk=member.pk).exists():
            raise Conflict("A group keeps an owner: make somebody else one first.")

    @extend_schema(request=answers.RoleRequest, responses=answers.GroupTold)
    def put(self, request: Request, pk: int, user: int) -> Response:
        asked = read(answers.RoleRequest, request.data, "role")
        with transaction.atomic():
            _own(request, pk)
            member = self._member(request, pk, user)
            if asked.role != OWNER:
                self._must_keep_an_owner(member)
                member.group.invitations.filter(used=None, made_by=member.user_id).delete()
            member.role = asked.role
            member.save(update_fields=["role"])
        return answered(answers.GroupTold, **_told(member.group, request))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int, user: int) -> Response:
        with transaction.atomic():
            member = self._member(request, pk, user)
            self._must_keep_an_owner(member)
            # Nobody comes back by an invitation of their own.
            member.group.invitations.filter(used=None, made_by=member.user_id).delete()
            member.delete()
        return Response(status=204)


def leave_all(user: Any) -> None:
    """Before an account ends: its groups get another owner, or end where nobody is left."""
    for group in Group.objects.visible_to(user, roles=(OWNER,)):
        others = group.members.exclude(user=user)
        if not others.exists():
            group.delete()
        elif not others.filter(role=OWNER).exists():
            heir = others.annotate(first=Count("pk", filter=Q(role="editor"))).order_by(
                "-first", "pk"
            )[0]
            heir.role = OWNER
            heir.save(update_fields=["role"])
