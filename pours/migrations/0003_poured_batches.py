from django.db import migrations


def mark_poured(apps, schema_editor):
    """A batch with a pour was poured: it knows so itself from now on."""
    poured = apps.get_model("pours", "Pour").objects.values("batch")
    apps.get_model("batches", "Batch").objects.filter(pk__in=poured).update(state="poured")


class Migration(migrations.Migration):
    dependencies = [("pours", "0002_plan"), ("batches", "0003_state")]

    operations = [migrations.RunPython(mark_poured, migrations.RunPython.noop)]
