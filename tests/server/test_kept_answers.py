"""An answer that follows from one version alone is made once, whoever asks, in whatever process."""

from __future__ import annotations

import gzip
import json
from concurrent.futures import ThreadPoolExecutor

import pytest
from config.newest import NewestKept
from findings import kept_answers, readings
from redis.exceptions import RedisError

from orchesis import feel

VIEWS = ("transcription", "chart", "chart?footnotes=1", "feel", "grooves", "fills", "sounds")


@pytest.fixture
def made(monkeypatch):
    """The names of the answers that were made."""
    names: list[str] = []
    real = kept_answers._made

    def tell(key, found, model, make):
        names.append(model.__name__)
        return real(key, found, model, make)

    monkeypatch.setattr(kept_answers, "_made", tell)
    return names


def rename(client, song: int, name: str) -> None:
    edit = {"operation": "rename_section", "id": "sec1", "name": name}
    body = {"base": 0, "over": True, "edit": edit}
    at = f"/api/songs/{song}/transcription/edits"
    assert client.post(at, body, content_type="application/json").status_code == 200


@pytest.mark.parametrize("view", VIEWS)
def test_a_version_is_read_once(client, heard, made, view):
    at = f"/api/songs/{heard['id']}/{view}"
    first = client.get(at).json()
    assert client.get(at).json() == first
    assert len(made) == 1
    rename(client, heard["id"], "Bridge")
    newer = client.get(at).json()
    assert newer["version"] == first["version"] + 1 and len(made) == 2


def test_it_is_the_same_compressed_and_plain(client, heard):
    at = f"/api/songs/{heard['id']}/chart"
    packed = client.get(at, HTTP_ACCEPT_ENCODING="gzip")
    assert packed["Content-Encoding"] == "gzip"
    plain = client.get(at)
    assert "Content-Encoding" not in plain.headers
    assert json.loads(gzip.decompress(packed.content)) == plain.json()
    assert len(packed.content) < len(plain.content) / 3


def test_pages_that_differ_are_not_taken_for_one_another(client, heard, made):
    at = f"/api/songs/{heard['id']}/chart"
    queries = ("", "?paper=tablet", "?view=limbs", "?ghosts=small", "?footnotes=1", "?letters=DG")
    for query in queries:
        assert client.get(f"{at}{query}").status_code == 200
    assert len(made) == len(queries)
    assert client.get(f"{at}?paper=tablet").json()["pages"] != client.get(at).json()["pages"]


def test_a_renamed_song_has_its_new_name_on_its_pages(client, heard):
    song = f"/api/songs/{heard['id']}"
    assert "Copper Gate" not in client.get(f"{song}/chart").json()["pages"][0]
    assert client.patch(song, {"title": "Copper Gate"}, format="json").status_code == 200
    assert "Copper Gate" in client.get(f"{song}/chart").json()["pages"][0]
    assert client.get(f"{song}/transcription").json()["score"]["title"] == "Copper Gate"


def test_what_one_can_undo_is_ones_own(client, heard):
    at = f"/api/songs/{heard['id']}/transcription"
    assert client.get(at).json()["undoes"] == ""
    rename(client, heard["id"], "Bridge")
    assert client.get(at).json()["undoes"] == "section renamed"
    undo = f"/api/songs/{heard['id']}/transcription/undo"
    client.post(undo, {"base": 1}, content_type="application/json")
    told = client.get(at).json()
    assert told["redoes"] == "section renamed" and told["undoes"] == ""


def test_without_redis_it_is_made_each_time(client, heard, made, monkeypatch):
    class Away:
        def __getattr__(self, _name):
            def away(*_more, **_named):
                raise RedisError("away")

            return away

    monkeypatch.setattr(kept_answers, "cache", Away())
    at = f"/api/songs/{heard['id']}/feel"
    assert client.get(at).json() == client.get(at).json()
    assert len(made) == 2


def test_whoever_asks_meanwhile_waits_for_it(client, heard, made, monkeypatch):
    """One makes it; what fails holds nobody up."""
    at = f"/api/songs/{heard['id']}/feel"
    monkeypatch.setattr(readings, "_found", NewestKept(1))
    real = feel.read

    def broken(_score):
        raise ZeroDivisionError

    monkeypatch.setattr(feel, "read", broken)
    with pytest.raises(ZeroDivisionError):
        client.get(at)
    monkeypatch.setattr(feel, "read", real)
    assert client.get(at).status_code == 200
    assert made == ["Feel", "Feel"]
    first = kept_answers._begins("answer:x")
    with ThreadPoolExecutor(4) as pool:
        others = list(pool.map(lambda _: kept_answers._begins("answer:x"), range(4)))
    assert first and not any(others)
