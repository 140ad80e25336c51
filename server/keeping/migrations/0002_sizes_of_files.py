"""Files that were free are counted, also those from before."""

from config.files import measure
from django.db import migrations, models


def measured(apps, schema_editor):
    measure(apps.get_model("keeping", "Backup"), "file", "size")


class Migration(migrations.Migration):
    dependencies = [("keeping", "0001_initial")]
    operations = [
        migrations.AddField("backup", "size", models.BigIntegerField(default=0)),
        migrations.RunPython(measured, migrations.RunPython.noop),
    ]
