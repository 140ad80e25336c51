"""The whole application, started as a user starts it, driven in headless Chromium."""

from __future__ import annotations

import signal
import sys
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests import songs
from tests.browser.acts import Song, add_song

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "run"))
from house import House
from screenshots import CHROMIUM, FLAGS, log_in, wait_until_heard
from services import free_port

#: Milliseconds until a state that does not come is a fault: a busy machine is none.
PATIENCE = 40_000
HEARING = 400_000  # and until a recording is heard, behind all songs of the demo
expect.set_options(timeout=PATIENCE)


def _end(_signal, _frame):
    raise KeyboardInterrupt


# A run that is told to end (by a time limit, say) closes its house too: no server stays behind.
signal.signal(signal.SIGTERM, _end)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": CHROMIUM, "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args():
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


@pytest.fixture(scope="session")
def house(tmp_path_factory):
    var = tmp_path_factory.mktemp("var")
    with House(var, free_port(), ORCHESIS_JOB_LEASE="4") as house:
        yield house


@pytest.fixture(scope="session")
def rock(tmp_path_factory):
    return songs.write(tmp_path_factory.mktemp("sound") / "plain_rock.wav", songs.drums())


@pytest.fixture
def desk(page: Page, house):
    """The page, logged in, with the demo heard; complaints of the page fail the test."""
    errors: list[str] = []
    page.on("pageerror", lambda e: errors.append(str(e)))
    page.set_default_timeout(PATIENCE)
    log_in(page, house.address)
    wait_until_heard(page, 1)
    yield page
    assert not errors, errors


STEADY = "Steady Rock"


@pytest.fixture
def song(desk: Page, house, tmp_path_factory):
    """The plain rock beat, heard, and without the corrections of other tests."""
    page = desk

    def found() -> list[dict]:
        every = page.request.get(f"{house.address}/api/songs").json()["results"]
        return [s for s in every if s["title"] == STEADY]

    if not found():
        path = songs.write(tmp_path_factory.mktemp("s") / "steady.wav", 0.97 * songs.drums())
        add_song(page, STEADY, path)
        expect(page.get_by_role("heading", name="Heard: steady.wav")).to_be_visible(timeout=HEARING)
    return Song(page, house.address, found()[0]["id"])
