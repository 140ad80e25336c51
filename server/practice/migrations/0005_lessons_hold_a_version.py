"""A lesson holds the version that it was given with; those from before hold today's."""

from django.db import migrations, models


def hold(apps, schema_editor):
    for link in apps.get_model("practice", "PlayerLink").objects.select_related("arrangement"):
        link.version = link.arrangement.version
        link.save(update_fields=["version"])


class Migration(migrations.Migration):
    dependencies = [("practice", "0004_clips")]
    operations = [
        migrations.AddField("playerlink", "version", models.IntegerField(default=0)),
        migrations.RunPython(hold, migrations.RunPython.noop),
    ]
