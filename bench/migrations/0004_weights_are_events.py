"""What was weighed beside the record of the bench becomes part of it."""

from collections import defaultdict

from django.db import migrations


def _slot(line):
    return line.ingredient_key if line.finish_id is None else f"{line.ingredient_key}.{line.finish_id}"


def write_events(apps, schema_editor):
    BatchLine, Draw = apps.get_model("batches", "BatchLine"), apps.get_model("batches", "Draw")
    BenchRun, Event = apps.get_model("bench", "BenchRun"), apps.get_model("bench", "Event")
    recorded = {}  # what the record says by now, by batch and slot
    events = Event.objects.filter(run__is_rehearsal=False, is_undone=False, kind__in=("weighed", "added"))
    for batch, slot, grams in events.order_by("pk").values_list("run__batch", "slot", "grams"):
        recorded[batch, slot] = recorded.get((batch, slot), 0) + grams
    days = {}  # when a line's lot gave last
    for line, at in Draw.objects.order_by("pk").values_list("line", "entry__at"):
        days[line] = at
    missing = defaultdict(list)
    for line in BatchLine.objects.select_related("batch").order_by("batch", "position"):
        was = recorded.get((line.batch_id, _slot(line)))
        if was != line.actual_g:
            missing[line.batch].append((line, was))
    runs = {run.batch_id: run for run in BenchRun.objects.filter(is_rehearsal=False)}
    written = []
    for batch, lines in missing.items():
        run = runs.get(batch.pk)
        if run is None:
            run = BenchRun.objects.create(batch=batch, is_rehearsal=False, begun=batch.created)
        for line, was in lines:
            written.append(
                Event(
                    run=run,
                    kind="weighed" if was is None else "corrected",
                    step=f"{'count' if line.drops else 'weigh'}:{_slot(line)}",
                    slot=_slot(line),
                    grams=line.actual_g,
                    data={"was": None if was is None else str(was)},
                    at=days.get(line.pk, batch.created),
                    is_from_sheet=True,
                )
            )
    Event.objects.bulk_create(written)


class Migration(migrations.Migration):
    dependencies = [("batches", "0009_plain_names"), ("bench", "0003_corrections")]

    operations = [migrations.RunPython(write_events, migrations.RunPython.noop)]
