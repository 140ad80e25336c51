"""Files that were free are counted, also those from before."""

from config.files import measure
from django.db import migrations, models


def measured(apps, schema_editor):
    measure(apps.get_model("practice", "PlayAlong"), "file", "size")
    measure(apps.get_model("practice", "PractisedSound"), "file", "size")


class Migration(migrations.Migration):
    dependencies = [("practice", "0005_lessons_hold_a_version")]
    operations = [
        migrations.AddField("playalong", "size", models.BigIntegerField(default=0)),
        migrations.AddField("practisedsound", "size", models.BigIntegerField(default=0)),
        migrations.RunPython(measured, migrations.RunPython.noop),
    ]
