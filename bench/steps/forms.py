"""What is typed or tapped at the bench, read."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore import units
from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.making.bench.steps import Task
from balmcore.making.scaling import MOST_PIECES
from balmcore.tables import Ingredient
from balmcore.wording import as_sentence, in_sentence, listed
from batches.models import BatchContainer
from batches.showing.queries import planned_net_g
from bench.state import Bench, StepView
from bench.weights.reading import MOST_LETTERS, piece_weights_g, weight_g
from workshop.web import Fields


def grams(text: str, bench: Bench, item: Ingredient | None = None) -> Decimal:
    """A weight typed, or what the scale showed. Raises :class:`Problem`."""
    return weight_g(text, item, bench.prefs)


@dataclass(frozen=True)
class Row:
    """One sort of piece to fill: how many, what each is to hold, and its weights as typed."""

    container: BatchContainer
    net_g: float
    count: str
    weights: str
    most_letters: int = MOST_LETTERS


MOST_MISSING = 2  # are told one by one


def missing(bench: Bench) -> list[tuple[str, str]]:
    """What should be in by the step shown and is not weighed, in sentences, each with the step at which it is: the
    first of them where it is about several."""
    show, found = bench.prefs.show, bench.missing
    if len(found) > MOST_MISSING:
        grams = sum((view.left_g or Decimal(0) for view, _ in found), Decimal(0))
        names = as_sentence(listed([in_sentence(view.step.title) for view, _ in found]))
        return [(f"{names} are not in yet: the figures count {show.mass_text(grams)} of them.", found[0][0].step.key)]
    return [
        (
            f"{view.step.title} {'was passed over' if is_skipped else 'is not in yet'}: the figures count "
            f"{show.mass_text(view.left_g or 0)} of it.",
            view.step.key,
        )
        for view, is_skipped in found
    ]


def rows(bench: Bench, view: StepView, data: Fields | None = None) -> list[Row]:
    """The pieces of a finish as the form shows them."""
    finish = bench.finish_of(view.step.finish)
    net_g = planned_net_g(bench.batch, finish, bench.tables)
    found = []
    for row in bench.batch.containers_of(finish):
        count, weights = str(row.count), ""
        if data is not None:
            count, weights = data.text(f"count-{row.pk}", 10), data.text(f"weights-{row.pk}", MOST_LETTERS)
        found.append(Row(row, float(net_g[row.name]), count, weights))
    return found


def pieces(filled: Sequence[Row], bench: Bench) -> list[tuple[str, Decimal | None]]:
    """Every piece filled with its weight, None for one that was not weighed. Raises :class:`Problem`."""
    found: list[tuple[str, Decimal | None]] = []
    for row in filled:
        count = 0 if row.count.strip() == "0" else units.count(row.count, MOST_PIECES)
        name = row.container.name
        weights = piece_weights_g(row.weights, name, count, bench.prefs)
        found += [(name, weight) for weight in (*weights, *[None] * (count - len(weights)))]
    if not found:
        raise Problem("Nothing was filled: count what there is, or skip this step.", "pieces")
    return found


def light_ones(
    filled: Sequence[tuple[str, Decimal | None]], net_g: Mapping[str, float], step: float, show: Display
) -> list[str]:
    """Those below what they are to hold by more than a step of the scale: ``11.0 of 12.9 g``."""
    return [
        f"{show.mass_number(weight)} of {show.mass_text(net_g[name])}"
        for name, weight in filled
        if weight is not None and name in net_g and float(weight) < net_g[name] - step
    ]


def unaccounted(bench: Bench) -> str:
    """Weighed in against what is in pieces and jug, in words; empty while something of it is not known, or
    when they agree to a step of the scale for each weighing."""
    fills = [view for view in bench.steps if view.step.task is Task.FILL]
    out, weighings = Decimal(0), len(bench.batch.base_lines)
    for view in fills:
        event = view.event
        if event is None or not event.pieces or event.stayed_g is None:
            return ""
        weights = [weight for _, weight in event.pieces if weight is not None]
        if len(weights) < len(event.pieces):
            return ""
        out += sum(weights, event.stayed_g)
        weighings += len(weights)
    into = bench.pot_g + sum((finish.taken_g or Decimal(0) for finish in bench.batch.finishes.all()), Decimal(0))
    into += sum((line.actual_g or Decimal(0) for line in bench.batch.lines.all() if line.finish_id), Decimal(0))
    gap = into - out
    if not fills or abs(gap) <= bench.batch.resolution_g * weighings:
        return ""
    show = bench.prefs.show
    side = "less came out" if gap > 0 else "more came out"
    told = f"{show.mass_text(into)} went in and {show.mass_text(out)} are accounted for"
    return f"{told}: {show.mass_text(abs(gap))} {side}."
