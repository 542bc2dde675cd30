"""Up to four versions side by side: the curve of each, line by line, and what each holds to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from balmcore.advice.caution import Level
from balmcore.advice.feel import feel
from balmcore.advice.safety import cautions
from balmcore.advice.shelf_life import life
from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import Composition, percent_text
from balmcore.making.cost import Price
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Kind, Tables
from formulas.hooks import NO_POURS, PourOfVersion, pours_among
from formulas.models import Version
from formulas.studio.offers import cost_text
from pantry.queries import prices
from workshop.models import Preferences
from workshop.pictures.curve import Curve, curve
from workshop.pictures.tin import Tin, tin

MOST = 4


@dataclass(frozen=True)
class Column:
    """One version among those compared."""

    version: Version
    kind: Kind
    tin: Tin
    verdict: Verdict
    feel: str
    keeps: str
    cost: str
    told: tuple[str, ...]
    allergens: str
    poured: tuple[PourOfVersion, ...]


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


def compare(versions: Sequence[Version], tables: Tables, prefs: Preferences) -> Comparison:
    """One to four versions compared; their lines and formula should be prefetched."""
    known = prices()
    poured = pours_among([version.pk for version in versions], tables)
    compared = [(version, version.to_composition(tables), version.formula.to_kind(tables)) for version in versions]
    columns = tuple(_column(*each, prefs, known, poured.get(each[0].pk, NO_POURS).shown) for each in compared)
    predictions = [(str(version), predict(composition, kind.overrun)) for version, composition, kind in compared]
    items = list(dict.fromkeys(item for _, composition, _ in compared for item in composition.ingredients))
    shares = [{line.ingredient: line.share for line in composition.lines} for _, composition, _ in compared]
    (name, first), *others = predictions
    return Comparison(
        columns,
        tuple(
            Line(
                item.name,
                tuple(percent_text(share[item], 2) if item in share else "" for share in shares),
                len({share.get(item) for share in shares}) > 1,
            )
            for item in items
        ),
        curve(first, compared[0][2], prefs.show, prefs.rooms, others, name),
    )


def _column(
    version: Version,
    composition: Composition,
    kind: Kind,
    prefs: Preferences,
    known: Mapping[str, Price],
    poured: Sequence[PourOfVersion],
) -> Column:
    prediction = predict(composition, kind.overrun)
    formula = version.formula
    found = cautions(composition, formula.to_wearer(prefs.scent_policy))
    used = [line.ingredient for line in composition.expanded.lines if line.share]
    allergens = dict.fromkeys(word for item in used for word in item.allergens)
    felt, lasts = feel(composition, kind), life(composition)
    return Column(
        version,
        kind,
        tin(composition.role_shares(), prediction.firmness_at(WINDOW_C), version.get_stage_display(), str(version)),
        judge(prediction, kind, prefs.show),
        felt.sentence if felt else "",
        f"Keeps {lasts.words}." if lasts else "",
        cost_text(composition, known, prefs),
        tuple(caution.line for caution in found if caution.level is not Level.NOTE),
        ", ".join(allergens),
        tuple(poured),
    )
