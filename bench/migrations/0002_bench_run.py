import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("batches", "0009_plain_names"), ("bench", "0001_initial")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameModel("Session", "BenchRun"),
                migrations.AlterModelTable("benchrun", "bench_session"),
            ]
        ),
        migrations.AlterField(
            "benchrun",
            "batch",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="runs", to="batches.batch"
            ),
        ),
        migrations.RemoveIndex("event", "events_in_order"),
        migrations.RenameField("event", "session", "run"),
        migrations.AddIndex("event", models.Index(fields=["run", "id"], name="events_in_order")),
    ]
