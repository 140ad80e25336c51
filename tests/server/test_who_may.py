"""Every call of the API, tried by everybody: who may (the table), and nobody else."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.files.base import ContentFile
from django.db import transaction
from drf_spectacular.generators import SchemaGenerator
from jobs.models import Job
from keeping.models import Backup
from library.models import RequestForm, Song, Take
from people.models import Group, Invitation
from planning.models import SetList
from practice.models import Clip, PlayAlong, PlayerLink, PractisedSound
from rest_framework.test import APIClient
from sharing.models import Comment, NamedVersion
from transcription.models import Arrangement

from tests.server.who_may import WHO

_RANKS = ("anybody", "account", "player", "editor", "owner")


@pytest.fixture(scope="module")
def schema():
    return SchemaGenerator().get_schema(request=None, public=True)


def test_every_call_stands_in_the_table(schema):
    there = {(method, path) for path, methods in schema["paths"].items() for method in methods}
    assert there - WHO.keys() == set(), "say in tests/server/who_may.py who may"
    assert WHO.keys() - there == set(), "these calls are no more"


@pytest.fixture
def world(client, user, heard):
    """A song with one of everything, shared with a group; and the numbers by which it is called."""
    group = Group.objects.create(name="The Ferrymen")
    people = {"owner": user}
    for name in ("editor", "player", "account"):
        people[name] = User.objects.create_user(name, password="shot")
    for name in ("owner", "editor", "player"):
        group.members.create(user=people[name], role=name)
    song = Song.objects.get(pk=heard["id"])
    song.groups.add(group)
    take, part = Take.objects.get(), Arrangement.objects.get()
    Take.objects.update(rights="own")
    other = part.copy("Level 2", part.score)
    link = PlayerLink.objects.create(arrangement=part, title="L", with_recording=True)
    form = RequestForm.objects.create(owner=user, title="Ask")
    wish = Song.objects.create(owner=user, form=form, title="Wish")
    listed = SetList.objects.create(
        owner=user, title="Friday", group=group, token="token-of-a-list"
    )
    listed.items.create(place=1, song=song)
    listed.pdf.save("x.pdf", ContentFile(b"%PDF"))
    member = group.members.create(user=User.objects.create_user("drummer"), role="player")
    invitation = Invitation.objects.create(group=group, made_by=user)
    backup = Backup.objects.create(user=user)
    backup.file.save("x", ContentFile(b"x"))
    zipped = PlayAlong.objects.create(arrangement=part, wish={})
    zipped.file.save("x.zip", ContentFile(b"x"))
    practised = PractisedSound.objects.create(
        user=user,
        arrangement=part,
        name="p",
        first=1,
        last=2,
        order="computed",
        stage=0,
        share=1,
        file=ContentFile(b"x", "p.wav"),
    )
    clip = Clip.objects.create(
        arrangement=part,
        first=1,
        last=2,
        order="computed",
        stage="s",
        name="c",
        kind="audio/ogg",
        file=ContentFile(b"x", "c.ogg"),
    )
    job = Job.objects.create(owner=user, song=song, kind="play_along", subject=1, state="refused")
    ids = {
        "songs": song.pk,
        "takes": take.pk,
        "comments": Comment.objects.create(arrangement=part, author=user, words="w").pk,
        "groups": group.pk,
        "jobs": job.pk,
        "kept-fills": client.post(
            "/api/kept-fills", {"song": heard["id"], "fill": 0}, format="json"
        ).json()["id"],
        "named-versions": NamedVersion.objects.create(arrangement=part, version=0, name="v").pk,
        "play-alongs": zipped.pk,
        "player-links": link.pk,
        "practised-sounds": practised.pk,
        "set-lists": listed.pk,
        "clips": clip.pk,
    }
    tokens = {
        "player": link.token,
        "asked": form.token,
        "given-lists": listed.token,
        "invitations": invitation.token,
    }
    numbers = {
        "arrangements": other.pk,
        "invitations": invitation.pk,
        "pages": 1,
        "sound": 0,
        "clips": clip.pk,
    }
    more = {
        "user": member.user_id,
        "{song}": song.pk,
        "{group}": group.pk,
        "{invitation}": invitation.token,
        "wish": wish.pk,
    }
    return people, ids, tokens, numbers, more


def address(path, query, ids, tokens, numbers, more):
    parts = path.strip("/").split("/")
    for k, part in enumerate(parts):
        before = parts[k - 1]
        if part == "{id}":
            parts[k] = ids[before]
        elif part == "{word}":
            parts[k] = "trip" if before == "words" else "kettle"  # a lesson counts in letters
        elif part == "{token}":
            parts[k] = tokens[before]
        elif part == "{number}":
            parts[k] = numbers[before]
        elif part == "{user}":
            parts[k] = more["user"]
    return "/" + "/".join(map(str, parts)) + (f"?{query}" if query else "")


_TWO_WORLDS = {"post /api/songs/{id}/restore", "post /api/songs/{id}/erase"}


def test_nobody_may_more_than_the_table_says(world):
    people, ids, tokens, numbers, more = world
    names = {role: who.username for role, who in people.items()}
    faults = []
    for (method, path), (least, body, query) in sorted(WHO.items()):
        at = address(path, query, ids, tokens, numbers, more)
        filled = {k: more.get(v, v) if isinstance(v, str) else v for k, v in (body or {}).items()}
        if path.endswith("/votes"):
            filled["song"] = more["wish"]
        multipart = path.endswith(("/packages", "/takes", "/practised-sounds"))
        for name in ("nobody", "account", "player", "editor", "owner"):
            cache.clear()  # nobody is asked to wait here
            client = APIClient()
            if name != "nobody":
                client.force_authenticate(User.objects.get(username=names[name]))
            may = _may(name, least)
            with transaction.atomic():
                if f"{method} {path}" in _TWO_WORLDS:
                    Song.objects.filter(pk=ids["songs"]).update(removed="2026-01-01T00:00Z")
                answer = getattr(client, method)(
                    at,
                    filled,
                    **({"format": "multipart" if multipart else "json"} if method != "get" else {}),
                )
                transaction.set_rollback(True)
            told = f"{name}: {method} {path} -> {answer.status_code}"
            if may and answer.status_code in (401, 403, 404, 500):
                faults.append(f"{told}, but may: {answer.content[:160]!r}")
            elif not may and answer.status_code not in (401, 403, 404):
                faults.append(f"{told}, but may not")
    assert not faults, "\n".join(faults)


def _may(name: str, least: str) -> bool:
    if least in ("asker", "group_owner"):
        return name == "owner"
    return _RANKS.index("anybody" if name == "nobody" else name) >= _RANKS.index(least)
