"""Comments by whoever shares a song, who changed what and when, and named versions."""

from __future__ import annotations

import re
from typing import Any

from arrangements import log
from arrangements.differences import differing
from config.answers import answered, read
from config.errors import Conflict
from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.db.models import Q
from django.utils import timezone
from drf_spectacular.utils import OpenApiParameter, extend_schema
from library.access import must_be_allowed
from library.models import Song
from people.access import SEE
from people.models import Membership
from rest_framework.exceptions import PermissionDenied, ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_arrangement, read_arrangement
from transcription.models import Arrangement, Edit

from orchesis import explanations
from orchesis.editing import described
from orchesis.errors import BadScore
from orchesis.grooves.compare import compare
from orchesis.score.edit import printable_text
from orchesis.score.untrusted import read_whole
from sharing import answers
from sharing.models import Comment, NamedVersion

_MOST_COMMENTS, _LINES = 500, 50


def people_of(song: Song) -> list[User]:
    """Whoever shares a song: its owner, and the members of the groups it is shared with."""
    members = Membership.objects.filter(group__in=song.groups.all()).values("user")
    return list(User.objects.filter(Q(pk=song.owner_id) | Q(pk__in=members)).order_by("username"))


def _name(user: User | None) -> str:
    return "" if user is None else user.username


def _told(comment: Comment, asker: Any) -> dict[str, Any]:
    return {
        "id": comment.pk,
        "bar": comment.bar,
        "section": comment.section,
        "answers": comment.answers_id,
        "author": _name(comment.author),
        "words": comment.words,
        "mentions": [u.username for u in comment.mentions.all()],
        "created": comment.created.isoformat(),
        "resolved": comment.resolved and comment.resolved.isoformat(),
        "resolved_by": _name(comment.resolved_by),
        "may_change": comment.author_id == asker.pk,
    }


def _mentioned(text: str, people: list[User]) -> list[User]:
    called = {name.lower() for name in re.findall(r"@([\w.+-]+)", text)}
    return [u for u in people if u.username.lower() in called]


class CommentsView(APIView):
    @extend_schema(responses=answers.Comments)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = asked_arrangement(request, pk)
        rows = arrangement.comments.select_related("author", "resolved_by").prefetch_related(
            "mentions"
        )
        return answered(
            answers.Comments,
            comments=[_told(c, request.user) for c in rows],
            people=[u.username for u in people_of(arrangement.song)],
        )

    @extend_schema(request=answers.CommentRequest, responses={201: answers.CommentTold})
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.CommentRequest, request.data, "comment")
        arrangement = read_arrangement(request, pk, SEE)
        score = arrangement.score
        if asked.bar > score.bar_count:
            raise ValidationError(f"The song has {score.bar_count} bars, and no bar {asked.bar}.")
        if asked.section and asked.section not in {s.id for s in score.sections}:
            raise ValidationError("There is no such section any more.")
        if arrangement.comments.count() >= _MOST_COMMENTS:
            raise Conflict(f"A song has {_MOST_COMMENTS} comments at the most; delete some first.")
        above = None
        if asked.answers is not None:
            above = get_object_or_404(arrangement.comments.filter(answers=None), pk=asked.answers)
        text = printable_text(asked.words)
        with transaction.atomic():
            comment = Comment.objects.create(
                arrangement=arrangement,
                words=text,
                author_id=request.user.pk,
                answers=above,
                bar=above.bar if above else asked.bar,
                section=above.section if above else asked.section,
            )
            comment.mentions.set(_mentioned(text, people_of(arrangement.song)))
        return answered(answers.CommentTold, status=201, **_told(comment, request.user))


class CommentView(APIView):
    """One comment: its author changes and deletes it, whoever sees it settles it."""

    @extend_schema(request=answers.CommentChange, responses=answers.CommentTold)
    def patch(self, request: Request, pk: int) -> Response:
        asked = read(answers.CommentChange, request.data, "comment")
        comment = get_object_or_404(Comment.objects.visible_to(request.user), pk=pk)
        if asked.words is not None:
            self._must_be_mine(request, comment)
            comment.words = printable_text(asked.words)
            comment.mentions.set(_mentioned(comment.words, people_of(comment.arrangement.song)))
        if asked.resolved is not None:
            comment.resolved = timezone.now() if asked.resolved else None
            comment.resolved_by_id = request.user.pk if asked.resolved else None
        comment.save()
        return answered(answers.CommentTold, **_told(comment, request.user))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        comment = get_object_or_404(Comment.objects.visible_to(request.user), pk=pk)
        if comment.arrangement.song.owner_id != request.user.pk:
            self._must_be_mine(request, comment)
        comment.delete()
        return Response(status=204)

    @staticmethod
    def _must_be_mine(request: Request, comment: Comment) -> None:
        if comment.author_id != request.user.pk:
            raise PermissionDenied("Only who wrote a comment changes it; you can answer it.")


