"""What pages of the pantry show of the apps above: those register, see :mod:`workshop.points`."""

from dataclasses import dataclass

from balmcore.tables import Tables
from pantry.models import Lot
from workshop.models import Preferences
from workshop.points import Point


@dataclass(frozen=True)
class Use:
    """Something that uses an ingredient, or a page about it: what to call it, and where it is."""

    name: str
    address: str


# The current versions that hold an ingredient, by its key.
uses_of_ingredient: Point[[str], list[Use]] = Point()
# Whether anything, old versions too, needs an ingredient to be readable.
needs_ingredient: Point[[str], bool] = Point()
# The tables as the maker's own tests say, where there are any and the maker goes by them.
tables_by_tests: Point[[Tables, Preferences], Tables] = Point()
# Pages that tell more of a lot, such as what was made from it.
pages_of_lot: Point[[Lot], Use] = Point()
