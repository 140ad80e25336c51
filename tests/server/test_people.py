"""Accounts, groups, invitations, and what each role may do with a shared song."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone
from jobs import queue
from jobs.models import Job
from library.models import Song
from people.models import Group, Invitation, LogIn, Membership
from rest_framework.test import APIClient

GOOD = "nine brass lanterns"


def as_(user: User) -> APIClient:
    client = APIClient()
    client.force_authenticate(user)
    return client


@pytest.fixture
def band(user):
    """A band of the song's owner, with an editor and a player in it; and a stranger."""
    group = Group.objects.create(name="The Ferrymen")
    people = {"owner": user}
    for name in ("editor", "player", "stranger"):
        people[name] = User.objects.create_user(name, password=GOOD)
    for name in ("owner", "editor", "player"):
        group.members.create(user=people[name], role=name)
    return group, people


@pytest.fixture
def shared(client, heard, band):
    group, people = band
    done = client.patch(f"/api/songs/{heard['id']}", {"groups": [group.pk]}, format="json")
    assert done.status_code == 200 and done.json()["groups"] == [group.pk]
    return heard["id"], {name: as_(who) for name, who in people.items()}


# -- accounts


def post(browser: Client, address: str, body: dict):
    return browser.post(f"/api/{address}", body, content_type="application/json")


def test_an_account_needs_an_invitation_and_a_password_nobody_guesses(user, settings):
    browser = Client()
    asked = {"name": "ilka", "password": GOOD}
    assert post(browser, "accounts", asked).status_code == 403
    group = Group.objects.create(name="Thursday class", kind="class")
    made = Invitation.objects.create(group=group, made_by=user)
    told = browser.get(f"/api/invitations/{made.token}").json()
    assert told == {"group": "Thursday class", "kind": "class", "role": "player", "by": "rim"}
    for password in ("short", "password123", "82347109234"):
        refused = post(
            browser, "accounts", asked | {"invitation": made.token, "password": password}
        )
        assert refused.status_code == 400 and refused.json()["detail"].endswith(".")
    done = post(browser, "accounts", asked | {"invitation": made.token})
    assert done.status_code == 201 and done.json()["name"] == "ilka"
    assert Membership.objects.get(group=group).user.username == "ilka"
    # It stood for one person, and a refused account used nothing up.
    assert (
        post(Client(), "accounts", {**asked, "name": "bo", "invitation": made.token}).status_code
        == 403
    )
    assert not User.objects.filter(username="bo").exists()
    settings.SIGN_UP_IS_OPEN = True
    taken = post(Client(), "accounts", asked)
    assert taken.status_code == 400 and "taken" in taken.json()["detail"]
    odd = post(Client(), "accounts", {**asked, "name": "a b/c"})
    assert odd.status_code == 400 and "letters" in odd.json()["detail"]
    assert post(Client(), "accounts", {**asked, "name": "bo"}).status_code == 201


def test_an_invitation_runs_out(user):
    old = Invitation.objects.create(made_by=user, until=timezone.now() - timedelta(minutes=1))
    assert Client().get(f"/api/invitations/{old.token}").status_code == 404


def test_another_password_ends_the_other_log_ins(user):
    here, there = Client(), Client(headers={"user-agent": "Mozilla Firefox/1 (Android)"})
    for browser in (here, there):
        browser.force_login(user)
    post(there, "session", {"name": "rim", "password": "shot"})
    assert "Firefox on Android" in [
        d["what"] for d in here.get("/api/account/devices").json()["devices"]
    ]
    wrong = here.put(
        "/api/account/password", {"old": "x", "new": GOOD}, content_type="application/json"
    )
    assert wrong.status_code == 403
    done = here.put(
        "/api/account/password", {"old": "shot", "new": GOOD}, content_type="application/json"
    )
    assert done.status_code == 204
    assert here.get("/api/songs").status_code == 200
    assert there.get("/api/songs").status_code == 403


