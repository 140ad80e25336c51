from __future__ import annotations

import pytest

from orchesis.hearing import Hearing, listen
from tests import songs


@pytest.fixture(scope="session")
def rock_file(tmp_path_factory):
    return songs.write(tmp_path_factory.mktemp("sound") / "rock.wav", songs.drums())


@pytest.fixture(scope="session")
def heard_rock(rock_file) -> Hearing:
    return listen(rock_file)
