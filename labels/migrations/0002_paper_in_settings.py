from django.db import migrations


def carry_over(apps, schema_editor):
    """The paper that labels were printed on is that of everything printed."""
    for maker in apps.get_model("labels", "Maker").objects.all():
        preferences = apps.get_model("workshop", "Preferences").objects
        preferences.update_or_create(pk=1, defaults={"paper": maker.paper})


class Migration(migrations.Migration):

    dependencies = [
        ("labels", "0001_initial"),
        ("workshop", "0009_numbers_days_paper"),
    ]

    operations = [
        migrations.RunPython(carry_over, migrations.RunPython.noop, elidable=True),
        migrations.RemoveField(model_name="maker", name="paper"),
    ]
