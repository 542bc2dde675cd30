"""What a batch comes to before it is made: its clock, its timeline, its stock and its cost."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal

from django.utils import timezone

from balmcore.composition import Composition, percent_text
from balmcore.making.cost import PieceCost, Price
from balmcore.making.dosing import Dosing, dosing_in_finish
from balmcore.making.method.rounds import each_pitcher, rounds_told
from balmcore.making.portions import Portion
from balmcore.making.scaling import Piece, Scaled, added_up
from balmcore.making.steps import Method, Setup, Step
from balmcore.making.stock import Most, most
from balmcore.physics.cooling import CoolDown, by_method, rivals
from balmcore.physics.firmness import WINDOW_C, Prediction, predict
from balmcore.tables import Tables
from balmcore.wording import minutes_and_hours
from batches.batch_plan import BatchPlan
from batches.clock.datetimes import format_datetime, format_time
from batches.supply.costs import cost_at
from pantry.models import Lot
from pantry.queries import held_by, serving
from workshop.models import Preferences
from workshop.pictures.graph import WIDE, Graph, Point, graph

LONGEST_ON_STRIP = 60
APART = 0.3  # degrees
TICKS_MIN = (5, 10, 15, 30, 60, 120, 240)
MOST_TICKS = 9
LOOKS = {"hands": "hands", "stove": "stove", "refrigerator": "cold", "freezer": "cold", "": "wait"}


@dataclass(frozen=True)
class Timed:
    """A step on the clock; ``at`` is its time of day, or minutes from the start without one."""

    step: Step
    at: str
    length: str


@dataclass(frozen=True)
class Clock:
    """A method on the clock. ``start`` is None while it has no time yet; ``rounds`` says that it takes several
    pitchers, ``each_pitcher`` what goes into each."""

    method: Method
    steps: tuple[Timed, ...]
    melt_timeline: Graph
    start: datetime | None
    ready: datetime | None
    sentence: str
    rounds: str = ""
    each_pitcher: str = ""


def clock_of(setup: Setup, made: Method, start: datetime | None, size: Point = WIDE) -> Clock:
    """Steps, timeline and sentence of a method, from a start or from minute nought."""
    steps = []
    for minute, step in made.timed():
        at = format_time(start + timedelta(minutes=minute)) if start else f"{minute:.0f} min"
        steps.append(Timed(step, at, minutes_and_hours(step.length) if step.length else ""))
    ready = start + timedelta(minutes=made.length) if start else None
    hands = f"{minutes_and_hours(made.length)}, {minutes_and_hours(made.hands_on)} of it at your hands"
    sentence = (
        f"Start {format_datetime(start)}, ready {format_time(ready)}: {hands}." if start and ready else f"{hands}."
    )
    return Clock(
        made,
        tuple(steps),
        melt_timeline(setup, made, start, size),
        start,
        ready,
        sentence,
        rounds_told(setup),
        each_pitcher(setup),
    )


def melt_timeline(setup: Setup, made: Method, start: datetime | None, size: Point = WIDE) -> Graph:
    """The melt's temperature against the clock, with the steps as the ground it stands on."""
    show = setup.show
    lines: list[list[tuple[float, float]]] = [[]]
    bands = []
    for minute, step in made.timed():
        points = [(minute + float(m), show.in_temp(float(t))) for m, t in zip(*_thinned(step), strict=True)]
        # Pitcher and poured piece are two things: the line begins anew where the one hands over.
        if points and lines[-1] and abs(points[0][1] - lines[-1][-1][1]) > APART:
            lines.append([])
        lines[-1] += points
        if step.length:
            look = LOOKS["hands" if step.hands and not step.at else step.at]
            bands.append((minute, minute + step.length, look, step.title))
    set_c = setup.prediction.set_c
    levels = [] if set_c is None else [(show.in_temp(set_c), f"sets at {show.temp_text(set_c)}")]
    return graph(
        lines,
        (0.0, made.length),
        (show.in_temp(0.0), show.in_temp(100.0)),
        _ticks(made.length, start),
        [(show.in_temp(t), f"{show.temp_number(t)}°") for t in (0, 25, 50, 75, 100)],
        f"The melt's temperature over {minutes_and_hours(made.length)}.",
        bands,
        levels,
        size,
    )


