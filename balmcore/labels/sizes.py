"""Labels that suit a container, by its measures: on the lid, round the wall, a band round a bar, on the back."""

from math import floor, pi

from balmcore.display import OUNCE_G, figure
from balmcore.labels.layout import Shape, Size
from balmcore.tables import Container

# That a lid's rim takes, that a band overlaps, that a flat side leaves free: our allowances.
LID_RIM_MM, OVERLAP_MM, EDGE_MM = 4.0, 3.0, 4.0
BACK = Size(Shape.RECTANGLE, 60.0, 40.0)  # a back label of our own
BAND = Size(Shape.RECTANGLE, 150.0, 30.0)  # a band of our own for what has no known size
LOWEST_MM = 10.0  # below it no legible type fits twice


def suiting(container: Container) -> dict[str, Size]:
    """The labels that suit it, by what they are called, the usual one first; a back label always."""
    found: dict[str, Size] = {}
    wide, high = container.diameter_mm, container.height_mm
    if container.kind in ("tin", "jar", "pot") and wide > LOWEST_MM + LID_RIM_MM:
        lid = float(floor(wide - LID_RIM_MM))
        found["Lid, round"] = Size(Shape.ROUND, lid, lid)
    if container.kind == "mould":
        found["Band"] = BAND
    if wide and high > LOWEST_MM + EDGE_MM:
        found["Wrap"] = Size(Shape.RECTANGLE, float(floor(pi * wide + OVERLAP_MM)), float(floor(high - EDGE_MM)))
    found["Back label"] = BACK
    return found


def net_words(grams: float) -> str:
    """A net weight as a label says it, rounded down: never more than there is.

    >>> net_words(53.97), net_words(4.58)
    ('53 g / 1.86 oz', '4.5 g / 0.15 oz')
    """
    told = floor(grams) if grams >= 10 else floor(grams * 10 + 1e-9) / 10
    ounces = floor(told / OUNCE_G * 100 + 1e-9) / 100
    return f"{figure(told)} g / {figure(ounces, 2)} oz"
