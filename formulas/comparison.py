"""Up to four versions side by side: the curve of each, line by line, and what each holds to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from balmcore.advice.feel import feel
from balmcore.advice.shelf_life import shortest
from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import percent_text
from balmcore.making.cost import Price
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import library
from formulas.models import Version
from formulas.tools import cost_text
from pantry.queries import prices
from workshop.models import Preferences
from workshop.pictures.curve import Curve, curve
from workshop.pictures.tin import Tin, tin

MOST = 4


@dataclass(frozen=True)
class Column:
    """One version among those compared."""

    version: Version
    tin: Tin
    verdict: Verdict
    feel: str
    keeps: str
    cost: str


@dataclass(frozen=True)
class Line:
    """An ingredient and its percent in every column; ``differs`` when they are not all alike."""

    name: str
    percents: tuple[str, ...]
    differs: bool


@dataclass(frozen=True)
class Comparison:
    """What the comparison page shows; the first column sets the kind of the curve's gate."""

    columns: tuple[Column, ...]
    lines: tuple[Line, ...]
    curve: Curve


def compare(versions: Sequence[Version], prefs: Preferences) -> Comparison:
    """One to four versions compared; their lines and formula should be prefetched."""
    known = prices()
    columns = tuple(_column(version, prefs, known) for version in versions)
    predictions = [(str(version), predict(version.core, version.formula.kind.overrun)) for version in versions]
    keys = list(dict.fromkeys(key for version in versions for key in version.core.keys))
    shares = [{line.key: line.share for line in version.core.lines} for version in versions]
    (name, first), *others = predictions
    return Comparison(
        columns,
        tuple(
            Line(
                library().ingredient(key).name,
                tuple(percent_text(share[key], 2) if key in share else "" for share in shares),
                len({share.get(key) for share in shares}) > 1,
            )
            for key in keys
        ),
        curve(first, versions[0].formula.kind, prefs.show, prefs.rooms, others, name),
    )


def _column(version: Version, prefs: Preferences, known: Mapping[str, Price]) -> Column:
    core, kind = version.core, version.formula.kind
    prediction = predict(core, kind.overrun)
    felt, first = feel(core, kind), shortest(core)
    return Column(
        version,
        tin(core.role_shares(), prediction.firmness_at(WINDOW_C), version.get_stage_display(), str(version)),
        judge(prediction, kind, prefs.show),
        felt.sentence if felt else "",
        f"Keeps {first.shelf_months:g} months: {first.name.lower()} turns first." if first else "",
        cost_text(core, known, prefs),
    )
