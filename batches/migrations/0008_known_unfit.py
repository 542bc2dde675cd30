from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("batches", "0007_melting")]

    operations = [
        migrations.AddField("batch", "known_unfit", models.CharField(blank=True, default="", max_length=400)),
    ]
