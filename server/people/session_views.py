"""Logging in and out, one's account, and where one is logged in."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from config.rates import Limit, OpenRate, Rate
from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core.exceptions import ValidationError as Invalid
from django.db import IntegrityError, transaction
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import PermissionDenied, ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from people import answers
from people.models import Invitation, LogIn
from people.sessions import WHAT


def me(request: Request) -> User:
    """Who asks, of those who are logged in."""
    assert isinstance(request.user, User)
    return request.user


def _state(request: Request) -> Response:
    user = request.user
    return answered(
        answers.SessionState,
        name=user.username if user.is_authenticated else None,
        sign_up_is_open=settings.SIGN_UP_IS_OPEN,
    )


def _enter(request: Request, user: User) -> None:
    login(request._request, user)
    request._request.session[WHAT] = _device(request.headers.get("User-Agent", ""))
    request.user = user


def _device(agent: str) -> str:
    """A browser and its machine in two words, out of what the browser says of itself."""
    browsers = ("Firefox", "Edg", "Chrome", "Safari")
    machines = ("Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux")
    browser = next((b for b in browsers if b in agent), "A browser")
    machine = next((m for m in machines if m in agent), "a machine")
    return f"{browser.replace('Edg', 'Edge')} on {machine}"


@method_decorator(csrf_protect, name="dispatch")  # also before anybody is logged in
class SessionView(APIView):
    """Who is logged in; log in; log out."""

    permission_classes = [AllowAny]

    @extend_schema(responses=answers.SessionState)
    def get(self, request: Request) -> Response:
        return _state(request)

    @extend_schema(request=answers.Credentials, responses=answers.SessionState)
    def post(self, request: Request) -> Response:
        given = read(answers.Credentials, request.data, "log-in")
        user = authenticate(request._request, username=given.name, password=given.password)
        if user is None:
            return Response({"detail": "Name and password don't match."}, status=403)
        _enter(request, user)
        return _state(request)

    @extend_schema(responses=answers.SessionState)
    def delete(self, request: Request) -> Response:
        logout(request)
        return _state(request)


def checked_password(password: str, user: User) -> None:
    """Raises ValidationError, in one sentence, where a password is too easily guessed."""
    try:
        validate_password(password, user)
    except Invalid as problem:
        raise ValidationError(problem.messages[0]) from None


class _SignUpRate(Rate):
    limit = Limit("sign_up", "20/hour")


#: Wrong passwords of somebody who is logged in, wherever they are tried from.
_WRONG = Limit("wrong_password", "8/hour")


def must_be_password(user: User, password: str, else_said: str) -> None:
    """Raises PermissionDenied with a sentence where it is not somebody's password, Throttled where
    it was guessed too often."""
    _WRONG.must_have_left(user.pk)
    if not user.check_password(password):
        _WRONG.use(user.pk)
        raise PermissionDenied(else_said)


_USED_UP = "This invitation was used or has run out; ask for a new one."


@method_decorator(csrf_protect, name="dispatch")
class AccountsView(APIView):
    """A new account: by invitation, or by anybody where this house allows it."""

    permission_classes = [AllowAny]
    throttle_classes = [_SignUpRate]

    @extend_schema(request=answers.NewAccount, responses={201: answers.SessionState})
    def post(self, request: Request) -> Response:
        given = read(answers.NewAccount, request.data, "account")
        if not (settings.SIGN_UP_IS_OPEN or given.invitation):
            raise PermissionDenied("An account here needs an invitation; ask somebody who has one.")
        if given.invitation and not Invitation.objects.open(given.invitation).exists():
            raise PermissionDenied(_USED_UP)  # before anything is said of the name
        user = User(username=given.name)
        try:
            UnicodeUsernameValidator()(given.name)
        except Invalid:
            raise ValidationError("A name is of letters, digits and @ . + - _ only.") from None
        checked_password(given.password, user)
        user.set_password(given.password)
        try:
            with transaction.atomic():
                user.save()
                if given.invitation:
                    use(given.invitation, user)
        except IntegrityError:
            raise ValidationError(f"The name “{given.name}” is taken; choose another.") from None
        user.backend = "django.contrib.auth.backends.ModelBackend"
        _enter(request, user)
        answer = _state(request)
        answer.status_code = 201
        return answer


def use(token: str, user: User) -> None:
    """Somebody comes by an invitation, which stands for one person. Raises PermissionDenied."""
    with transaction.atomic():
        invitation = (
            Invitation.objects.select_for_update().open(token).select_related("group").first()
        )
        if invitation is None:
            raise PermissionDenied(_USED_UP)
        if invitation.group is not None:
            invitation.group.members.get_or_create(user=user, defaults={"role": invitation.role})
        invitation.used = timezone.now()
        invitation.save(update_fields=["used"])


class PasswordView(APIView):
    """Another password; every other place where one is logged in has to log in again."""

    @extend_schema(request=answers.PasswordChange, responses={204: None})
    def put(self, request: Request) -> Response:
        given = read(answers.PasswordChange, request.data, "change of password")
        user = me(request)
        must_be_password(user, given.old, "The password you have now is another one.")
        checked_password(given.new, user)
        user.set_password(given.new)
        user.save(update_fields=["password"])
        update_session_auth_hash(request._request, user)
        return Response(status=204)


class DevicesView(APIView):
    """Where one is logged in."""

    @extend_schema(responses=answers.Devices)
    def get(self, request: Request) -> Response:
        here = request._request.session.session_key
        rows = LogIn.objects.filter(user=me(request), expire_date__gt=timezone.now())
        return answered(
            answers.Devices, devices=[_told(row, here) for row in rows.order_by("-seen")]
        )

    @extend_schema(responses={204: None})
    def delete(self, request: Request) -> Response:
        """Log out everywhere but here."""
        here = request._request.session.session_key
        LogIn.objects.filter(user=me(request)).exclude(session_key=here).delete()
        return Response(status=204)


def _told(row: LogIn, here: str | None) -> dict[str, Any]:
    # A session's key lets its holder in: only its end is told.
    return {
        "id": row.session_key[-6:],
        "what": row.what or "A browser",
        "seen": row.seen.isoformat(),
        "is_this": row.session_key == here,
    }


class InvitationView(APIView):
    """What an invitation is for, and coming by it with the account one has."""

    permission_classes = [AllowAny]
    throttle_classes = [OpenRate]

    @extend_schema(responses=answers.InvitationTold)
    def get(self, request: Request, token: str) -> Response:
        rows = Invitation.objects.open(token).select_related("group", "made_by")
        invitation = get_object_or_404(rows)
        group = invitation.group
        return answered(
            answers.InvitationTold,
            group=group.name if group else "",
            kind=group.kind if group else "band",
            role=invitation.role,
            by=invitation.made_by.username,
        )

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, token: str) -> Response:
        if not request.user.is_authenticated:
            raise PermissionDenied("Log in first, or make an account by this invitation.")
        use(token, me(request))
        return Response(status=204)
