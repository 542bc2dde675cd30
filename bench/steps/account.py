"""Where what was in the pot is by now: in the pot, in pieces, in the jug, spilt; and what it fills beyond the plan."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore.making.bench.steps import Task
from balmcore.wording import listed
from batches.models import BatchContainer, BatchFinish
from batches.showing.queries import planned_net_g, pot_to_fill_g
from bench.models import Event
from bench.state import Bench


@dataclass(frozen=True)
class Account:
    """What went in, and where it is: ``pot_g`` not poured, ``pieces_g`` in pieces (``is_about`` where some of them were
    not weighed), ``jug_g`` what stayed, ``lost_g`` what is none of these, None until all is filled."""

    into_g: Decimal
    pot_g: Decimal
    pieces_g: Decimal
    jug_g: Decimal
    lost_g: Decimal | None
    is_about: bool


def account(bench: Bench) -> Account | None:
    """The account of the pot; None before anything is filled or taken from it."""
    fills = [view for view in bench.steps if view.step.task is Task.FILL]
    taken = [finish for finish in bench.batch.finishes.all() if finish.taken_g is not None]
    filled = [view for view in fills if view.event is not None and view.event.kind == Event.Kind.FILLED]
    if not filled and not taken:
        return None
    is_divided = bool(bench.batch.finishes.all())
    into = sum((_to_fill(bench, finish) for finish in taken), bench.pot_g) if is_divided else _to_fill(bench, None)
    pieces, jug, is_about = Decimal(0), Decimal(0), False
    for view in filled:
        assert view.event is not None
        net_g = planned_net_g(bench.batch, bench.finish_of(view.step.finish), bench.tables)
        for name, grams in view.event.pieces:
            pieces += net_g.get(name, Decimal(0)) if grams is None else grams
            is_about |= grams is None
        jug += view.event.stayed_g or Decimal(0)
    rest = into - pieces - jug
    if bench.is_filled and len(filled) == len(fills):
        in_pot = max(bench.pot_g, Decimal(0)) if taken else Decimal(0)
        return Account(into, in_pot, pieces, jug, rest - in_pot, is_about)
    return Account(into, rest, pieces, jug, None, is_about)


def _to_fill(bench: Bench, finish: BatchFinish | None) -> Decimal:
    return pot_to_fill_g(bench.batch, finish, bench.tables)


@dataclass(frozen=True)
class Surplus:
    """So many grams more than the pieces of the melt, or of one finish, hold, and the pieces that they would fill."""

    grams: Decimal
    container: BatchContainer
    count: int


def surplus(bench: Bench) -> list[Surplus]:
    """What there is beyond the pieces of the plan and what stays in the jug, where it fills a piece more."""
    found = []
    owners: Sequence[BatchFinish | None] = list(bench.batch.finishes.all()) or [None]
    fills = {view.step.finish: view for view in bench.steps if view.step.task is Task.FILL}
    for number, finish in enumerate(owners):
        view = fills.get(None if finish is None else number)
        rows = bench.batch.containers_of(finish)
        if view is None or not view.is_open or not rows:
            continue
        net_g = planned_net_g(bench.batch, finish, bench.tables)
        loss = bench.batch.loss_g if finish is None else Decimal(0)
        more = _to_fill(bench, finish) - loss - sum((net_g[row.name] * row.count for row in rows), Decimal(0))
        # A hair short of a piece is a piece: its grams are rounded.
        row = min(rows, key=lambda each: net_g[each.name])
        count = int((more + bench.batch.resolution_g) / net_g[row.name]) if net_g[row.name] else 0
        if count >= 1:
            found.append(Surplus(more, row, count))
    return found


def told(bench: Bench) -> str:
    """The account in a line; empty before there is one."""
    found, show = account(bench), bench.prefs.show
    if found is None:
        return ""
    about, least = "about " if found.is_about else "", bench.batch.resolution_g * 2
    parts = [f"{about}{show.mass_text(found.pieces_g)} in pieces"] if found.pieces_g else []
    parts += [f"{show.mass_text(found.jug_g)} in the jug"] if found.jug_g else []
    if found.lost_g is None:
        parts.insert(0, f"{show.mass_text(max(found.pot_g, Decimal(0)))} still to pour")
    else:
        parts += [f"{show.mass_text(found.pot_g)} left in the pot"] if found.pot_g > least else []
        parts += [f"{about}{show.mass_text(found.lost_g)} spilt, or at spoon and wall"] if found.lost_g > least else []
    return f"Of {show.mass_text(found.into_g)}: {listed(parts)}."
