"""Whether the numbers can be trusted, and what would make them surer: the pictures and sentences of it."""

from datetime import date
from decimal import Decimal

import numpy as np

from balmcore.composition import Composition
from balmcore.display import Display
from balmcore.making.scaling import on_grid
from balmcore.physics.firmness import WINDOW_C, prior_sigmas, structure_by_group
from balmcore.tables import Tables
from balmcore.tables.correction import Correction
from balmcore.trials.calibration import Calibration
from balmcore.trials.telling import Makes, most_telling
from balmcore.wording import in_sentence, listed
from formulas.models import Version
from workshop.pictures.graph import WIDE, Graph, graph

NINETEEN_IN_TWENTY = 1.96
LEAST_POINTS, MOST_POINTS = 12.0, 40.0  # drawn on either side: what lies beyond stands at the edge
SAMPLE_G = Decimal(40)  # a pour that is enough to press
MOST_MADE = 60  # formulas looked at: the last


def course(known: Calibration, show: Display) -> Graph | None:
    """How far each pour came out beside what the others say of it, through time, with the band that was said."""
    gaps, sigmas, days = known.by_pour
    dated = np.flatnonzero(days > 0)
    if len(dated) < 2:
        return None
    order = dated[np.argsort(days[dated], kind="stable")]
    first, last = float(days[order[0]]), float(days[order[-1]])
    most = min(
        MOST_POINTS,
        max(LEAST_POINTS, float(np.max(np.abs(gaps[order]))) + 3, NINETEEN_IN_TWENTY * float(np.max(sigmas))),
    )
    bands = [[(float(days[n]), side * NINETEEN_IN_TWENTY * float(sigmas[n])) for n in order] for side in (1, -1)]
    step = known.step
    marks = [] if step is None else [[(float(step.day.toordinal()), -most), (float(step.day.toordinal()), most)]]
    fits = known.known.weights
    dots = [
        (
            float(days[n]),
            float(np.clip(gaps[n], -most, most)),
            "tests" if fits[n] >= 0.5 else "unfit",
            f"{show.day(date.fromordinal(int(days[n])))}: {gaps[n]:+.0f}, ± {sigmas[n]:.0f} was said",
        )
        for n in order
    ]
    marks_at = np.linspace(first, last - (last - first) / 30, 4).tolist()  # the last one's word stays within the frame
    ticks = [(at, show.short_day(date.fromordinal(round(at)))) for at in marks_at]
    heights = [(float(at), f"{at:+d}" if at else "as said") for at in range(-40, 41, 10) if abs(at) <= most]
    return graph(
        [[(first, 0.0), (last, 0.0)], *bands, *marks],
        (first, last),
        (-most, most),
        ticks,
        heights,
        "Points by which each pour came out firmer or softer than the others said, day by day.",
        size=WIDE,
        dots=dots,
    )


def most_to_teach(correction: Correction, tables: Tables, show: Display) -> str:
    """The one pour that would narrow what is said of what this maker makes by the most, with its grams; empty where
    none would."""
    made: list[tuple[str, Composition]] = []
    for version in Version.objects.current().with_lines().select_related("formula").order_by("-pk")[:MOST_MADE]:
        composition = version.to_composition(tables).without_volatiles
        if composition.total:
            made.append((version.formula.name, composition))
    makes = [Makes(structure_by_group(each, WINDOW_C), prior_sigmas(each)) for _, each in made]
    found = most_telling(correction, makes)
    if found is None:
        return ""
    name, composition = made[found.test]
    grams, _ = on_grid(composition, SAMPLE_G, Decimal(str(show.resolution_g)))
    lines = [f"{show.mass_text(grams[line.key])} {in_sentence(line.ingredient.name)}" for line in composition.lines]
    of = "it" if found.narrows == found.test else f"“{made[found.narrows][0]}”"
    return (
        f"Pour {show.mass_text(SAMPLE_G)} of “{name}” and press it after a day: what is said of {of} would narrow from "
        f"± {found.before:.0f} to ± {found.after:.0f}. That is {listed(lines)}."
    )
