from django.db import migrations


def allowed(apps, _editor):
    """Recordings that their owners let sound on players' pages go on sounding there."""
    links = apps.get_model("practice", "PlayerLink").objects.filter(with_recording=True, revoked=None)
    takes = apps.get_model("library", "Take").objects
    takes.filter(pk__in=links.values("arrangement__take")).update(rights="licensed")


class Migration(migrations.Migration):

    dependencies = [
        ('practice', '0001_practice_log_and_links'),
        ('library', '0006_groups_rights_and_the_store'),
    ]

    operations = [migrations.RunPython(allowed, migrations.RunPython.noop)]
