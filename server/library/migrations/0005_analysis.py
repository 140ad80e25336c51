import config.fields
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("library", "0004_heard_takes")]

    operations = [
        migrations.CreateModel(
            "Analysis",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("document", config.fields.FastJSONField()),
                ("take", models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name="analysis", to="library.take")),
            ],
        ),
    ]
