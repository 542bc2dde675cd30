from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("batches", "0008_known_unfit")]

    operations = [
        migrations.RenameField("batch", "vessel_key", "pitcher_key"),
        migrations.RenameField("batch", "known_why", "override_reason"),
    ]