def test_one_can_log_out_everywhere_else(user):
    here, there = Client(), Client()
    for browser in (here, there):
        browser.force_login(user)
    assert here.delete("/api/account/devices").status_code == 204
    assert LogIn.objects.filter(user=user).count() == 1
    assert (here.get("/api/songs").status_code, there.get("/api/songs").status_code) == (200, 403)


# -- groups


def test_a_group_is_made_joined_and_left(client, user):
    group = client.post("/api/groups", {"name": "The trio", "kind": "band"}, format="json").json()
    assert [(m["name"], m["role"]) for m in group["members"]] == [("rim", "owner")]
    told = client.post(f"/api/groups/{group['id']}/invitations", {"role": "editor"}, format="json")
    address = told.json()["invitations"][0]["address"]
    bo = User.objects.create_user("bo", password=GOOD)
    assert as_(bo).post(f"/api/invitations/{address.split('/')[-1]}").status_code == 204
    seen = as_(bo).get("/api/groups").json()["groups"][0]
    assert seen["role"] == "editor" and seen["invitations"] == []
    at = f"/api/groups/{group['id']}/members"
    assert as_(bo).put(f"{at}/{user.pk}", {"role": "player"}, format="json").status_code == 403
    alone = client.delete(f"{at}/{user.pk}")
    assert alone.status_code == 409 and "keeps an owner" in alone.json()["detail"]
    assert client.put(f"{at}/{bo.pk}", {"role": "owner"}, format="json").status_code == 200
    assert client.delete(f"{at}/{user.pk}").status_code == 204
    assert client.get("/api/groups").json()["groups"] == []
    assert client.put(f"/api/groups/{group['id']}", {"name": "x"}, format="json").status_code == 404


def test_an_invitation_can_be_withdrawn(client, user):
    group = client.post("/api/groups", {"name": "The trio"}, format="json").json()
    at = f"/api/groups/{group['id']}/invitations"
    made = client.post(at, {"role": "player"}, format="json").json()["invitations"][0]
    assert client.delete(f"{at}/{made['id']}").json()["invitations"] == []
    assert as_(user).get(f"/api{made['address'].replace('join', 'invitations')}").status_code == 404


def test_a_removed_owner_does_not_come_back_by_their_own_invitation(client, band):
    group, people = band
    for leaves in ("removed", "made a player"):
        group.members.update_or_create(user=people["editor"], defaults={"role": "owner"})
        made = as_(people["editor"]).post(
            f"/api/groups/{group.pk}/invitations", {"role": "owner"}, format="json"
        )
        token = made.json()["invitations"][0]["address"].split("/")[-1]
        at = f"/api/groups/{group.pk}/members/{people['editor'].pk}"
        if leaves == "removed":
            assert client.delete(at).status_code == 204
        else:
            assert client.put(at, {"role": "player"}, format="json").status_code == 200
        answer = as_(people["editor"]).post(f"/api/invitations/{token}")
        assert answer.status_code == 403, leaves
        assert not group.members.filter(user=people["editor"], role="owner").exists()


def test_a_bogus_invitation_tells_nothing_of_names(user, settings):
    settings.SIGN_UP_IS_OPEN = True
    answers = [
        post(Client(), "accounts", {"name": name, "password": GOOD, "invitation": "nothing"})
        for name in (user.username, "nobody-has-this")
    ]
    assert [a.status_code for a in answers] == [403, 403]
    assert answers[0].json() == answers[1].json()


# -- what a role may


