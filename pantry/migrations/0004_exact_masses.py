from decimal import Decimal

from django.db import migrations

from workshop.fields import MassField, mass_migration


def put_right(apps, schema_editor):
    """What is left of a lot is the sum of its entries; sums of floats had left dust."""
    entries = "SELECT COALESCE(SUM(amount), 0) FROM pantry_entry WHERE lot_id = pantry_lot.id"
    schema_editor.execute(f'UPDATE pantry_lot SET "left" = MAX(({entries}), 0)')


class Migration(migrations.Migration):
    dependencies = [
        ("pantry", "0003_origin"),
    ]

    operations = [
        mass_migration(
            {
                "pantry_lot": ("received", "left"),
                "pantry_entry": ("amount",),
                "pantry_preparation": ("raw_g", "base_g", "yield_g"),
            }
        ),
        migrations.RunPython(put_right, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="entry",
            name="amount",
            field=MassField(default=Decimal("0")),
        ),
        migrations.AlterField(
            model_name="lot",
            name="left",
            field=MassField(),
        ),
        migrations.AlterField(
            model_name="lot",
            name="received",
            field=MassField(),
        ),
        migrations.AlterField(
            model_name="preparation",
            name="base_g",
            field=MassField(default=Decimal("0")),
        ),
        migrations.AlterField(
            model_name="preparation",
            name="raw_g",
            field=MassField(),
        ),
        migrations.AlterField(
            model_name="preparation",
            name="yield_g",
            field=MassField(blank=True, null=True),
        ),
    ]
