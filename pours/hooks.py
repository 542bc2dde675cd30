"""What pages of pours show of the apps above: those register, see :mod:`workshop.hooks`."""

from typing import Any, NamedTuple

from balmcore.display import Display
from balmcore.tables import Tables
from formulas.models import Version
from pours.models import Pour
from workshop.hooks import Hook


class Part(NamedTuple):
    """A part of a page that a higher app draws: the name of its template, and what it draws, as ``shown``."""

    template: str
    shown: Any


# Where to go on from a pour: what to call it, and its address.
ways_of_pour: Hook[[Pour], tuple[str, str]] = Hook()
# Where to go on from the log: what to call it, and its address.
pages_of_log: Hook[[], tuple[str, str]] = Hook()
# Where a pour is looked at again.
look_address: Hook[[Pour], str] = Hook()
# The templates of what stands on a pour's page above its form.
parts_of_pour: Hook[[], str] = Hook()
# The next thing to try with a version, None where there is nothing.
suggestions: Hook[[Version, Tables, Display], Part | None] = Hook()
# What of a version may hurt somebody, by what its pours said: it stands on their page at once.
urgent: Hook[[Version], Part | None] = Hook()
# How many pieces of a pour went somewhere: fewer than that cannot have been filled.
pieces_gone: Hook[[Pour], int] = Hook()


def suggestion_for(version: Version, tables: Tables, show: Display) -> Part | None:
    """The first thing to try."""
    return next((part for part in suggestions.ask(version, tables, show) if part), None)
