"""What pages show of batches: lists, the plan by time, the best before of what is behind a batch."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.core.paginator import Page, Paginator

from balmcore.display import spoken
from balmcore.making.scaling import filled_density
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables
from batches.hooks import unfit_among
from batches.models import Batch, BatchFinish, BatchLine
from pantry.models import Lot, Preparation
from pantry.queries import earliest_best_before, lots_of, serving_for
from workshop.pictures.tin import Tin, tin
from workshop.words import all_in

MOST_CHOSEN, PER_PAGE, MOST_OFF = 400, 24, 12


@dataclass(frozen=True)
class BatchCard:
    """A batch in a list."""

    batch: Batch
    tin: Tin
    total_g: Decimal
    pieces: str
    unfit: str = ""


@dataclass(frozen=True)
class Agenda:
    """What is to come, by time and then those without one; and what was poured, newest first."""

    open: tuple[BatchCard, ...]
    done: tuple[BatchCard, ...]
    called_off: tuple[BatchCard, ...]
    preparations: tuple[Preparation, ...]
    coming: Page
    poured: Page

    @property
    def has_times(self) -> bool:
        """True when anything of it can go into a calendar."""
        return bool(self.preparations) or any(entry.batch.starts_at for entry in self.open)


def agenda(tables: Tables, coming: str = "", poured: str = "", words: str = "") -> Agenda:
    """The plan, by pages: what is to come by time, preparations under way, what was poured; narrowed to batches whose
    name or number holds every word."""
    batches = Batch.objects.filter(all_in(words, "version__formula__name", "pk"))
    first = Paginator(batches.unpoured().by_time().for_list(), PER_PAGE).get_page(coming)
    second = Paginator(batches.poured().for_list(), PER_PAGE).get_page(poured)
    unfit = unfit_among([*first.object_list, *second.object_list], tables)
    return Agenda(
        tuple(batch_card(batch, tables, unfit) for batch in first.object_list),
        tuple(batch_card(batch, tables, unfit) for batch in second.object_list),
        tuple(batch_card(batch, tables) for batch in batches.called_off().for_list()[:MOST_OFF]),
        tuple(Preparation.objects.filter(finished_on=None)),
        first,
        second,
    )


def batch_card(batch: Batch, tables: Tables, unfit: Mapping[int, str] | None = None) -> BatchCard:
    """A batch as a tin with its total and its pieces; ``unfit`` are those not fit to use."""
    composition = batch.to_composition(tables)
    roles = composition.role_shares()
    is_begun = any(line.actual_g is not None for line in batch.base_lines)
    firmness = (
        predict(composition, batch.overrun).firmness_at(WINDOW_C) + batch.drop_shift
        if is_begun
        else planned_firmness(batch, tables)
    )
    state = "poured" if batch.is_poured else "planned"
    return BatchCard(
        batch,
        tin(roles, firmness, state, f"Batch {batch.pk}"),
        spoken().shown_sum_g(line.mass_g for line in batch.base_lines),
        batch.pieces_text,
        (unfit or {}).get(batch.pk, ""),
    )


def planned_firmness(batch: Batch, tables: Tables, overrun: float | None = None) -> float:
    """The firmness that its plan and its formula's studio say, whipped as it is, or by another ``overrun``."""
    air = batch.overrun if overrun is None else overrun
    return predict(batch.version.to_composition(tables).without_volatiles, air).firmness_at(WINDOW_C)


def pot_to_fill_g(batch: Batch, finish: BatchFinish | None, tables: Tables) -> Decimal:
    """Grams that there are to fill: of the melt what does not boil away, or the base that a finish took and what was
    added to that."""
    if finish is None:
        return batch.to_fill_g(tables)
    own = (line.mass_g for line in batch.lines.all() if line.finish_id == finish.pk)
    return sum(own, finish.mass_g)


def planned_net_g(batch: Batch, finish: BatchFinish | None, tables: Tables) -> dict[str, Decimal]:
    """What each piece of a melt, or of one finish, is to hold, by the name of its container."""
    density = filled_density(batch.to_composition(tables, finish), batch.pour_c, batch.overrun)
    return {row.name: Decimal(str(row.filling.grams(density))) for row in batch.containers_of(finish)}


def best_before_of(batch: Batch) -> dict[str, date]:
    """The earliest best before of the lots behind each line of a batch, by ingredient: of those that gave to it or,
    while none did, of those that its sheet names."""
    behind: dict[str, list[Lot]] = {}
    unweighed = []
    for line in batch.lines.all():
        given = [draw.lot for draw in line.draws.all() if draw.grams > 0]
        behind.setdefault(line.ingredient_key, []).extend(given)
        if not given and line.actual_g is None:
            unweighed.append(line)
    tracked = lots_of(line.ingredient_key for line in unweighed) if unweighed else {}
    for line in unweighed:
        behind[line.ingredient_key] += _named(line, tracked.get(line.ingredient_key, ()))
    return earliest_best_before(behind)


def _named(line: BatchLine, lots: Sequence[Lot]) -> list[Lot]:
    """The lots that a sheet names for a line: the one said when it was poured, or those that would serve now."""
    chosen = [lot for lot in lots if lot.pk == line.lot_id]
    return chosen or list(serving_for(lots, line.target_g)[0])


def name_lots(batch: Batch) -> None:
    """Keep with the lines that nobody weighed from which lot their sheet says that they came, as it says when it is
    poured: what is in stock will be another thing tomorrow."""
    unweighed = [line for line in batch.lines.all() if line.actual_g is None and line.lot_id is None]
    tracked = lots_of(line.ingredient_key for line in unweighed) if unweighed else {}
    for line in unweighed:
        for lot in _named(line, tracked.get(line.ingredient_key, ()))[:1]:
            BatchLine.objects.filter(pk=line.pk).update(lot=lot)
            line.lot_id = lot.pk
