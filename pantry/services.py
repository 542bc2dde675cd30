"""What can be done with stock: receive it, draw on it, correct it, mark it, prepare it.

Whatever moves an amount writes an entry and changes ``left`` in one statement that the
database refuses to take below nothing, so that no order of tabs can lose a gram.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import F, Min, Value
from django.utils import timezone

from balmcore import units
from balmcore.advice.shelf_life import keeps
from balmcore.composition import Composition, Line, percent_text
from balmcore.display import day_words, figure, mass_words
from balmcore.errors import Problem
from balmcore.making.stock import draw as draws
from balmcore.tables import Tables
from pantry import infusions
from pantry.hooks import needs_ingredient
from pantry.models import LEFTOVER, Entry, Leftover, LeftoverLine, Lot, OwnIngredient, Preparation
from pantry.queries import lots_of
from workshop.fields import MassField

MOST = units.MOST_G
MORNING = time(8)


@dataclass(frozen=True)
class Purchase:
    """A lot as it is received. ``amount`` is in grams, or in pieces for a container."""

    item_key: str
    amount: Decimal
    is_container: bool = False
    supplier: str = ""
    code: str = ""
    bought: date | None = None
    opened: date | None = None
    best_before: date | None = None
    price: Decimal | None = None
    note: str = ""
    origin: Lot.Origin = Lot.Origin.BOUGHT


def odd_days(bought: date | None, opened: date | None, best_before: date | None) -> dict[str, str]:
    """What is wrong with the days of a lot, by field."""
    found = {}
    if bought and best_before and best_before < bought:
        found["best_before"] = "It was best before a day on which it was not yet bought: check both."
    if bought and opened and opened < bought:
        found["opened"] = "It cannot have been opened before it was bought."
    today = timezone.localdate()
    for name, day in (("bought", bought), ("opened", opened)):
        if day and day > today:
            found[name] = "That day is still to come."
    return found


def _require_days(bought: date | None, opened: date | None, best_before: date | None) -> None:
    for where, sentence in odd_days(bought, opened, best_before).items():
        raise Problem(sentence, where)


@transaction.atomic
def receive(purchase: Purchase) -> Lot:
    """A new lot with its first entry. Raises :class:`Problem`."""
    return _receive(purchase)


def _receive(purchase: Purchase) -> Lot:
    if not 0 < purchase.amount <= MOST:
        raise Problem(f"A lot holds more than nothing: write what came in, such as {mass_words(500)}.", "amount")
    _require_days(purchase.bought, purchase.opened, purchase.best_before)
    lot = Lot.objects.create(
        item_key=purchase.item_key,
        is_container=purchase.is_container,
        supplier=purchase.supplier,
        code=purchase.code,
        bought=purchase.bought,
        opened=purchase.opened,
        best_before=purchase.best_before,
        received=purchase.amount,
        left=purchase.amount,
        price=purchase.price,
        origin=purchase.origin,
    )
    at = _moment(purchase.bought)
    Entry.objects.create(lot=lot, kind=Entry.Kind.RECEIVED, amount=purchase.amount, note=purchase.note, at=at)
    return lot


def _moment(day: date | None) -> datetime:
    """When something of a day stands in an account: now, or that morning when it was an earlier day."""
    now = timezone.now()
    if day is None or day >= timezone.localdate(now):
        return now
    return timezone.make_aware(datetime.combine(day, MORNING))


@transaction.atomic
def move(lot: Lot, amount: Decimal, kind: Entry.Kind, note: str = "") -> Entry:
    """Put an amount into a lot, or take it out when it is negative; ``lot`` is brought up to date.

    Raises :class:`Problem` when the lot does not hold so much.
    """
    lot.refresh_from_db(fields=("left",))
    return book_entry(lot, amount, kind, note)


def book_entry(lot: Lot, amount: Decimal, kind: Entry.Kind, note: str = "") -> Entry:
    """As :func:`move`, within a transaction in which ``lot`` was read."""
    if not Lot.objects.filter(pk=lot.pk, left__gte=-amount).update(left=F("left") + Value(amount, MassField())):
        left, wanted = (
            f"{each.normalize():f} pieces" if lot.is_container else mass_words(each) for each in (lot.left, -amount)
        )
        raise Problem(f"Of {lot} only {left} are left: {wanted} cannot leave it.", "amount")
    lot.left += amount
    return Entry.objects.create(lot=lot, kind=kind, amount=amount, note=note[:200])


@dataclass(frozen=True)
class Drawn:
    """What left which lots, and what no lot had."""

    entries: tuple[Entry, ...]
    missing: Decimal


def draw(lots: Iterable[Lot], amount: Decimal, kind: Entry.Kind, note: str, chosen: int | None = None) -> Drawn:
    """Take an amount out of some lots of an item: the chosen one first, then the first to expire.

    It belongs into a transaction, with what the amount is drawn for.
    """
    known = {lot.pk: lot for lot in lots}
    taken, missing = draws((lot.to_lot() for lot in known.values()), amount, chosen)
    return Drawn(tuple(book_entry(known[pk], -part, kind, note) for pk, part in taken.items()), missing)


@transaction.atomic
def correct(lot: Lot, counted: Decimal, note: str = "") -> Entry:
    """Bring a lot to what was weighed or counted, as an entry of the difference."""
    if not 0 <= counted <= MOST:
        raise Problem("A lot cannot hold less than nothing.", "amount")
    lot = Lot.objects.get(pk=lot.pk)
    return book_entry(lot, counted - lot.left, Entry.Kind.CORRECTED, note)


@transaction.atomic
def mark(lot: Lot, state: str, note: str = "") -> Entry:
    """Mark a lot good, rancid or recalled; one that is not good serves no batch any more."""
    if state not in Lot.State.values:
        raise Problem("A lot is good, rancid or recalled.", "state")
    Lot.objects.filter(pk=lot.pk).update(state=state)
    lot.refresh_from_db(fields=("state",))
    told = f"{lot.get_state_display()}. {note}".strip()
    return Entry.objects.create(lot=lot, kind=Entry.Kind.MARKED, note=told[:200])


@transaction.atomic
def put_right(lot: Lot, **papers: Any) -> Entry | None:
    """Supplier, code, price and dates of a lot as they should be; its account keeps what stood there. None where
    nothing differs."""
    changed = {name: value for name, value in papers.items() if getattr(lot, name) != value}
    if not changed:
        return None
    told = [f"{_PAPERS[name]} was {_said(getattr(lot, name))}" for name in changed]
    for name, value in changed.items():
        setattr(lot, name, value)
    lot.save(update_fields=tuple(changed))
    return Entry.objects.create(lot=lot, kind=Entry.Kind.CORRECTED, note="; ".join(told)[:200])


_PAPERS = {
    "supplier": "supplier",
    "code": "their lot",
    "price": "price",
    "bought": "bought",
    "best_before": "best before",
}


def _said(value: object) -> str:
    """A value of a lot as its account keeps it."""
    if value in (None, ""):
        return "not written down"
    if isinstance(value, Decimal):
        return figure(value, 2)
    return day_words(value) if isinstance(value, date) else f"{value}"


@transaction.atomic
def smell(lot: Lot, note: str = "") -> Entry:
    """Write down that a lot past its date was smelled, and is still good. Raises :class:`Problem` for one that is not
    past, or not good."""
    if not lot.is_past or lot.state != Lot.State.GOOD:
        raise Problem(f"{lot} is not past its date, or not good: there is nothing to smell.".capitalize(), "do")
    Lot.objects.filter(pk=lot.pk).update(smelled=timezone.localdate())
    lot.refresh_from_db(fields=("smelled",))
    return Entry.objects.create(lot=lot, kind=Entry.Kind.SMELLED, note=note[:200])


def open_lot(lot: Lot, day: date | None) -> None:
    """Note the day on which it was opened. Raises :class:`Problem` for one before it was bought."""
    _require_days(lot.bought, day, None)
    Lot.objects.filter(pk=lot.pk).update(opened=day)


def _keeps_until(made: date, composition: Composition, lots: Mapping[str, date]) -> date | None:
    """The best before of what was made on a day; that day itself where something in it was past."""
    kept = keeps(made, composition, lots)
    return max(kept.until, made) if kept else None


def keep_leftover(
    name: str, composition: Composition, grams: Decimal, note: str, lots: Mapping[str, date] | None = None
) -> Lot:
    """The rest of a melt as a lot of its own, with the composition it truly had. ``lots`` are the
    best-before days of what went in: it keeps no longer than they and its oils allow. It belongs into a transaction."""
    whole = composition.require_mass().expanded
    leftover = Leftover.objects.create(name=name)
    _write_parts(leftover, whole)
    # The pieces of its batch have paid for it.
    return _receive(
        Purchase(
            leftover.key,
            grams,
            bought=leftover.made_on,
            best_before=_keeps_until(leftover.made_on, composition, lots or {}),
            price=Decimal(0),
            note=note,
            origin=Lot.Origin.LEFTOVER,
        )
    )


def correct_leftover_parts(lot: Lot, composition: Composition) -> None:
    """What a leftover consists of, once what went into its melt was corrected. It belongs into a transaction."""
    leftover = Leftover.objects.get(pk=int(lot.item_key.removeprefix(LEFTOVER)))
    leftover.lines.all().delete()
    _write_parts(leftover, composition.require_mass().expanded)


def _write_parts(leftover: Leftover, whole: Composition) -> None:
    LeftoverLine.objects.bulk_create(
        LeftoverLine(leftover=leftover, ingredient_key=line.key, share=share)
        for line in whole.lines
        if (share := round(line.share / whole.total, 6)) > 0
    )


@transaction.atomic
def begin_preparation(preparation: Preparation) -> Preparation:
    """Begin an infusion or a rendering. What oil is in stock leaves it now."""
    if preparation.ready_on < preparation.started_on:
        raise Problem("It cannot be ready before it was begun.", "ready_on")
    infusion = preparation.kind == Preparation.Kind.INFUSION
    if infusion and not preparation.herb_keys:
        preparation.herb_keys = " ".join(infusions.herbs_said(preparation))
    preparation.save()
    if infusion:
        lots = lots_of([preparation.base_key]).get(preparation.base_key, ())
        drawn = draw(lots, preparation.base_g, Entry.Kind.PREPARED, preparation.name)
        preparation.sources.set(entry.lot_id for entry in drawn.entries)
    return preparation


@transaction.atomic
def finish_preparation(preparation: Preparation, yield_g: Decimal, day: date, tables: Tables) -> Lot:
    """Strain or pour off what came of it: it becomes a lot. Raises :class:`Problem`.

    An infused oil is an ingredient of its own: the oil it was made with, and the herbs that steeped in it.
    """
    done = Preparation.objects.filter(pk=preparation.pk, finished_on=None)
    given = preparation.given_g
    if not 0 < yield_g <= given * Decimal("1.05"):
        raise Problem(f"Out of {mass_words(given)} cannot come {mass_words(yield_g)}.", "yield_g")
    if day > timezone.localdate():
        raise Problem("That day is still to come.", "day")
    if day < preparation.started_on:
        raise Problem("It cannot be finished before it was begun.", "day")
    if not done.update(finished_on=day, yield_g=yield_g):
        raise Problem("This was finished already, perhaps in another tab: its lot is in stock.", "yield_g")
    made = tables.ingredient(preparation.base_key)
    if preparation.kind == Preparation.Kind.INFUSION:
        made = infusions.made_of(preparation, made).to_ingredient()
    share = percent_text(round(yield_g / given, 3), 0)
    note = f"{preparation.name}, yield {share} %"
    earliest = preparation.sources.aggregate(day=Min("best_before"))["day"]
    pure = Composition((Line(made, Decimal(1)),))
    lot = receive(
        Purchase(
            made.key,
            yield_g,
            supplier="this workshop",
            bought=day,
            best_before=_keeps_until(day, pure, {made.key: earliest} if earliest else {}),
            note=note,
            origin=Lot.Origin.PREPARED,
        )
    )
    Preparation.objects.filter(pk=preparation.pk).update(lot=lot)
    return lot


def delete_ingredient(key: str) -> str:
    """Take an own ingredient away; returns its name. Raises :class:`Problem` while it is in use."""
    row = next((row for row in OwnIngredient.objects.all() if row.key == key), None)
    if row is None:
        raise Problem("Only ingredients of your own can be taken away.")
    used = any(needs_ingredient.ask(key)) or LeftoverLine.objects.filter(ingredient_key=key).exists()
    if used or Lot.objects.filter(item_key=key, is_container=False).exists():
        raise Problem(f"{row.name} is in a formula or in stock: it stays, so that these can still be read.")
    row.delete()
    return row.name
