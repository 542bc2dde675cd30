"""What pages of batches show of the apps above: those register, see :mod:`workshop.hooks`."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from balmcore.composition import Composition
from balmcore.making.steps import USUAL_PACE, Pace
from balmcore.tables import Tables
from batches.models import Batch
from formulas.models import Version
from workshop.hooks import Hook
from workshop.models import Preferences

# Where to go on from a batch that is weighed or poured: the address of its pour.
pour_address: Hook[[Batch], str] = Hook()
# Those of some batches that hold something of a lot not fit to use, by number: what to say of each.
unfit_batches: Hook[[Collection[Batch], Tables], dict[int, str]] = Hook()


@dataclass(frozen=True)
class BenchLinks:
    """Where a batch is made step by step, where its weights are written down on one page, where it is said afterwards
    from which lot a line came, and where it is called off."""

    steps: str
    weigh: str
    attach_lot: str
    call_off: str


# Where a batch is made.
bench_links: Hook[[Batch], BenchLinks] = Hook()


@dataclass(frozen=True)
class OwnCooling:
    """What a maker's own pours say of ways of cooling: a sentence by the key of each, and which of them they
    speak for against our default, empty where they do not."""

    told: Mapping[str, str]
    best: str = ""


@dataclass(frozen=True)
class CalendarDay:
    """A day in the calendar of the workshop: a name that stays its own, what is to be done, and where."""

    uid: str
    summary: str
    day: date
    address: str


# What the maker's own pours say of ways of cooling for a composition.
own_cooling: Hook[[Composition, Tables, Preferences], OwnCooling] = Hook()
# What usually stays in a pitcher of a kind, by their keys: grams, and a sentence on it; None where it is not known.
usual_loss: Hook[[str, str, Preferences], tuple[float, str] | None] = Hook()
# How fast this bench is, by what was made at it.
own_pace: Hook[[Preferences], Pace] = Hook()
# Days on which something is to be done with what was poured.
calendar_days: Hook[[], list[CalendarDay]] = Hook()
# The address at which the cups of a ladder of a version are written down.
ladder_tests: Hook[[Version], str] = Hook()


def cooling_of_own(composition: Composition, tables: Tables, prefs: Preferences) -> OwnCooling:
    """The first answer on ways of cooling."""
    return next(iter(own_cooling.ask(composition, tables, prefs)), OwnCooling({}))


def pace_of_own(prefs: Preferences) -> Pace:
    """The first answer on how fast this bench is."""
    return next(iter(own_pace.ask(prefs)), USUAL_PACE)


def loss_of_own(vessel: str, kind: str, prefs: Preferences) -> tuple[float, str] | None:
    """The first answer on what stays in a pitcher."""
    return next((found for found in usual_loss.ask(vessel, kind, prefs) if found), None)


def unfit_among(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """Everybody's answer on what is not fit to use, as one."""
    return {pk: said for answer in unfit_batches.ask(batches, tables) for pk, said in answer.items()}
