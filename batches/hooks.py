"""What pages of batches show of the apps above: those register, see :mod:`workshop.hooks`."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date

from balmcore.tables import Tables
from balmcore.wording import in_sentence
from batches.models import Batch
from formulas.models import Version
from workshop.hooks import Hook

# Where to go on from a batch that is weighed or poured: the address of its pour.
pour_address: Hook[[Batch], str] = Hook()
# A weight or a lot of a batch was corrected after it was poured: what hangs on it follows.
batch_corrected: Hook[[Batch, Tables], None] = Hook()
# Those of some batches that hold something of a lot not fit to use, by number: what to say of each.
unfit_batches: Hook[[Collection[Batch], Tables], dict[int, str]] = Hook()


@dataclass(frozen=True)
class BenchLinks:
    """Where a batch is made step by step, where all its weights are on one page, where a weight or a lot is corrected
    afterwards, and where it is called off."""

    steps: str
    weigh: str
    correct: str
    call_off: str


# Where a batch is made.
bench_links: Hook[[Batch], BenchLinks] = Hook()


@dataclass(frozen=True)
class CalendarDay:
    """A day in the calendar of the workshop: a name that stays its own, what is to be done, and where."""

    uid: str
    summary: str
    day: date
    address: str


# Days on which something is to be done with what was poured.
calendar_days: Hook[[], list[CalendarDay]] = Hook()
# The address at which the cups of a ladder of a version are written down.
ladder_tests: Hook[[Version], str] = Hook()


def unfit_among(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """Everybody's answer on what is not fit to use, as one."""
    found: dict[int, str] = {}
    for answer in unfit_batches.ask(batches, tables):
        for pk, text in answer.items():
            found[pk] = f"{found[pk]}; {in_sentence(text)}" if pk in found else text
    return found
