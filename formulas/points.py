"""What pages of formulas show of the apps above: those register, see :mod:`workshop.points`."""

from collections.abc import Collection
from dataclasses import dataclass

from balmcore.composition import Composition
from balmcore.tables import Tables
from formulas.models import Version
from workshop.models import Preferences
from workshop.pictures.tin import Tin
from workshop.points import Point


@dataclass(frozen=True)
class PourOfVersion:
    """A pour as the page of its version shows it: its tin, the verdict in a word, and figures."""

    tin: Tin
    verdict: str
    told: str
    address: str


# The pours of some versions, by the version's number, the oldest first.
pours_of_versions: Point[[Collection[int], Tables], dict[int, list[PourOfVersion]]] = Point()
# The judged pours of a version's formula: what was really in each pot, and its tin.
judged_pours: Point[[Version, Tables, Preferences], list[tuple[Composition, Tin]]] = Point()

# A sentence on grain in the maker's own pours of a composition's butter, empty where there is none to say.
own_grain: Point[[Composition, Tables, Preferences], str] = Point()

# Where to go on with a saved version, by a word for it: ``batch``, ``ladder``.
ways_on: Point[[Version], dict[str, str]] = Point()


def pours_among(versions: Collection[int], tables: Tables) -> dict[int, list[PourOfVersion]]:
    """Everybody's answer on the pours of some versions, as one."""
    return {pk: pours for answer in pours_of_versions.ask(versions, tables) for pk, pours in answer.items()}
