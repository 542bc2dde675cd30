"""What pages of formulas show of the apps above: those register, see :mod:`workshop.points`."""

from balmcore.composition import Composition
from balmcore.tables import Tables
from formulas.models import Version
from workshop.pictures.tin import Tin
from workshop.points import Point

# The judged pours of a version's formula: what was really in each pot, and its tin.
judged_pours: Point[[Version, Tables], list[tuple[Composition, Tin]]] = Point()
