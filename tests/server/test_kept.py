"""What a process keeps of songs and findings: by size, and the newest version only."""

from __future__ import annotations

from config.newest import NewestKept
from findings import readings
from transcription import models
from transcription.models import Arrangement


def test_findings_and_scores_are_kept_by_their_size(heard, monkeypatch):
    found = Arrangement.objects.get()
    kept = NewestKept(100_000)
    monkeypatch.setattr(readings, "_found", kept)
    for n in range(50):
        readings.kept(found, "big", lambda: "x" * 10_000, n)
    assert 90_000 <= kept.size <= 100_000
    assert readings.kept(found, "huge", lambda: "x" * 200_000) == "x" * 200_000
    assert kept.get(("huge", found.pk), found.version) is None
    assert kept.get(("big", found.pk, found.created, 49), found.version) == "x" * 10_000


def test_only_the_newest_version_of_a_song_is_kept():
    kept = NewestKept(10)
    for version in range(20):
        kept.put("song", version, f"v{version}", 4)
    kept.put("other", 1, "o", 4)
    assert kept.size == 8 and kept.get("song", 19) == "v19" and kept.get("song", 18) is None


def test_the_whole_score_is_written_now_and_then_and_every_version_is_found(
    heard, edit, step, monkeypatch
):
    """Snapshots, patches behind them, and what another process keeps of an older version."""
    monkeypatch.setattr(models, "_SNAPSHOT_EVERY", 3)
    as_heard = Arrangement.objects.get().document
    old = Arrangement.objects.get().score  # kept in this process at version 0
    for bar in range(1, 9):
        assert edit("note_bar", bar=bar, note=f"bar {bar}").status_code == 200
    found = Arrangement.objects.get()
    versions = list(found.snapshots.order_by("version").values_list("version", flat=True))
    assert versions == [0, 6] and found.version == 8
    models._scores._kept.clear()
    fresh = Arrangement.objects.get().score
    models._scores.put(found._name, 0, old, len(old.strokes))
    assert Arrangement.objects.get().score.to_json() == fresh.to_json()
    assert fresh.to_json() == Arrangement.objects.get().document and len(fresh.notes) == 8
    for _ in range(8):
        assert step("undo").status_code == 200
    assert Arrangement.objects.get().document == as_heard
    assert Arrangement.objects.get().heard_bar(3)
