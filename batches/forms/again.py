"""What was planned last, as the fields of a plan: containers, fills, finishes, pitcher and ways."""

from decimal import Decimal

from balmcore.display import figure
from balmcore.tables import Tables
from batches.forms.finishes import AdditionForm, FinishForm
from batches.models import LADDER_CUP, Batch, BatchContainer, BatchFinish, BatchLine
from formulas.models import Version
from workshop.models import Preferences


def last_batch(version: Version) -> Batch | None:
    """The batch of a version's formula that was planned last, of that version before others; no cup of a ladder."""
    planned = Batch.objects.filter(version__formula=version.formula_id).exclude(containers__container_key=LADDER_CUP)
    own = planned.filter(version=version)
    return (own or planned).for_page().order_by("-pk").first()


def fields_of(batch: Batch, prefs: Preferences) -> dict[str, str]:
    """The fields outside the rows as they were planned; the scale is that of today."""
    show = prefs.show
    return {
        "loss": show.mass_text(batch.loss_g),
        "pour": show.temp_text(batch.pour_c),
        "whip": f"{batch.overrun * 100:.0f}" if batch.overrun else "",
        "pitcher": "",
        "room": show.temp_text(batch.room_c),
        "cooling": batch.cooling,
        "melting": batch.melting,
        "heating": batch.heating,
        "whipper": batch.whipper,
    }


def rows_of(batch: Batch, prefs: Preferences) -> list[tuple[str, str, str, str]]:
    """Key, count, fill and number of the finish of each row of containers."""
    places = {finish.pk: n for n, finish in enumerate(batch.finishes.all())}
    return [
        (row.container_key, str(row.count), _fill(row, prefs), str(places.get(row.finish_id or 0, 0)))
        for row in batch.containers.all()
    ]


def finishes_of(batch: Batch, tables: Tables, prefs: Preferences) -> tuple[FinishForm, ...]:
    """The finishes with what was added to each."""
    found = []
    for finish in batch.finishes.all():
        added = [line for line in batch.lines.all() if line.finish_id == finish.pk]
        whole = finish.base_g + sum((line.target_g for line in added), Decimal(0))
        rows = [AdditionForm(line.ingredient_key, _amount(line, finish, whole), tables, prefs) for line in added]
        found.append(FinishForm(finish.name, rows))
    return tuple(found)


def _amount(line: BatchLine, finish: BatchFinish, whole: Decimal) -> str:
    """An addition as it may be typed: drops a piece, or percent of the finished portion."""
    if line.drops:
        return f"{line.drops} drops"
    percent = (
        float(line.target_g / whole * 100) if whole else 0.0
    )  # as the scale rounded it, and so not to the last digit
    return f"{figure(round(percent, 1 if percent >= 1 else 2))} %" if whole else ""


def _fill(row: BatchContainer, prefs: Preferences) -> str:
    return prefs.show.mass_text(row.net_g) if row.net_g else f"{figure(row.fill * 100)} %"
