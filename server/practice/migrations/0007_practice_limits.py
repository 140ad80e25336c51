from django.db import migrations


class Migration(migrations.Migration):
    """The row has another name in code; its table stays, so that old dumps fit."""

    dependencies = [("practice", "0006_sizes_of_files")]

    operations = [
        migrations.AlterModelTable("care", "practice_care"),
        migrations.RenameModel("Care", "PracticeLimits"),
    ]
