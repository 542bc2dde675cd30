"""From a lot to everything that was made from it, rests of melts followed too."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from django.db.models import Sum

from balmcore.tables import Container, Tables
from balmcore.wording import as_sentence, in_sentence
from batches.models import Batch, Draw, Rest
from pantry.models import Lot, Preparation
from pantry.queries import containers, name_of
from pours.models import Pour
from pours.queries import Card, card

DEEPEST = 20  # a rest of a rest of a rest


@dataclass(frozen=True)
class Made:
    """A pour made from a lot, with its pieces; ``through`` names the rest by which it got in."""

    card: Card
    pieces: tuple[str, ...]
    through: str


@dataclass(frozen=True)
class Trace:
    """Everything made from one lot: pours, batches begun and not poured, and the pieces in all."""

    lot: Lot
    made: tuple[Made, ...]
    open: tuple[Batch, ...]

    @property
    def pieces(self) -> int:
        """How many pieces hold some of it."""
        return sum(row.made for made in self.made for row in made.card.pour.containers)


def unfit(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """Those of some batches that hold something of a lot marked rancid or recalled, and what to say.
    Followed back through rests and preparations; what went back to its lot is not in them."""
    found = _bad_containers([batch.pk for batch in batches if batch.is_poured])
    held: dict[int, set[int]] = {}
    for batch, lot in _made_of(batches):
        held.setdefault(lot, set()).add(batch)
    found |= {batch: each for batch, each in _followed_back(held).items() if batch not in found}
    return _sentences(found, tables)


def unfit_lots(lots: Collection[Lot], tables: Tables) -> dict[int, str]:
    """Those of some lots that were made here from something of a lot marked rancid or recalled, and what to say."""
    held: dict[int, set[int]] = {}
    for lot, sources in sources_of(lots).items():
        for source, _ in sources:
            held.setdefault(source, set()).add(lot)
    return _sentences(_followed_back(held), tables)


def _followed_back(held: dict[int, set[int]]) -> dict[int, tuple[Lot, str]]:
    """Of things by the lots they hold, those that hold something of a lot that is not good: that lot, and what it came
    in by."""
    found: dict[int, tuple[Lot, str]] = {}
    by = dict.fromkeys(held, "")
    for _ in range(DEEPEST):
        lots = {lot.pk: lot for lot in Lot.objects.filter(pk__in=held)} if held else {}
        before: dict[int, set[int]] = {}
        through: dict[int, str] = {}
        for pk, lot in lots.items():
            if lot.state != Lot.State.GOOD:
                for batch in held[pk]:
                    found.setdefault(batch, (lot, by[pk]))
        for pk, sources in sources_of(lots.values()).items():
            for source, name in sources:
                before.setdefault(source, set()).update(held[pk])
                through.setdefault(source, by[pk] or name)
        held, by = before, through
        if not held:
            break
    return found


def _sentences(found: Mapping[int, tuple[Lot, str]], tables: Tables) -> dict[int, str]:
    containers_by_key = containers() if any(lot.is_container for lot, _ in found.values()) else {}
    return {pk: _unfit_sentence(lot, via, tables, containers_by_key) for pk, (lot, via) in found.items()}


def _bad_containers(poured: Sequence[int]) -> dict[int, tuple[Lot, str]]:
    """Poured batches filled into containers of a lot that is not good."""
    bad = Pour.container_lots.through.objects.exclude(lot__state=Lot.State.GOOD).filter(pour__batch__in=poured)
    return {row.pour.batch_id: (row.lot, "") for row in bad.select_related("lot", "pour")} if poured else {}


def _made_of(batches: Collection[Batch]) -> list[tuple[int, int]]:
    """Batch and lot, for those lots that are not good or were made here from others. What was read with its draws is
    not asked for again."""
    found: list[tuple[int, int]] = []
    unread = []
    for batch in batches:
        if batch.has_draws:
            found += [(batch.pk, lot.pk) for lot in batch.lots_in_it if not lot.is_plain]
        else:
            unread.append(batch.pk)
    return found + _made_of_unread(unread) if unread else found


def _made_of_unread(batches: Sequence[int]) -> list[tuple[int, int]]:
    given = Draw.objects.filter(line__batch__in=batches).exclude(
        lot__state=Lot.State.GOOD, lot__origin=Lot.Origin.BOUGHT
    )
    rows = given.values_list("line__batch", "lot").annotate(net=Sum("grams"))
    return [(batch, lot) for batch, lot, net in rows if net > 0]


def sources_of(lots: Collection[Lot]) -> dict[int, list[tuple[int, str]]]:
    """The lots that rests and preparations were made from, by their numbers, each with what it came in by. Four
    queries at most."""
    found: dict[int, list[tuple[int, str]]] = {}
    prepared = [lot.pk for lot in lots if lot.origin == Lot.Origin.PREPARED]
    if prepared:
        rows = Preparation.objects.filter(lot__in=prepared, sources__isnull=False)
        for lot, source, name in rows.order_by().values_list("lot", "sources", "name"):
            found.setdefault(lot, []).append((source, in_sentence(name)))
    rests = [lot.pk for lot in lots if lot.origin == Lot.Origin.LEFTOVER]
    if rests:
        batches: dict[int, list[int]] = {}
        stayed = Pour.objects.filter(leftover_lot__in=rests).order_by().values_list("leftover_lot", "batch")
        for lot, batch in (*stayed, *Rest.objects.filter(lot__in=rests).order_by().values_list("lot", "batch")):
            batches.setdefault(batch, []).append(lot)
        given = Draw.objects.filter(line__batch__in=batches).order_by().values_list("line__batch", "lot")
        for batch, source, net in given.annotate(net=Sum("grams")):
            for lot in batches[batch] if net > 0 else ():
                found.setdefault(lot, []).append((source, f"the rest of batch {batch}"))
    return found


def _unfit_sentence(lot: Lot, through: str, tables: Tables, containers_by_key: Mapping[str, Container]) -> str:
    name, by = name_of(lot.item_key, tables, containers_by_key), f", by {through}" if through else ""
    return as_sentence(f"{in_sentence(name)}, {lot}, is {lot.get_state_display().lower()}{by}")


def trace(lot: Lot, tables: Tables) -> Trace:
    """Follow a lot through its batches, through the rests kept of them and through what was
    prepared with it, to every piece. What went back to the lot was not made from it."""
    filled = Pour.objects.filter(container_lots=lot).values_list("batch", "finish")
    reached: dict[tuple[int, int | None], str] = dict.fromkeys(filled, "")
    wave = {lot.pk: ""}
    for _ in range(DEEPEST):
        drawn = Draw.objects.filter(lot__in=wave).values_list("line__batch", "line__finish", "lot")
        given = drawn.annotate(net=Sum("grams"))
        fresh = {
            (batch, finish): wave[lot_pk]
            for batch, finish, lot_pk, net in given
            if net > 0 and (batch, finish) not in reached
        }
        reached |= fresh
        made_of = [batch for batch, _ in fresh]
        kept = Pour.objects.filter(batch__in=made_of, leftover_lot__isnull=False)
        rests = [
            (rest, batch)
            for rest, batch, finish in (
                *kept.values_list("leftover_lot", "batch", "finish"),
                *Rest.objects.filter(batch__in=made_of).values_list("lot", "batch", "finish"),
            )
            if (batch, None) in fresh or (batch, finish) in fresh
        ]
        prepared = Preparation.objects.filter(sources__in=wave, lot__isnull=False).values_list("lot", "name")
        wave = {pk: f"the rest of batch {batch}" for pk, batch in rests} | {
            pk: in_sentence(name) for pk, name in prepared
        }
        if not wave:
            break
    batches = [batch for batch, _ in reached]
    # What went into one finish alone is not in the others; what went into the pot is in all.
    pours = [
        (pour, how)
        for pour in Pour.objects.filter(batch__in=batches).for_list()
        if (how := reached.get((pour.batch_id, None), reached.get((pour.batch_id, pour.finish_id)))) is not None
    ]
    open_batches = Batch.objects.unpoured().filter(pk__in=batches).select_related("version__formula")
    return Trace(
        lot,
        tuple(Made(card(pour, tables), tuple(str(row) for row in pour.containers), how) for pour, how in pours),
        tuple(open_batches),
    )
