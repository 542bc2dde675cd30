from django.db import migrations


class Migration(migrations.Migration):
    """A version's firmness is worked out where it is shown: a figure that was kept would outlive its tables."""

    dependencies = [("formulas", "0003_own_window")]

    operations = [
        migrations.RemoveConstraint("version", "version_firmness_not_negative"),
        migrations.RemoveField("version", "firmness"),
    ]
