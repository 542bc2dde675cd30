import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("pantry", "0005_own_scents"), ("pours", "0009_best_before")]

    operations = [
        migrations.RemoveConstraint("pour", "rest_not_negative"),
        migrations.RenameField("pour", "rest_g", "leftover_g"),
        migrations.RenameField("pour", "rest_lot", "leftover_lot"),
        migrations.AlterField(
            "pour",
            "leftover_lot",
            models.OneToOneField(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="leftover_of",
                to="pantry.lot",
            ),
        ),
        migrations.AddConstraint(
            "pour",
            models.CheckConstraint(
                condition=models.Q(("leftover_g__isnull", True), ("leftover_g__gte", 0), _connector="OR"),
                name="leftover_not_negative",
            ),
        ),
        migrations.RemoveConstraint("check", "set_aside_with_a_reason"),
        migrations.RenameField("check", "aside", "exclusion"),
        migrations.RenameField("check", "aside_why", "exclusion_reason"),
        migrations.AddConstraint(
            "check",
            models.CheckConstraint(
                condition=models.Q(
                    ("exclusion", ""), models.Q(("exclusion_reason", ""), _negated=True), _connector="OR"
                ),
                name="excluded_with_a_reason",
            ),
        ),
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameModel("Look", "SavedFilter"),
                migrations.AlterModelTable("savedfilter", "pours_look"),
            ]
        ),
    ]
