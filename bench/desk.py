"""What the desk's answers cost on the server: an edit, the findings, a long shelf.

Against our own MariaDB, through the API, on a song of 160 bars and 4,000 strokes. Times are
also told as multiples of the time that reading such a score once takes on the same machine.

    python -m bench.desk      prints the table alone
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable, Iterable
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from orchesis.formats import count
from orchesis.score import Measured, Score

ROOT = Path(__file__).resolve().parent.parent
#: (what, milliseconds asked for, issue “part 6b”).
ASKED = {
    "one edit, median": 50,
    "one edit, 95 of 100": 120,
    "640 strokes as one edit": 300,
    "feel, cold": 400,
    "shelf of 300 songs": 150,
}


def long_song() -> Score:
    """160 bars in ten sections, 4,020 strokes, all measured."""
    snare = ["2.> (2a) (3e) 4.> (4a)" if b % 8 else "2.> 3 3e 3& 3a 4 4e 4& 4a" for b in range(16)]
    kick = ["1 1& 3 3a" if b % 3 else "1 2a 3" for b in range(16)]
    section = (
        f"hat: {' | '.join(['16ths'] * 16)}\nsnare: {' | '.join(snare)}\nkick: {' | '.join(kick)}\n"
    )
    names = [f"== {'Verse' if k % 2 else 'Chorus'}" for k in range(10)]
    score = count.read("tempo: 100\n" + "\n".join(f"{name}\n{section}" for name in names))
    ones = tuple((score.seconds(b), 0.8) for b in range(1, score.bar_count + 1))
    return replace(score, ones=ones, sounding=(0.0, score.pulse.times[-1])).with_strokes(
        s.changed(measured=Measured(score.seconds(s.bar, s.place), -20.0), placed_by="heard")
        for s in score.strokes.values()
    )


@contextmanager
def _server() -> Iterable[None]:
    """Django against a MariaDB of our own, both gone afterwards."""
    sys.path[:0] = [str(ROOT / "run"), str(ROOT / "server")]
    with tempfile.TemporaryDirectory() as var:
        os.environ |= {"ORCHESIS_VAR": var, "DJANGO_SETTINGS_MODULE": "config.settings"}
        from services import Services

        services = Services(Path(var))
        services.start()
        try:
            import django
            from django.core.management import call_command

            django.setup()
            call_command("migrate", interactive=False, verbosity=0)
            yield
        finally:
            services.stop()


def _milliseconds(act: Callable[[], Any]) -> float:
    start = time.perf_counter()
    answer = act()
    took = 1000 * (time.perf_counter() - start)
    assert answer is None or answer.status_code == 200, answer.content
    return took


def figures() -> dict[str, float]:
    """Milliseconds of each answer, by what was asked."""
    with _server():
        from django.contrib.auth.models import User
        from library.models import Analysis, Song, Take
        from rest_framework.test import APIClient
        from transcription.models import Arrangement

        score = long_song()
        document = score.to_json()
        analysis = {
            "tempo": {
                "bpm": 100,
                "low": 99,
                "high": 101,
                "steady": True,
                "confidence": 1,
                "alternatives": [],
            },
            "hits": [
                {"time": s.time, "part": s.part, "loudness": s.loudness, "confidence": 0.9}
                for s in score.ordered()
            ],
            "levels": [[0.0, 0.0]] * 400,
        }
        user = User.objects.create_user("bench")
        client = APIClient()
        client.force_authenticate(user)
        for n in range(300):
            song = Song.objects.create(owner=user, title=f"Song {n}")
            take = Take.objects.create(
                song=song, name="t", digest=str(n), original="t", duration=400
            )
            Arrangement.start(take, score)
            Analysis.objects.create(take=take, document=analysis)
        at = f"/api/songs/{song.pk}"

        def edit(base: int, **change: Any) -> Any:
            body = {"base": base, "edit": change}
            return client.post(f"{at}/transcription/edits", body, format="json")

        ids = [s.id for s in score.ordered()]
        made = {
            "reading the score once": min(
                _milliseconds(lambda: Score.from_json(document) and None) for _ in range(5)
            )
        }
        edits = sorted(
            _milliseconds(
                lambda n=n: edit(n, operation="set_loudness", id=ids[n * 37], loudness=0.5)
            )
            for n in range(100)
        )
        made |= {"one edit, median": edits[50], "one edit, 95 of 100": edits[95]}
        many = [{"operation": "set_dynamic", "id": i, "dynamic": "accent"} for i in ids[:640]]
        made["640 strokes as one edit"] = _milliseconds(
            lambda: edit(100, operation="many", edits=many)
        )
        for what in ("feel", "grooves", "fills"):
            made[f"{what}, cold"] = _milliseconds(lambda what=what: client.get(f"{at}/{what}"))
        for what, query in (("shelf of 300 songs", ""), ("all 300 as one page", "?size=300")):
            made[what] = min(
                _milliseconds(lambda query=query: client.get(f"/api/songs{query}"))
                for _ in range(3)
            )
        return made


def table() -> list[str]:
    """The figures as lines of Markdown."""
    made = figures()
    once = made["reading the score once"]
    lines = [
        "## The desk's answers\n",
        "160 bars, 4,020 strokes; through the API against our own MariaDB, one process. The shelf "
        "answers a page of 50 songs at a time.\n",
        "| answer | ms | asked | times one reading of the score |",
        "|---|---|---|---|",
    ]
    lines += [
        f"| {what} | {ms:.0f} | {ASKED.get(what, '')} | {ms / once:.1f} |"
        for what, ms in made.items()
    ]
    return [*lines, ""]


if __name__ == "__main__":
    print("\n".join(table()))
