"""The making of balms, computed: measures, solids, firmness, batches, tests and cautions.

Nothing here knows of the web or a database. Values carry their unit in their name
(``mass_g``, ``temp_c``, ``yield_pa``); a ``share`` runs from 0 to 1; ``firmness`` is the
0 to 100 scale explained in :mod:`balmcore.physics.firmness`.

A balm in a dozen lines:

>>> from decimal import Decimal
>>> balm = Composition.of({"beeswax_yellow": 0.2, "shea_butter_refined": 0.25, "olive_oil": 0.55})
>>> tables = shipped()
>>> prediction = predict(balm)
>>> print(f"{prediction.firmness_at(21):.0f}, a {prediction.word_at(21)}, clear at {prediction.clear_c:.0f} °C")
59, a firm pot, clear at 53 °C
>>> judge(prediction, tables.kind("hand_balm"), Display()).headline
'Right for a hand balm'
>>> waxier = set_shares(balm, {"beeswax_yellow": Decimal("0.24")}, follow=True)
>>> [str(line.share) for line in waxier.lines], str(waxier.total)
(['0.24', '0.2375', '0.5225'], '1.0000')
>>> tin = tables.containers["tin_screw_60"]
>>> batch = scale(balm, [Filling(tin.key, tin.capacity_ml, tin.fill, 4)], 62, Decimal("0.1"), Decimal(3))
>>> {key: str(grams) for key, grams in batch.lines.items()}, str(batch.total_g)
({'beeswax_yellow': '40.0', 'shea_butter_refined': '49.9', 'olive_oil': '109.9'}, '199.8')
>>> [caution.line for caution in cautions(balm, Wearer("adult", "hands_feet", Policy.CAUTIOUS))]
['Allergens: bee products, shea nut', 'Not vegan: beeswax, yellow']
"""

from balmcore.advice.safety import Policy, Wearer, cautions
from balmcore.advice.verdict import judge
from balmcore.composition import Composition, set_shares
from balmcore.design.substitution import substitute
from balmcore.design.target import Target, reformulate
from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.making.scaling import Filling, scale
from balmcore.physics.firmness import predict
from balmcore.recipes.reading import read
from balmcore.tables import shipped

__all__ = [
    "Composition",
    "Display",
    "Filling",
    "Policy",
    "Problem",
    "Target",
    "Wearer",
    "cautions",
    "judge",
    "predict",
    "read",
    "reformulate",
    "scale",
    "set_shares",
    "shipped",
    "substitute",
]
