"""Rows of containers as typed: which, how many, and how far each is filled."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from balmcore import units
from balmcore.composition import percent_text
from balmcore.errors import Problem
from balmcore.making.scaling import MOST_PIECES, Filling
from balmcore.tables import Container
from workshop.models import Preferences

BRIMFUL = ("brimful", "brim", "full", "to the brim")


@dataclass(frozen=True)
class ContainerRow:
    """One container as typed, the number of the finish that it is for, and what is wrong with it."""

    key: str
    count: str
    fill: str
    finish: str = "0"
    problem: str = ""

    @property
    def finish_number(self) -> int:
        """The finish it is for; the first where that is not a number."""
        return int(self.finish) if self.finish.isascii() and self.finish.isdigit() and len(self.finish) < 4 else 0


def fill_text(container: Container) -> str:
    """How far a container is usually filled, as text."""
    return f"{percent_text(Decimal(str(container.fill)), 0)} %"


def filled(
    rows: Sequence[ContainerRow], containers: Mapping[str, Container], prefs: Preferences
) -> tuple[tuple[ContainerRow, ...], list[tuple[int, Filling]]]:
    """The rows with their problems, and the fillings of those that have none, each with the number of
    the finish it is for."""
    read, fillings = [], []
    for row in rows:
        try:
            fillings.append((row.finish_number, _filling(row, containers, prefs)))
        except Problem as problem:
            read.append(replace(row, problem=problem.sentence))
        else:
            read.append(replace(row, problem=""))
    return tuple(read), fillings


def _filling(row: ContainerRow, containers: Mapping[str, Container], prefs: Preferences) -> Filling:
    container = containers.get(row.key)
    if container is None:
        raise Problem("That container is no longer in the pantry: choose another.")
    fill, net_g = _fill(row.fill, container, prefs)
    return Filling(container.key, container.capacity_ml, fill, units.count(row.count, MOST_PIECES), net_g)


def _fill(text: str, container: Container, prefs: Preferences) -> tuple[float, float | None]:
    """Share filled and net weight of a fill typed: ``90 %``, ``brimful``, ``50 mL``, ``2 fl oz``,
    ``50 g``, ``1.75 oz``. A net weight leaves the usual fill standing."""
    plain = text.strip().lower()
    if plain in BRIMFUL:
        return 1.0, None
    unit = re.sub(r"[\d.,/½¼¾\s]+", " ", plain).strip().rstrip(".")
    kind, _ = units.size(unit, prefs.kitchen) if unit not in ("", "%") else ("", 0.0)
    if kind == "mass":
        net_g = float(units.mass_g(text, prefs.mass_unit, prefs.kitchen))
        if net_g <= 0:
            raise Problem("A net weight is more than nothing.")
        return container.fill, net_g
    if kind == "volume":
        fill = units.volume_ml(text, "ml", prefs.kitchen) / container.capacity_ml
        if fill > 1 + 1e-9:
            raise Problem(f"“{text.strip()}” does not go into {container.capacity_ml:.0f} mL.")
    else:
        fill = float(units.share(text))
    if fill <= 0:
        raise Problem("Filled to nothing holds nothing: write 90 for 90 %.")
    return min(fill, 1.0), None