class MentionsView(APIView):
    """Open comments that ask the asker to look, in all songs."""

    @extend_schema(responses=answers.Mentions)
    def get(self, request: Request) -> Response:
        rows = Comment.objects.visible_to(request.user).filter(
            mentions=request.user.pk, resolved=None
        )
        mentions = [
            {
                "song": c.arrangement.song_id,
                "title": c.arrangement.song.title,
                "bar": c.bar,
                "author": _name(c.author),
                "words": c.words,
            }
            for c in rows.select_related("author", "arrangement__song")[:100]
        ]
        return answered(answers.Mentions, mentions=mentions)


# -- history


def _version_told(v: NamedVersion) -> dict[str, Any]:
    return {
        "id": v.pk,
        "name": v.name,
        "version": v.version,
        "by": _name(v.by),
        "at": v.created.isoformat(),
    }


def _line_told(line: Edit) -> dict[str, Any]:
    return {
        "version": line.version,
        "kind": line.kind,
        "by": _name(line.author),
        "at": line.at.isoformat(),
        "says": line.says or described(line.operation, {}, {}),
    }


class HistoryView(APIView):
    """Who changed what and when; names for versions."""

    @extend_schema(
        parameters=[OpenApiParameter("before", int, description="lines before this version")],
        responses=answers.History,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = asked_arrangement(request, pk)
        before = request.query_params.get("before")
        rows = arrangement.edits.filter(version__lte=arrangement.version).defer(
            "patch", "inverse", "args"
        )
        if before is not None:
            rows = rows.filter(version__lt=read_whole(before, 0, 2**31, "A version"))
        lines = list(rows.select_related("author").order_by("-version")[: _LINES + 1])
        named = arrangement.named_versions.select_related("by")
        return answered(
            answers.History,
            version=arrangement.version,
            lines=[_line_told(n) for n in lines[:_LINES]],
            is_all=len(lines) <= _LINES,
            named=[_version_told(v) for v in named],
        )

    @extend_schema(request=answers.VersionRequest, responses={201: answers.NamedVersionTold})
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.VersionRequest, request.data, "version")
        arrangement = read_arrangement(request, pk)
        version = arrangement.version if asked.version is None else asked.version
        if version > arrangement.version:
            raise ValidationError(f"The newest version is {arrangement.version}.")
        name = printable_text(asked.name)
        try:
            with transaction.atomic():
                named = arrangement.named_versions.create(
                    name=name, version=version, by_id=request.user.pk
                )
        except IntegrityError:
            raise Conflict(f"There is a version called “{name}” already.") from None
        return answered(answers.NamedVersionTold, status=201, **_version_told(named))


def _version(request: Request, pk: int, may: str | None = None) -> NamedVersion:
    rows = NamedVersion.objects.visible_to(request.user)
    named: NamedVersion = get_object_or_404(rows.select_related("arrangement__song"), pk=pk)
    must_be_allowed(request, named.arrangement.song, may)
    return named


class NamedVersionView(APIView):
    """A named version: what differs from it now; brought back; its name taken away."""

    @extend_schema(responses=answers.VersionDifferences)
    def get(self, request: Request, pk: int) -> Response:
        named = _version(request, pk)
        arrangement: Arrangement = named.arrangement
        then, now = arrangement.score_at(named.version), arrangement.score
        changes = [
            {
                "bar": bar,
                "says": explanations.differences(
                    compare(then.strokes_of(bar), now.strokes_of(bar)), now.meters[bar - 1]
                ),
            }
            for bar in differing(then, now)
        ]
        changed = (then.pulse, then.meters, then.sections) != (now.pulse, now.meters, now.sections)
        return answered(answers.VersionDifferences, bars=changes, form=changed)

    @extend_schema(request=None, responses=answers.BroughtBack)
    def post(self, request: Request, pk: int) -> Response:
        named = _version(request, pk)
        try:
            line = log.bring_back(named.arrangement, request.user, named.version, named.name)
        except BadScore as problem:
            raise Conflict(f"That version can't be read any more: {problem}") from None
        return answered(answers.BroughtBack, version=line.version, says=line.says)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        _version(request, pk).delete()
        return Response(status=204)
