"""From a lot to everything that was made from it, rests of melts followed too."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from django.db.models import Sum

from balmcore.tables import Container, Tables
from balmcore.wording import as_sentence, in_sentence
from batches.models import Batch, Draw
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
        return sum(row.count for made in self.made for row in made.card.pour.containers)


def unfit(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """Those of some batches that hold something of a lot marked rancid or recalled, and what to say.
    Followed back through rests and preparations; what went back to its lot is not in them."""
    found = _bad_containers([batch.pk for batch in batches if batch.is_poured])
    held = {lot: {batch} for batch, lot in _made_of([batch.pk for batch in batches])}
    by = dict.fromkeys(held, "")
    for _ in range(DEEPEST):
        lots = {lot.pk: lot for lot in Lot.objects.filter(pk__in=held)} if held else {}
        before: dict[int, set[int]] = {}
        through: dict[int, str] = {}
        for pk, lot in lots.items():
            if lot.state != Lot.State.GOOD:
                for batch in held[pk]:
                    found.setdefault(batch, (lot, by[pk]))
            for source, name in sources_of(lot):
                before.setdefault(source, set()).update(held[pk])
                through.setdefault(source, by[pk] or name)
        held, by = before, through
        if not held:
            break
    vessels = containers() if any(lot.is_container for lot, _ in found.values()) else {}
    return {batch: _unfit_sentence(lot, via, tables, vessels) for batch, (lot, via) in found.items()}


def _bad_containers(poured: Sequence[int]) -> dict[int, tuple[Lot, str]]:
    """Poured batches filled into containers of a lot that is not good."""
    bad = Pour.container_lots.through.objects.exclude(lot__state=Lot.State.GOOD).filter(pour__batch__in=poured)
    return {row.pour.batch_id: (row.lot, "") for row in bad.select_related("lot", "pour")} if poured else {}


def _made_of(batches: Sequence[int]) -> list[tuple[int, int]]:
    """Batch and lot, for those lots that are not good or were made here from others."""
    given = Draw.objects.filter(line__batch__in=batches).exclude(
        lot__state=Lot.State.GOOD, lot__origin=Lot.Origin.BOUGHT
    )
    rows = given.values_list("line__batch", "lot").annotate(net=Sum("grams"))
    return [(batch, lot) for batch, lot, net in rows if net > 0]


def sources_of(lot: Lot) -> list[tuple[int, str]]:
    """The lots that a rest or a preparation was made from, each with what it came in by."""
    if lot.origin == Lot.Origin.PREPARED:
        rows = Preparation.objects.filter(lot=lot, sources__isnull=False).values_list("sources", "name")
        return [(source, in_sentence(name)) for source, name in rows]
    if lot.origin == Lot.Origin.LEFTOVER:
        batch = Pour.objects.filter(rest_lot=lot).values_list("batch", flat=True).first()
        given = Draw.objects.filter(line__batch=batch).values_list("lot").annotate(net=Sum("grams"))
        return [(source, f"the rest of batch {batch}") for source, net in given if net > 0]
    return []


def _unfit_sentence(lot: Lot, through: str, tables: Tables, vessels: Mapping[str, Container]) -> str:
    name, by = name_of(lot.item_key, tables, vessels), f", by {through}" if through else ""
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
        kept = Pour.objects.filter(batch__in=[batch for batch, _ in fresh], rest_lot__isnull=False)
        rests = [
            (rest, batch)
            for rest, batch, finish in kept.values_list("rest_lot", "batch", "finish")
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
