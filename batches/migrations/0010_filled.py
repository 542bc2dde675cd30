from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("batches", "0009_plain_names")]

    operations = [
        migrations.AddField("batchcontainer", "filled", models.PositiveIntegerField(blank=True, null=True)),
        migrations.RemoveField("batch", "revision"),
    ]