def test_each_role_may_what_it_says(shared):
    song, by = shared
    at = f"/api/songs/{song}"
    body = {"base": 0, "edit": {"operation": "rename_section", "id": "sec1", "name": "Dawn"}}
    loop = {
        "first": 1,
        "last": 2,
        "order": "computed",
        "stage": 0,
        "judgement": "relaxed",
        "tempo": 60.0,
        "seconds": 8.0,
    }
    rows = [
        # what is done, and what owner, editor, player, stranger are answered
        (lambda c: c.get(at), 200, 200, 200, 404),
        (lambda c: c.get(f"{at}/transcription"), 200, 200, 200, 404),
        (lambda c: c.get(f"{at}/chart"), 200, 200, 200, 404),
        (lambda c: c.get(f"{at}/player-links"), 200, 200, 403, 404),
        (lambda c: c.post(f"{at}/transcription/edits", body, format="json"), 200, 200, 403, 404),
        (
            lambda c: c.post(f"{at}/transcription/undo", {"base": 0}, format="json"),
            200,
            200,
            403,
            404,
        ),
        (lambda c: c.post(f"{at}/arrangements", {"name": "x"}, format="json"), 201, 409, 403, 404),
        (lambda c: c.patch(at, {"title": "Other"}, format="json"), 200, 200, 403, 404),
        (lambda c: c.patch(at, {"groups": []}, format="json"), None, 403, 403, 404),
        (lambda c: c.post(f"{at}/loops", loop, format="json"), 200, 200, 200, 404),
        (lambda c: c.post(f"{at}/play-alongs", {}, format="json"), 200, 200, 200, 404),
        (lambda c: c.delete(at), None, 403, 403, 404),
    ]
    for n, (act, *statuses) in enumerate(rows):
        for name, status in zip(("owner", "editor", "player", "stranger"), statuses, strict=True):
            if status is not None:
                answer = act(by[name])
                assert answer.status_code == status, (n, name, answer.content[:300])
    told = {name: c.get("/api/songs").json()["results"] for name, c in by.items()}
    assert [told[n][0]["may"] for n in ("owner", "editor", "player")] == ["own", "edit", "see"]
    assert told["stranger"] == []


def test_a_song_in_the_bin_is_its_owners_alone(shared):
    song, by = shared
    assert by["owner"].delete(f"/api/songs/{song}").status_code == 204
    for name, c in by.items():
        assert c.get(f"/api/songs/{song}").status_code == 404
        there = [s["id"] for s in c.get("/api/songs?group=bin").json()["results"]]
        assert there == ([song] if name == "owner" else []), name
        if name != "owner":
            assert c.post(f"/api/songs/{song}/restore").status_code == 404
            assert c.post(f"/api/songs/{song}/erase").status_code == 404
    assert by["owner"].post(f"/api/songs/{song}/restore").status_code == 200
    assert by["player"].get(f"/api/songs/{song}").status_code == 200


def test_only_ones_own_groups_can_be_named(client, song, band):
    other = Group.objects.create(name="Others")
    assert (
        client.patch(f"/api/songs/{song['id']}", {"groups": [other.pk]}, format="json").status_code
        == 400
    )


def test_what_is_taken_back_from_a_group_is_no_longer_seen(shared):
    song, by = shared
    assert by["owner"].patch(f"/api/songs/{song}", {"groups": []}, format="json").status_code == 200
    assert by["editor"].get(f"/api/songs/{song}/transcription").status_code == 404


# -- turns


def test_forty_uploads_of_one_hold_up_nobody_elses_one(db, band):
    _, people = band
    much, one = people["owner"], people["player"]
    for who, n in ((much, 40), (one, 1)):
        for k in range(n):
            song = Song.objects.create(owner=who, title=f"{k}")
            queue.start("hearing", song, k)
    order = []
    for _ in range(4):
        pk = queue.next_in_turn(Job.objects.order_by("pk")[0].pk)
        job = queue.claim(pk)
        order.append(job.owner.username)
        queue.end(job, Job.DONE)
    assert order == ["rim", "player", "rim", "rim"]
    # Two workers at once: whoever has one under work waits for the other.
    second = Song.objects.create(owner=one, title="second")
    queue.claim(queue.next_in_turn(0))
    queue.start("hearing", second, 99)
    assert Job.objects.get(pk=queue.next_in_turn(0)).owner == one
