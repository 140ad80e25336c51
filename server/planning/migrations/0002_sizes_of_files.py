"""Files that were free are counted, also those from before."""

from config.files import measure
from django.db import migrations, models


def measured(apps, schema_editor):
    measure(apps.get_model("planning", "SetList"), "pdf", "pdf_size")


class Migration(migrations.Migration):
    dependencies = [("planning", "0001_initial")]
    operations = [
        migrations.AddField("setlist", "pdf_size", models.BigIntegerField(default=0)),
        migrations.RunPython(measured, migrations.RunPython.noop),
    ]
