"""What planned batches hold of the stock: their grams and containers, in the order of their days."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from django.utils import timezone

from balmcore.making.stock import Shelf
from batches.models import LADDER_CUP, Batch
from pantry.models import Lot
from pantry.queries import lots_of, tools

LAST = datetime.max.replace(tzinfo=timezone.get_default_timezone())


@dataclass(frozen=True)
class Hold:
    """So much of a lot, held for a batch."""

    batch: Batch
    amount: Decimal


def day_of(batch: Batch) -> date:
    """The day on which a batch takes what it holds: that of its start, or today while it has none."""
    return timezone.localdate(batch.starts_at) if batch.starts_at else timezone.localdate()


def still_needs(batch: Batch, tool_keys: Collection[str] | None) -> Iterator[tuple[str, bool, Decimal, int | None]]:
    """What a batch has not taken yet: key, whether it is a container, how much, and the lot chosen for it. A mould
    comes back, and is none of it; without ``tool_keys`` no container is."""
    if batch.is_over:
        return
    for line in batch.lines.all():
        if line.actual_g is None and line.target_g:
            yield line.ingredient_key, False, line.target_g, line.lot_id
    if tool_keys is None:
        return
    for row in batch.containers.all():
        if row.container_key != LADDER_CUP and row.container_key not in tool_keys:
            yield row.container_key, True, Decimal(row.count), None
        for key in row.around_keys:
            yield key, True, Decimal(row.count), None


def holds(
    lots: Mapping[str, Sequence[Lot]],
    besides: Iterable[Batch] = (),
    until: Batch | None = None,
    comes_back: Collection[str] | None = None,
) -> dict[int, list[Hold]]:
    """What planned batches hold of some lots, by lot: each takes its own in the order of their days, the first to
    expire first, and nothing that is past its date by then. ``besides`` are left out; with ``until`` only those
    before it hold. A fixed number of queries."""
    apart = {batch.pk for batch in besides}
    waiting = Batch.objects.unpoured().exclude(pk__in=apart)
    waiting = waiting.select_related("version__formula").prefetch_related("lines")
    found: dict[int, list[Hold]] = {}
    today = timezone.localdate()
    shelves = {key: Shelf(lot.to_lot(today) for lot in own) for key, own in lots.items()}
    if any(lot.is_container for own in lots.values() for lot in own):
        waiting = waiting.prefetch_related("containers__around")
        comes_back = tools() if comes_back is None else comes_back
    else:
        comes_back = None
    for batch in sorted(waiting, key=_order):
        if until is not None and _order(batch) >= _order(until):
            break
        day = day_of(batch)
        for key, _, amount, chosen in still_needs(batch, comes_back):
            if key in shelves:
                past = {lot.pk for lot in lots[key] if lot.is_past_on(day)}
                for pk, part in shelves[key].draw(amount, chosen, past)[0].items():
                    found.setdefault(pk, []).append(Hold(batch, part))
    return found


def _order(batch: Batch) -> tuple[datetime, int]:
    return batch.starts_at or LAST, batch.pk


def free_lots(
    keys: Iterable[str],
    until: Batch | None = None,
    on: date | None = None,
    comes_back: Collection[str] | None = None,
    with_past: bool = False,
) -> dict[str, list[Lot]]:
    """The lots of some items with what is free of each: less what planned batches hold, all of them or with ``until``
    those before it; of one that is past its date on a day nothing, unless ``with_past``. ``held`` of each is what the
    others hold of it. They are to be looked at, and not to be saved."""
    found = lots_of(keys)
    taken = holds(found, until=until, comes_back=comes_back)
    day = on or (day_of(until) if until else timezone.localdate())
    for own in found.values():
        for lot in own:
            lot.held = sum((hold.amount for hold in taken.get(lot.pk, ())), Decimal(0))
            lot.left -= lot.held
            if lot.is_past_on(day) and not with_past:
                lot.left, lot.past = Decimal(0), lot.left
    return found
