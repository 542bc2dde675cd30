"""What pages of formulas show of the apps above: those register, see :mod:`workshop.hooks`."""

from collections.abc import Collection
from dataclasses import dataclass

from balmcore.composition import Composition
from balmcore.tables import Tables
from formulas.models import Formula, Version
from workshop.hooks import Hook
from workshop.models import Preferences
from workshop.pictures.tin import Tin


@dataclass(frozen=True)
class PourOfVersion:
    """A pour as the page of its version shows it: its tin, the verdict in a word, and figures."""

    tin: Tin
    verdict: str
    told: str
    address: str


@dataclass(frozen=True)
class PoursOfVersion:
    """The newest pours of a version, the oldest of them first, and how many there are beside them."""

    shown: tuple[PourOfVersion, ...] = ()
    more: int = 0


NO_POURS = PoursOfVersion()

# The pours of some versions, by the version's number.
pours_of_versions: Hook[[Collection[int], Tables], dict[int, PoursOfVersion]] = Hook()
# The judged pours of a version's formula: what was really in each pot, and its tin.
judged_pours: Hook[[Version, Tables, Preferences], list[tuple[Composition, Tin]]] = Hook()

# What else there is of a formula: a name and an address each.
pages_of_formula: Hook[[Formula], tuple[str, str]] = Hook()
# Other ways in which formulas come in: a name and an address each.
ways_in: Hook[[], tuple[str, str]] = Hook()
# Where to go on with a saved version, by a word for it: ``batch``, ``ladder``.
ways_on: Hook[[Version], dict[str, str]] = Hook()


def pours_among(versions: Collection[int], tables: Tables) -> dict[int, PoursOfVersion]:
    """Everybody's answer on the pours of some versions, as one."""
    return {pk: pours for answer in pours_of_versions.ask(versions, tables) for pk, pours in answer.items()}