def _thinned(step: Step) -> tuple[list[float], list[float]]:
    """At most so many points of a step's course as the timeline can show, the last one kept."""
    if not step.minutes.size:
        return [], []
    every = max(1, len(step.minutes) // LONGEST_ON_STRIP)
    kept = sorted({*range(0, len(step.minutes), every), len(step.minutes) - 1})
    return step.minutes[kept].tolist(), step.temps_c[kept].tolist()


def _ticks(length: float, start: datetime | None) -> list[tuple[float, str]]:
    """Marks on the clock, at whole quarters and hours where there is a time of day."""
    step = next((s for s in TICKS_MIN if length / s <= MOST_TICKS), TICKS_MIN[-1])
    if start is None:
        return [(float(minute), f"{minute} min") for minute in range(0, int(length) + 1, step)]
    past = timezone.localtime(start).minute % step
    marks = range(step - past, int(length) + 1, step)
    return [(float(minute), format_time(start + timedelta(minutes=minute))) for minute in marks]


@dataclass(frozen=True)
class Choice:
    """One way of cooling beside the others: when it is firm and ready, and its grain."""

    cooled: CoolDown
    firm: str
    ready: str
    is_chosen: bool
    against: tuple[str, ...]


def cooling_choices(setup: Setup) -> list[Choice]:
    """Every way of cooling for the largest piece; none where it is whipped."""
    if setup.is_whipped or setup.handling.cooling == "cold_whip":
        return []
    found = by_method(
        setup.prediction,
        setup.largest_body,
        setup.handling.pour_c,
        setup.handling.room_c,
        setup.melt,
        setup.is_held,
        setup.count,
    )
    return [
        Choice(
            cooled,
            minutes_and_hours(cooled.firm_min),
            minutes_and_hours(cooled.label_min),
            key == setup.handling.cooling,
            rivals(found, key) if key == setup.handling.cooling else (),
        )
        for key, cooled in found.items()
    ]


def needs(scaled: Scaled) -> tuple[dict[str, int], dict[str, Decimal]]:
    """Containers and grams that a batch takes, by key: its base, and what is added to its finishes."""
    counts: dict[str, int] = {}
    for piece in scaled.pieces:
        counts[piece.key] = counts.get(piece.key, 0) + piece.count
    return counts, added_up(scaled.lines, *(portion.add for portion in scaled.portions))


@dataclass(frozen=True)
class Added:
    """What is added to a finish; ``dosing`` are the ways to do it where the scale cannot weigh it well."""

    name: str
    percent: str
    grams: Decimal
    flag: str
    dosing: Dosing | None


@dataclass(frozen=True)
class FinishSummary:
    """One finish as it comes out: its portion, its firmness at 21 degrees C, what is added to it, and a
    piece's price, None where none is known."""

    portion: Portion
    prediction: Prediction
    pieces: tuple[tuple[str, Piece], ...]
    added: tuple[Added, ...]
    costs: tuple[PieceCost, ...]

    @property
    def firmness(self) -> float:
        """Firmness of what its pieces hold."""
        return self.prediction.firmness_at(WINDOW_C)

    @property
    def word(self) -> str:
        """The word for it."""
        return self.prediction.word_at(WINDOW_C)


def _added(portion: Portion, resolution_g: Decimal) -> tuple[Added, ...]:
    flags = {flag.key: flag.sentence for flag in portion.flags}
    return tuple(
        Added(
            one.ingredient.name,
            percent_text(round(one.share, 4), 1),
            portion.add[one.key],
            flags.get(one.key, ""),
            dosing_in_finish(portion, one.key, resolution_g) if one.key in flags else None,
        )
        for one in portion.finish.add
    )


def summaries(
    scaled: Scaled, plan: BatchPlan, prices: Mapping[str, Price], tables: Tables, prefs: Preferences
) -> tuple[FinishSummary, ...]:
    """The finishes of a batch, each with its own composition, firmness and cost."""
    found, pieces = [], iter(scaled.pieces)
    taken = sum((portion.base_g for portion in scaled.portions), Decimal(0))
    for portion, finish in zip(scaled.portions, plan.finishes, strict=True):
        own = tuple(next(pieces) for _ in finish.fillings)
        base = {key: mass * portion.base_g / taken for key, mass in scaled.lines.items()}
        grams = added_up(base, portion.add)
        names = {piece.key: plan.containers_by_key[piece.key].name for piece in own}
        cost = cost_at(grams, own, names, prices, tables, prefs, around=plan.around)
        found.append(
            FinishSummary(
                portion,
                predict(portion.composition, plan.overrun),
                tuple((names[piece.key], piece) for piece in own),
                _added(portion, plan.resolution_g),
                cost.bill.pieces if cost.is_known else (),
            )
        )
    return tuple(found)


@dataclass(frozen=True)
class Supply:
    """What the stock says to a batch: grams or pieces missing by key, the largest batch, and the
    ingredient with its lots that limits it; ``lots`` are those that can serve, by ingredient."""

    missing: Mapping[str, Decimal]
    most: Most | None
    limit: str
    lots: Mapping[str, list[Lot]]


def supply_of(
    composition: Composition,
    lines: Mapping[str, Decimal],
    pieces: Mapping[str, int],
    known: Mapping[str, Sequence[Lot]],
) -> Supply:
    """Stock against what a batch needs; what no lot was ever written down of is not counted."""
    held = held_by(known)
    needed = {**lines, **{key: Decimal(count) for key, count in pieces.items()}}
    missing = {key: amount - held[key] for key, amount in needed.items() if key in held and amount > held[key]}
    largest_batch = most(composition, {key: grams for key, grams in held.items() if key in lines})
    limit, lots = "", {key: serving(own) for key, own in known.items() if key in lines}
    lots = {key: own for key, own in lots.items() if own}
    if largest_batch is not None:
        told = ", ".join(str(lot) for lot in lots.get(largest_batch.key, ()))
        name = next(item.name for item in composition.ingredients if item.key == largest_batch.key)
        limit = f"{name}{f', {told},' if told else ''}"
    return Supply(missing, largest_batch, limit, lots)
