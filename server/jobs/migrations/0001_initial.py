import django.db.models.deletion
from django.db import migrations, models

_STATES = [(s, s) for s in ("queued", "running", "done", "refused", "cancelled")]


class Migration(migrations.Migration):
    initial = True
    dependencies = [("library", "0005_analysis")]

    operations = [
        migrations.CreateModel(
            "Job",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=20)),
                ("subject", models.BigIntegerField()),
                ("state", models.CharField(choices=_STATES, db_index=True, default="queued", max_length=10)),
                ("step", models.CharField(blank=True, max_length=20)),
                ("share", models.FloatField(default=0)),
                ("message", models.TextField(blank=True)),
                ("notes", models.JSONField(default=list)),
                ("cancel_asked", models.BooleanField(default=False)),
                ("attempt", models.IntegerField(default=0)),
                ("broken", models.IntegerField(default=0)),
                ("lease_until", models.DateTimeField(null=True)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("finished", models.DateTimeField(null=True)),
                ("song", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="jobs", to="library.song")),
            ],
            options={
                "ordering": ["id"],
                "indexes": [models.Index(fields=["kind", "subject"], name="jobs_job_kind_a2dc10_idx")],
            },
        ),
    ]
