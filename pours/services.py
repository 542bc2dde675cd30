"""Recording a pour: prediction for what was really weighed, pieces, what stayed, verdict."""

from collections.abc import Mapping, Sequence
from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.db import IntegrityError, transaction

from balmcore.advice.shelf_life import keeps
from balmcore.errors import Problem
from balmcore.making.method import FOLLOW_UPS
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables
from batches.models import Batch, BatchFinish
from batches.queries import best_before_of, name_lots
from batches.services import mark_poured
from formulas.models import Version
from formulas.services import advance_stage
from pantry.models import Entry
from pantry.services import draw, keep_leftover
from pours.models import FollowUp, Pour, PouredPiece
from workshop.services import bump_records_revision


class StalePour(Problem):
    """The pour was saved in another tab since the page was opened."""


@transaction.atomic
def record_pour(
    batch: Batch,
    tables: Tables,
    pour: Pour | None,
    fields: Mapping[str, Any],
    pieces: Sequence[tuple[str, Decimal]],
    revision: int = 0,
    keeps_leftover: bool = False,
    finish: BatchFinish | None = None,
) -> Pour:
    """Store a pour of a batch or of a finish, new or changed, with its prediction at 21 degrees.

    ``fields`` are the plain columns (day, room, cooling, rest, notes, verdict). A new pour takes its
    containers out of stock, and days on which to look at it again are written down; with ``keeps_leftover``
    what stayed in the jug becomes a lot. Raises :class:`StalePour` when another tab saved first.
    """
    composition = batch.to_composition(tables, finish)
    is_new = pour is None
    if pour is None:
        name_lots(batch)
        prediction = predict(composition, batch.overrun)
        pour = Pour(batch=batch, finish=finish)
        pour.predicted, pour.predicted_sigma = prediction.firmness_at(WINDOW_C), prediction.sigma
        kept = keeps(fields["poured_on"], composition, best_before_of(batch))
        pour.best_before = kept.until if kept else None
    elif not Pour.objects.filter(pk=pour.pk, revision=revision).update(revision=revision + 1):
        raise StalePour(
            "Another tab saved this pour meanwhile. What you typed is kept here; save again to let yours stand."
        )
    else:
        pour.revision = revision + 1
    for name, value in fields.items():
        setattr(pour, name, value)
    try:
        with transaction.atomic():
            pour.save()
    except IntegrityError:
        raise StalePour("Another tab recorded this pour meanwhile. Open it from the pours page.") from None
    pour.pieces.all().delete()
    PouredPiece.objects.bulk_create(PouredPiece(pour=pour, name=name, mass_g=grams) for name, grams in pieces)
    if is_new:
        for row in batch.containers_of(finish):
            used = draw(row.container_key, Decimal(row.count), Entry.Kind.USED, f"Batch {batch.pk}, {batch.version}")
            pour.container_lots.add(*(entry.lot_id for entry in used.entries))
        plan_follow_ups(pour)
    if keeps_leftover and pour.leftover_g and pour.leftover_lot is None:
        note = f"Batch {batch.pk}, {batch.version}"
        named = f"Rest of {batch.version}{f', {finish}' if finish else ''}"
        pour.leftover_lot = keep_leftover(named, composition, pour.leftover_g, note, best_before_of(batch))
        pour.save(update_fields=("leftover_lot",))
    if is_new and batch.pours.count() >= max(1, len(batch.finishes.all())):
        mark_poured(batch)
    bump_records_revision()
    if pour.verdict:
        advance_stage(batch.version, Version.Stage.JUDGED)
    return pour


def plan_follow_ups(pour: Pour) -> None:
    """The days on which a pour should be looked at: a day, three days, two weeks, three months after it."""
    FollowUp.objects.bulk_create(
        FollowUp(pour=pour, due_on=pour.poured_on + timedelta(days=days), words=words) for days, words in FOLLOW_UPS
    )
