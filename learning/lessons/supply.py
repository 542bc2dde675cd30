"""A change of material that the tests show: what is said of it, and what its maker answers."""

from dataclasses import dataclass
from datetime import date, timedelta

from django.utils import timezone

from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.tables import Tables
from balmcore.tables.correction import group_of
from balmcore.trials.calibration import OVERALL, Calibration, group_words
from batches.models import Draw
from learning.models import SupplyAnswer
from pantry.models import Lot
from workshop.services import bump_records_revision

ABOUT = timedelta(days=45)  # lots that came into use so near the day may be it
MOST_LOTS = 6


@dataclass(frozen=True)
class Told:
    """A change of material in a sentence, the lots that came into use about then, its day and group, and whether its
    maker named it."""

    sentence: str
    lots: tuple[tuple[str, Lot], ...]
    day: date
    group: str
    is_named: bool


def answers() -> tuple[tuple[date, str] | None, date | None]:
    """The change that the maker named last, and the day on which it was last said that there was none."""
    last = SupplyAnswer.objects.last()
    if last is None:
        return None, None
    return (None, timezone.localdate(last.created)) if last.is_refused else ((last.day, last.group), None)


def told(known: Calibration, tables: Tables, show: Display) -> Told | None:
    """What is to be said of the change that is reckoned with, None where there is none."""
    step = known.step
    if step is None:
        return None
    side = "firmer" if step.points > 0 else "softer"
    points = f"{abs(step.points):.0f} points {side} (± {step.sigma:.0f}, {step.pours} pours)"
    if step.group == OVERALL:
        sentence = f"Since {show.day(step.day)} what you make runs {points}: another lot, another stove, another room?"
    else:
        name = group_words(step.group, tables)
        sentence = f"Since {show.day(step.day)} what you make with {name} runs {points}: another lot of {name}?"
    named, _ = answers()
    return Told(sentence, _lots_then(step.day, step.group, tables), step.day, step.group, named is not None)


def _lots_then(day: date, group: str, tables: Tables) -> tuple[tuple[str, Lot], ...]:
    """The lots of a group that came into use about a day, each with what it is of."""
    keys = [key for key, item in tables.ingredients.items() if group in (OVERALL, group_of(item))]
    drawn = Draw.objects.filter(lot__item_key__in=keys, line__batch__pours__isnull=False)
    since = drawn.filter(line__batch__pours__poured_on__gte=day, line__batch__pours__poured_on__lt=day + ABOUT)
    before = drawn.filter(line__batch__pours__poured_on__lt=day)
    fresh = set(since.values_list("lot", flat=True)) - set(before.values_list("lot", flat=True))
    lots = Lot.objects.filter(pk__in=fresh).order_by("pk")[:MOST_LOTS]
    return tuple((tables.ingredients[lot.item_key].name, lot) for lot in lots)


def answer(day: date | None, group: str, is_refused: bool, tables: Tables) -> None:
    """Write down what the maker says. Raises :class:`Problem` for a day or a group that cannot be."""
    if day is None or day > timezone.localdate():
        raise Problem("Give the day from which on it was another material: not one in the future.")
    if group != OVERALL and group not in {group_of(item) for item in tables.ingredients.values()}:
        raise Problem("Choose what it was a change of.")
    SupplyAnswer.objects.create(day=day, group=group, is_refused=is_refused)
    bump_records_revision()


def forget() -> None:
    """Let the tests speak for themselves again."""
    SupplyAnswer.objects.all().delete()
    bump_records_revision()
