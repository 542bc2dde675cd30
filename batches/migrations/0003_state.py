from django.db import migrations, models


def find_state(apps, schema_editor):
    """A batch of which something was weighed is being weighed; pours say themselves what was poured."""
    batch = apps.get_model("batches", "Batch")
    batch.objects.filter(lines__actual_g__isnull=False).update(state="weighing")


class Migration(migrations.Migration):
    dependencies = [("batches", "0002_plan")]

    operations = [
        migrations.AddField(
            "batch",
            "state",
            models.CharField(
                choices=[("planned", "Planned"), ("weighing", "Weighing"), ("poured", "Poured")],
                db_index=True,
                default="planned",
                max_length=8,
            ),
        ),
        migrations.RunPython(find_state, migrations.RunPython.noop),
    ]
