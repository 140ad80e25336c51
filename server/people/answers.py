"""What the API takes and gives of people and groups."""

# Types that are made from lists of words: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, chosen
from pydantic import BaseModel, ConfigDict, Field

from people.models import ROLES, Group

Role, GroupKind = chosen(ROLES), chosen(Group.KINDS)
_Password = Annotated[str, Field(min_length=1, max_length=200)]
_Strict = ConfigDict(extra="ignore", strict=True)


class Credentials(BaseModel):
    model_config = _Strict
    name: Annotated[str, Field(min_length=1, max_length=150)]
    password: _Password


class NewAccount(Credentials):
    """invitation: the word at the end of an invitation's address; "" where sign-up is open."""

    invitation: Annotated[str, Field(max_length=40)] = ""


class PasswordChange(BaseModel):
    model_config = _Strict
    old: _Password
    new: _Password


class PasswordAgain(BaseModel):
    """What ends an account asks for its password once more."""

    model_config = _Strict
    password: _Password


class SessionState(Answer):
    """Who is logged in (null: nobody), and whether anybody may make an account."""

    name: str | None
    sign_up_is_open: bool


class Device(Answer):
    """Where somebody is logged in. seen: when it last asked for anything."""

    id: str
    what: str
    seen: str
    is_this: bool


class Devices(Answer):
    devices: list[Device]


class Member(Answer):
    user: int
    name: str
    role: Role
    is_me: bool


class OpenInvitation(Answer):
    id: int
    role: Role
    address: str
    until: str


class GroupTold(Answer):
    """role: the asker's own. songs: that are shared with it."""

    id: int
    name: str
    kind: GroupKind
    role: Role
    songs: int
    members: list[Member]
    invitations: list[OpenInvitation]


class GroupList(Answer):
    groups: list[GroupTold]


class GroupRequest(BaseModel):
    model_config = _Strict
    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: GroupKind = "band"


class RoleRequest(BaseModel):
    model_config = _Strict
    role: Role


class InvitationTold(Answer):
    """An invitation as whoever opens it sees it. group: "" where it is for an account alone."""

    group: str
    kind: GroupKind
    role: Role
    by: str
