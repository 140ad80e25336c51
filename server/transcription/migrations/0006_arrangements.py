"""A song's transcription becomes its first arrangement: the whole score is written every few
edits, in a table of its own, the log's patches stand for what follows; what was heard moves to its take; a person's
undo stacks stand in the log; hearing becomes one kind of long work."""

import config.fields
import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models


def _patched(document, patch):
    strokes = {s["id"]: s for s in document["strokes"]} | dict(patch.get("strokes", {}))
    rest = {k: v for k, v in patch.items() if k != "strokes"}
    return {**document, **rest, "strokes": [s for s in strokes.values() if s is not None]}


def _says(patch):
    return {
        key: (s.get("doubt", ""), s.get("reason", "")) if s else ("", "")
        for key, s in patch.get("strokes", {}).items()
    }


def _stacks(lines):
    """Fills in what each line's author could undo and redo behind it."""
    known = {}  # author: (undo, redo, what lies under each version on either stack)
    for line in lines:
        undo, redo = known.setdefault(line.author_id, ([], []))
        if line.kind == "do":
            line.under = undo[-1] if undo else None
            undo.append(line.version)
            redo.clear()
        elif line.kind == "undo":
            line.under = redo[-1] if redo else None
            if undo:
                redo.append(undo.pop())
        elif redo:
            undo.append(redo.pop())
        line.undo, line.redo = undo[-1] if undo else None, redo[-1] if redo else None
        line.decides = _says(line.patch) != _says(line.inverse)
        line.save(update_fields=["undo", "redo", "under", "decides"])


def forward(apps, _schema):
    from orchesis.errors import BadScore
    from orchesis.checks import review
    from orchesis.score import Score

    Analysis = apps.get_model("library", "Analysis")
    Job = apps.get_model("jobs", "Job")
    Snapshot = apps.get_model("transcription", "Snapshot")
    for found in apps.get_model("transcription", "Arrangement").objects.iterator(chunk_size=1):
        Analysis.objects.create(take_id=found.take_id, document=found.analysis)
        heard = found.document
        for inverse in found.edits.order_by("-version").values_list("inverse", flat=True):
            heard = _patched(heard, inverse)
        Snapshot.objects.create(arrangement=found, version=0, document=heard)
        if found.version:
            Snapshot.objects.create(arrangement=found, version=found.version, document=found.document)
        try:
            found.doubts = review.open_count(Score.from_json(found.document))
        except BadScore:
            found.is_broken = True
        found.save(update_fields=["doubts", "is_broken"])
        _stacks(found.edits.order_by("version").iterator(chunk_size=50))
    for old in apps.get_model("transcription", "HearingJob").objects.order_by("id").iterator():
        kept = ("state", "step", "share", "message", "notes", "cancel_asked", "attempt", "lease_until", "finished")
        job = Job.objects.create(
            pk=old.pk, song_id=old.take.song_id, kind="hearing", subject=old.take_id,
            **{k: getattr(old, k) for k in kept},
        )
        Job.objects.filter(pk=job.pk).update(created=old.created)


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0001_initial"),
        ("library", "0005_analysis"),
        ("transcription", "0005_shelf_columns"),
    ]

    operations = [
        migrations.RemoveConstraint("edit", "one_edit_a_version"),
        migrations.RemoveConstraint("edit", "one_edit_a_key"),
        migrations.RenameModel("Transcription", "Arrangement"),
        migrations.RenameField("edit", "transcription", "arrangement"),
        migrations.AddConstraint("edit", models.UniqueConstraint(fields=["arrangement", "version"], name="one_edit_a_version")),
        migrations.AddConstraint("edit", models.UniqueConstraint(fields=["arrangement", "key"], name="one_edit_a_key")),
        migrations.AlterField("arrangement", "song", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="arrangements", to="library.song")),
        migrations.AlterModelOptions("arrangement", {"ordering": ["id"]}),
        migrations.AddField("arrangement", "name", models.CharField(default="As recorded", max_length=80)),
        migrations.AddConstraint("arrangement", models.UniqueConstraint(fields=["song", "name"], name="one_arrangement_a_name")),
        migrations.CreateModel(
            "Snapshot",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("version", models.IntegerField()),
                ("document", config.fields.FastJSONField()),
                ("arrangement", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="snapshots", to="transcription.arrangement")),
            ],
            options={"constraints": [models.UniqueConstraint(fields=["arrangement", "version"], name="one_snapshot_a_version")]},
        ),
        migrations.AddField("arrangement", "created", models.DateTimeField(default=django.utils.timezone.now)),
        migrations.AddField("arrangement", "doubts", models.IntegerField(default=0)),
        migrations.AddField("edit", "decides", models.BooleanField(default=False)),
        migrations.AddField("edit", "undo", models.IntegerField(null=True)),
        migrations.AddField("edit", "redo", models.IntegerField(null=True)),
        migrations.AddField("edit", "under", models.IntegerField(null=True)),
        migrations.RunPython(forward, migrations.RunPython.noop),
        migrations.RemoveField("arrangement", "analysis"),
        migrations.RemoveField("arrangement", "document"),
        migrations.DeleteModel("HearingJob"),
    ]
