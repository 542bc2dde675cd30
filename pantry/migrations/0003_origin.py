from django.db import migrations, models


def find_origin(apps, schema_editor):
    """What a preparation became was prepared here; rests of melts were known by their key so far."""
    lot = apps.get_model("pantry", "Lot")
    lot.objects.filter(preparation__isnull=False).update(origin="prepared")
    lot.objects.filter(item_key__startswith="leftover-").update(origin="leftover")


class Migration(migrations.Migration):
    dependencies = [("pantry", "0002_stock")]

    operations = [
        migrations.AddField(
            "lot",
            "origin",
            models.CharField(
                choices=[("bought", "Bought"), ("prepared", "Prepared here"), ("leftover", "Rest of a melt")],
                default="bought",
                max_length=8,
            ),
        ),
        migrations.RunPython(find_origin, migrations.RunPython.noop),
    ]
