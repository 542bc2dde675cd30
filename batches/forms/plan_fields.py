"""The fields of a plan outside its rows, and reading them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from balmcore import units
from balmcore.display import mass_words, percent_words, temp_words
from balmcore.making.scaling import Filling
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.grain import HELD, MELTING_METHODS
from balmcore.tables import Container, Kind, shipped
from batches.batch_plan import BatchPlan
from batches.models import DEFAULT_PITCHER
from workshop.models import Preferences
from workshop.web import Reading


@dataclass(frozen=True)
class PlanInputs:
    """The fields outside the rows, as typed."""

    resolution: str
    loss: str
    pour: str
    whip: str
    pitcher: str
    room: str
    cooling: str
    when: str
    moment: str
    override_reason: str = ""
    melting: str = HELD


def read_plan(
    typed: PlanInputs,
    fillings: list[Filling],
    kind: Kind,
    containers: Mapping[str, Container],
    prefs: Preferences,
    read: Reading,
) -> BatchPlan:
    """The fields as a plan; what cannot be read is noted in ``read`` and stands at nothing."""

    def mass(text: str) -> Callable[[], Decimal]:
        return lambda: units.mass_g(text, prefs.mass_unit, prefs.kitchen)

    def temp(text: str) -> Callable[[], Decimal]:
        return lambda: Decimal(str(units.temp_c(text, prefs.temp_unit)))

    resolution = read.amount("resolution", mass(typed.resolution), 0.0005, 50, mass_words)
    loss = read.amount("loss", mass(typed.loss), 0, 5000, mass_words)
    pour = read.amount("pour", temp(typed.pour), -20, 120, temp_words)
    room = read.amount("room", temp(typed.room), 5, 40, temp_words)
    overrun = Decimal(0)
    if typed.whip or kind.overrun:
        overrun = read.amount("whip", lambda: units.number(typed.whip.removesuffix("%")), 0, 400, percent_words) / 100
    if typed.cooling not in COOLING_METHODS:
        read.problems["cooling"] = "Choose how it cools."
    melting = typed.melting or HELD
    if melting not in MELTING_METHODS:
        read.problems["melting"] = "Choose how far it is melted."
    return BatchPlan(
        fillings,
        {filling.key: containers[filling.key] for filling in fillings},
        float(pour),
        resolution,
        loss,
        float(overrun),
        shipped().containers[DEFAULT_PITCHER],
        float(room),
        typed.cooling,
        melting=melting,
    )
