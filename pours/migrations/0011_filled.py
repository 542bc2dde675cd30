"""What was poured was filled into as many containers as stand with its batch."""

from django.db import migrations
from django.db.models import F, Q


def set_filled(apps, schema_editor):
    Pour, BatchContainer = apps.get_model("pours", "Pour"), apps.get_model("batches", "BatchContainer")
    of_batches = Pour.objects.filter(finish=None).values("batch")
    of_finishes = Pour.objects.exclude(finish=None).values("finish")
    rows = BatchContainer.objects.filter(Q(finish=None, batch__in=of_batches) | Q(finish__in=of_finishes))
    rows.update(filled=F("count"))


class Migration(migrations.Migration):
    dependencies = [("batches", "0010_filled"), ("pours", "0010_plain_names")]

    operations = [migrations.RunPython(set_filled, migrations.RunPython.noop)]
