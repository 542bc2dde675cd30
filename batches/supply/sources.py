"""The lots that a line of a batch takes: one choice, which sheet, weigh sheet and bench show and draw from."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from batches.models import Batch, BatchLine
from batches.supply.reserving import free_lots
from pantry.models import Lot
from pantry.queries import serving, serving_for
from workshop.models import Preferences


@dataclass(frozen=True)
class Source:
    """Where a line comes from: the lots that gave to it or, before it is weighed, those that will
    (``is_given`` says which of the two); what they lack, and those past their date that somebody chose or that alone
    are left, which are smelled first. ``lots`` are all that could serve it."""

    text: str
    is_given: bool
    several: bool
    short_g: Decimal
    past: tuple[Lot, ...] = ()
    lots: tuple[Lot, ...] = ()


def lots_for(batch: Batch, keys: Iterable[str]) -> Mapping[str, Sequence[Lot]]:
    """The lots of some items with what is free of each for a batch: less what batches before it hold. Those past their
    date are among them; items of which no lots are kept are not."""
    return free_lots(keys, until=batch, with_past=True)


def source_of(line: BatchLine, tracked: Mapping[str, Sequence[Lot]], prefs: Preferences) -> Source:
    """Where a line came from, or will, of the lots of :func:`lots_for`. A line that is weighed names no lot it did not
    draw on."""
    lots = serving(tracked.get(line.ingredient_key, ()))
    given: dict[Lot, Decimal] = {}
    short = Decimal(0)
    if line.actual_g is not None:
        for draw in line.draws.all():
            given[draw.lot] = given.get(draw.lot, Decimal(0)) + draw.grams
    else:
        given, short = serving_for(lots, line.target_g, line.lot_id)
    held = {lot: grams for lot, grams in given.items() if grams > 0}
    told = [f"{lot} {prefs.show.mass_text(grams)}" if len(held) > 1 else str(lot) for lot, grams in held.items()]
    is_given = line.actual_g is not None
    past = () if is_given else tuple(lot for lot in lots if lot.is_past and (short or lot in held))
    is_tracked = line.ingredient_key in tracked
    return Source(", then ".join(told), is_given, len(held) > 1, short if is_tracked else Decimal(0), past, tuple(lots))


def available_g(line: BatchLine, tracked: Mapping[str, Sequence[Lot]], chosen: int | None = None) -> Decimal | None:
    """Grams that a line may draw without a yes, with what it drew already: of good lots within their date that no other
    batch holds, and of the one ``chosen``, here or before. None where no lots are kept, or part of it is of no lot
    already: that was asked."""
    if line.ingredient_key not in tracked or line.outside_g:
        return None
    lots = serving(tracked[line.ingredient_key])
    return sum((lot.left for lot in lots if not lot.is_past or lot.pk == (chosen or line.lot_id)), line.drawn_g)
