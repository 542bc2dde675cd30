from decimal import Decimal

from django.db import migrations

from workshop.fields import MassField, mass_migration


class Migration(migrations.Migration):
    dependencies = [
        ("workshop", "0003_scent_policy"),
    ]

    operations = [
        mass_migration({"workshop_preferences": ("resolution_g",)}),
        migrations.AlterField(
            model_name="preferences",
            name="resolution_g",
            field=MassField(default=Decimal("0.1"), verbose_name="Scale's smallest step"),
        ),
    ]
