from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("library", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="take",
            name="drums",
            field=models.FileField(blank=True, max_length=255, upload_to=""),
        ),
    ]
