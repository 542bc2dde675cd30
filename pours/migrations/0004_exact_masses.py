from django.db import migrations

from workshop.fields import MassField, mass_migration


class Migration(migrations.Migration):
    dependencies = [
        ("pours", "0003_poured_batches"),
    ]

    operations = [
        mass_migration({"pours_pour": ("rest_g",), "pours_pouredpiece": ("mass_g",)}),
        migrations.AlterField(
            model_name="pour",
            name="rest_g",
            field=MassField(blank=True, null=True),
        ),
        migrations.AlterField(
            model_name="pouredpiece",
            name="mass_g",
            field=MassField(),
        ),
    ]
