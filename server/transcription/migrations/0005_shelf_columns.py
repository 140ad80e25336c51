import config.fields
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def fill(apps, _schema):
    from orchesis.errors import BadScore
    from orchesis.score import Score

    for found in apps.get_model("transcription", "Transcription").objects.iterator(chunk_size=1):
        try:
            score = Score.from_json(found.document)
        except BadScore:
            found.is_broken = True
        else:
            found.bars, found.confirmed = score.bar_count, len(score.confirmed)
            found.tempo = round(score.pulse.tempo()[0], 1)
        found.save(update_fields=["bars", "confirmed", "tempo", "is_broken"])


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("library", "0004_heard_takes"),
        ("transcription", "0004_provenance"),
    ]

    operations = [
        migrations.AddField("transcription", "bars", models.IntegerField(default=0)),
        migrations.AddField("transcription", "confirmed", models.IntegerField(default=0)),
        migrations.AddField("transcription", "tempo", models.FloatField(null=True)),
        migrations.AddField("transcription", "is_broken", models.BooleanField(default=False)),
        migrations.AlterField(
            "transcription",
            "take",
            models.ForeignKey(on_delete=django.db.models.deletion.RESTRICT, to="library.take"),
        ),
        migrations.AlterField(
            "edit",
            "author",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AddField("edit", "says", models.CharField(blank=True, max_length=120)),
        *(
            migrations.AlterField(model, name, config.fields.FastJSONField())
            for model, name in (
                ("transcription", "document"), ("transcription", "analysis"), ("edit", "patch"),
                ("edit", "inverse"),
            )
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
