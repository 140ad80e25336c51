from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("transcription", "0002_kept_fills")]

    operations = [
        migrations.AddField("edit", "key", models.CharField(max_length=40, null=True)),
        migrations.AddConstraint(
            "edit",
            models.UniqueConstraint(fields=["transcription", "key"], name="one_edit_a_key"),
        ),
    ]
