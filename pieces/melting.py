"""Pieces melted again: they are no longer there to be given, and become a rest that the next melt can take."""

from datetime import date
from decimal import Decimal
from statistics import fmean

from django.db import transaction

from balmcore.design.next_step import FAR_OFF
from balmcore.design.rescue import Rescue, choices
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.tables import Role, Tables
from batches.models import Rest
from batches.showing.queries import best_before_of, planned_net_g
from pantry.models import Entry, Lot
from pantry.services import book_entry, keep_leftover
from pieces.accounts import hand_out
from pieces.models import Handout
from pours.models import Pour

MOST_OVER = Decimal("1.1")  # of what so many pieces hold
MOST_OFFERED = 3


def piece_g(pour: Pour, tables: Tables) -> Decimal:
    """What a piece of a pour holds: by those that were weighed, else as it was planned."""
    weighed = [float(piece.mass_g) for piece in pour.pieces.all()]
    if weighed:
        return Decimal(str(round(fmean(weighed), 3)))
    net = planned_net_g(pour.batch, pour.finish, tables)
    rows = [(net[row.name], row.made) for row in pour.containers if row.made]
    count = sum(made for _, made in rows)
    return sum((grams * made for grams, made in rows), Decimal(0)) / count if count else Decimal(0)


def mended(pour: Pour, grams: Decimal, tables: Tables) -> list[Rescue]:
    """What of its own ingredients brings so many grams of a pour, melted again, to what was planned, by how it was
    tested: the least first. Empty where it was not tested, came out as planned, or holds air."""
    test = pour.tested
    if test is None or test.firmness is None or pour.batch.overrun or grams <= 0:
        return []
    if abs(test.firmness - pour.predicted) <= FAR_OFF:
        return []
    made = pour.to_composition(tables)
    items = [line.ingredient for line in made.lines if line.share and line.ingredient.role != Role.EXTRA]
    found = choices(made, float(grams), pour.predicted, items, test.firmness)
    return [each for each in found if each.success and each.add_g < float(grams)][:MOST_OFFERED]


@transaction.atomic
def melt_again(pour: Pour, count: int, grams: Decimal | None, on: date, tables: Tables) -> Handout:
    """So many pieces become a rest with the composition of their pour; ``grams`` of it, or what the pieces hold. Raises
    :class:`Problem` for more pieces than are here, and for more grams than they hold."""
    row = hand_out(pour, Handout.How.MELTED, count, "", "", on)
    held = round(piece_g(pour, tables) * count, 1)
    if grams is not None and not 0 < grams <= held * MOST_OVER:
        raise Problem(
            f"{count} pieces hold about {mass_words(held)}: {mass_words(grams)} cannot come of them.", "grams"
        )
    note = f"{count} pieces of {pour.title}, melted again"
    row.lot = keep_leftover(
        f"{pour.name}, melted again", pour.to_composition(tables), grams or held, note, best_before_of(pour.batch)
    )
    row.save(update_fields=("lot",))
    Rest.objects.create(batch=pour.batch, finish=pour.finish, lot=row.lot)
    return row


@transaction.atomic
def take_back(row: Handout) -> None:
    """A line that was written down by mistake goes; its pieces are left again. Raises :class:`Problem` where something
    of what they became was used."""
    if row.lot_id is not None:
        lot = Lot.objects.get(pk=row.lot_id)
        if lot.left != lot.received:
            raise Problem(f"{mass_words(lot.received - lot.left)} of what they became were used: they stay melted.")
        book_entry(lot, -lot.left, Entry.Kind.CORRECTED, "Not melted again after all.")
        Rest.objects.filter(lot=lot).delete()
    row.delete()
