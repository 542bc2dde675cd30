"""A salve from nothing, and a recipe to read. Neither is stored: the salve's formula lives in memory, as a rehearsal at
the bench does, and its state travels in the form."""

from decimal import Decimal

from balmcore.composition import Composition
from balmcore.tables import Tables
from formulas.models import Formula, Version
from formulas.studio.trail import Trail

NAME, KIND, NO_ROW = "Flood Tide", "pot_salve", 0
PARTS = {"beeswax_yellow": Decimal("0.09"), "sunflower_oil_ho": Decimal("0.91")}
RECIPE = """1 cup sunflower oil
¼ cup beeswax pellets
2 oz shea butter, melted
1 tsp vitamin E
20 drops lavender essential oil
a little lanolin"""


def salve(tables: Tables) -> Trail:
    """The example as a version that is not stored, with nothing before it."""
    composition = Composition.of(PARTS, tables)
    kind = tables.kind(KIND)
    formula = Formula(pk=NO_ROW, name=NAME, kind_key=KIND, area=kind.area)
    return Trail(Version(pk=NO_ROW, formula=formula, number=1), ((1, composition),))
