"""One ingredient's page: its solids, its figures, what to mind, where it is used, what is in stock."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from balmcore.composition import Composition, Line
from balmcore.display import figure, spoken
from balmcore.physics.firmness import predict
from balmcore.tables import Ingredient
from balmcore.tables.custom import is_own
from pantry.hooks import Use, uses_of_ingredient
from pantry.queries import Stock, stock_of
from workshop.models import Preferences
from workshop.pictures.graph import HALF, Graph, graph

COLDEST_C, HOTTEST_C = 0.0, 100.0
SURE = {"good": "well known", "fair": "fairly known", "low": "little known"}


@dataclass(frozen=True)
class Details:
    """Everything about one ingredient."""

    item: Ingredient
    is_own: bool
    solids: Graph | None
    figures: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]
    used: tuple[Use, ...]
    stock: Stock | None


def details(item: Ingredient, prefs: Preferences) -> Details:
    """The page of an ingredient."""
    return Details(
        item,
        is_own(item),
        _solids(item, prefs),
        tuple(_figures(item, prefs)),
        tuple(_cautions(item)),
        tuple(use for uses in uses_of_ingredient.ask(item.key) for use in uses),
        stock_of(item.key, item.name),
    )


def _solids(item: Ingredient, prefs: Preferences) -> Graph | None:
    """Solid fat content against temperature; None for what does not melt."""
    if not item.fractions and not item.made_of:
        return None
    show = prefs.show
    temps = np.linspace(COLDEST_C, HOTTEST_C, 201)
    solid = predict(Composition((Line(item, Decimal(1)),))).curve(temps).solid_share[0] * 100
    if solid.max() < 0.1:
        return None
    last = max(40.0, float(temps[solid > 0.1][-1]) + 10)
    keep = temps <= last
    ticks = [(t, f"{show.temp_number(t)}°") for t in range(0, int(last) + 1, 10)]
    told = ", ".join(f"{np.interp(t, temps, solid):.0f} % at {show.temp_text(t)}" for t in (20, 30, 35))
    return graph(
        [list(zip(temps[keep].tolist(), solid[keep].tolist(), strict=True))],
        (COLDEST_C, last),
        (0, 100),
        ticks,
        [(y, f"{y} %") for y in (0, 25, 50, 75, 100)],
        f"Solid fat content of {item.name}: {told}.",
        size=HALF,
    )


def _figures(item: Ingredient, prefs: Preferences) -> list[tuple[str, str]]:
    """Names and figures; what is not known is left out."""
    show, low, high = prefs.show, item.usual_min_share, item.usual_max_share
    parts = sorted(item.made_of, key=lambda part: -part[1])
    melts = (
        ""
        if item.melt_low_c is None
        else f"{show.temp_number(item.melt_low_c)}–{show.temp_text(item.melt_high_c or 0)}"
    )
    told = [
        ("INCI", item.inci),
        ("Family", item.group.replace("_", " ")),
        ("Density", f"{figure(round(item.density_g_ml, 3))} g/mL"),
        (f"In a cup ({item.bulk_form})", item.bulk_density_g_ml and f"{figure(item.bulk_density_g_ml)} g/mL"),
        ("Melts", melts),
        ("Never hotter than", item.damage_c and show.temp_text(item.damage_c)),
        ("Usual part", high is not None and f"{figure((low or 0) * 100)}–{figure(high * 100)} %"),
        ("Feel", item.feel_weight and f"{figure(item.feel_weight)} of 5, dry to rich"),
        ("Sinks in", item.sink_minutes and f"{figure(item.sink_minutes)} minutes"),
        ("Keeps", item.shelf_months and f"{figure(item.shelf_months)} months"),
        ("Smells of", item.aroma.replace("none", "")),
        ("Drops", item.drop_count and f"{figure(item.drop_count)} to the mL"),
        ("Flash point", item.flash_c and show.temp_text(item.flash_c)),
        ("Vegan", item.vegan or "not known"),
        ("Mixed from", ", ".join(f"{leaf.name} {figure(share * 100, 1)} %" for leaf, share in parts)),
        ("How sure", SURE[item.confidence]),
    ]
    return [(name, str(figure)) for name, figure in told if figure]


def _cautions(item: Ingredient) -> list[str]:
    """What there is to know before it goes into anything worn."""
    told = [
        item.doubt,
        *(f"Holds {word}." for word in item.allergens),
        item.water_bearing and "Bears water: mould grows in it, and Calm Tin does not design preservation.",
        *_worn(item),
        spoken().written(item.caution),
        spoken().written(item.note),
    ]
    return [each for each in told if each]


def _worn(item: Ingredient) -> Iterator[str]:
    """Limits on skin, on lips, by age and in pregnancy, of a scent or of any other ingredient."""
    oil, colour = item.aromatic, item.colourant
    lips, years = (oil.lip_suitable, oil.avoid_under_years) if oil else (item.lip_ok, item.avoid_under_years)
    if oil and oil.max_leave_on is not None:
        yield f"At most {figure(oil.max_leave_on * 100)} % of what stays on skin."
    if oil and oil.phototoxic_max is not None:
        yield f"Sun on skin: at most {figure(oil.phototoxic_max * 100)} %."
    if lips not in ("yes", ""):
        yield "Not for lips." if lips == "no" else "On lips with caution."
    if years:
        yield f"Not for children under {figure(years)}."
    if item.pregnancy:
        yield "Not in pregnancy." if item.pregnancy == "no" else "In pregnancy ask a midwife or doctor first."
    if colour and colour.lip_ok != "yes":
        yield "Not for lips." if colour.lip_ok == "no" else "Lip use varies by country and grade."
