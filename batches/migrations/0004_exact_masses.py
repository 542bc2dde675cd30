from decimal import Decimal

from django.db import migrations

from workshop.fields import MassField, mass_migration


class Migration(migrations.Migration):
    dependencies = [
        ("batches", "0003_state"),
    ]

    operations = [
        mass_migration(
            {
                "batches_batch": ("resolution_g", "loss_g"),
                "batches_batchline": ("target_g", "actual_g"),
                "batches_draw": ("grams",),
            }
        ),
        migrations.AlterField(
            model_name="batch",
            name="loss_g",
            field=MassField(default=Decimal("0")),
        ),
        migrations.AlterField(
            model_name="batch",
            name="resolution_g",
            field=MassField(),
        ),
        migrations.AlterField(
            model_name="batchline",
            name="actual_g",
            field=MassField(blank=True, null=True),
        ),
        migrations.AlterField(
            model_name="batchline",
            name="target_g",
            field=MassField(),
        ),
        migrations.AlterField(
            model_name="draw",
            name="grams",
            field=MassField(),
        ),
    ]
