"""What a batch is planned with: containers, scale, pitcher, room and way of cooling, however it came."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import partial

from balmcore.advice.safety import Wearer, over_limit
from balmcore.composition import Composition
from balmcore.display import CELSIUS, Display
from balmcore.making.portions import Addition, Finish, FinishPlan, Portion, scale_finishes
from balmcore.making.scaling import Filling, Scaled, scale
from balmcore.making.steps import USUAL_PACE, Handling, Pace, Setup, Vessels
from balmcore.making.whippers import HAND
from balmcore.physics.cooling import DEFAULT
from balmcore.physics.grain import HELD
from balmcore.physics.ways_of_heating import BATH
from balmcore.tables import Container, Kind, Tables, shipped
from batches.models import DEFAULT_PITCHER, Batch
from pantry.queries import containers


@dataclass(frozen=True)
class BatchPlan:
    """What the maker chose: fillings with their containers, scale, loss, pouring, whipping,
    pitcher, room, how far it is melted, the ways of heating, whipping and cooling; and, where one melt becomes several
    things, its finishes, whose fillings are then all of them in order; ``around`` is what goes around each piece, by
    the key of its container."""

    fillings: Sequence[Filling]
    containers_by_key: Mapping[str, Container]
    pour_c: float
    resolution_g: Decimal
    loss_g: Decimal
    overrun: float
    pitcher: Container
    room_c: float = 20.0
    cooling: str = DEFAULT
    melting: str = HELD
    finishes: Sequence[FinishPlan] = ()
    heating: str = BATH
    whipper: str = HAND
    around: Mapping[str, Sequence[str]] = field(default_factory=dict)

    @classmethod
    def of(cls, batch: Batch) -> "BatchPlan":
        """The plan of a stored batch; its containers should be prefetched."""
        return cls(
            batch.fillings,
            batch.containers_by_key,
            batch.pour_c,
            batch.resolution_g,
            batch.loss_g,
            batch.overrun,
            _pitcher(batch.pitcher_key),
            batch.room_c,
            batch.cooling,
            melting=batch.melting,
            heating=batch.heating,
            whipper=batch.whipper,
        )

    def scaled(self, composition: Composition, wearer: Wearer | None = None) -> Scaled:
        """The plan in grams for a composition; rounding brings nothing over a limit of who wears it. Raises
        ``Problem``."""
        over = partial(over_limit, wearer=wearer or Wearer())
        how = (self.pour_c, self.resolution_g, self.loss_g, self.overrun, over)
        if self.finishes:
            return scale_finishes(composition, self.finishes, *how)
        return scale(composition, self.fillings, *how)

    def setup(
        self,
        composition: Composition,
        kind: Kind,
        total_g: Decimal,
        show: Display = CELSIUS,
        portions: Sequence[Portion] = (),
        pace: Pace = USUAL_PACE,
        is_made_ready: bool = False,
    ) -> Setup:
        """What a method is worked out for, when so many grams of a composition are in the pot, and
        ``portions`` are taken of it; ``pace`` is that of this bench, which may be made ready already."""
        vessels = Vessels(tuple(self.fillings), dict(self.containers_by_key), self.pitcher)
        handling = Handling(
            self.pour_c, self.overrun, self.room_c, self.cooling, self.melting, self.heating, self.whipper
        )
        return Setup(composition, kind, float(total_g), vessels, handling, tuple(portions), pace, show, is_made_ready)


def portions_of(batch: Batch, tables: Tables) -> tuple[Portion, ...]:
    """The finishes of a stored batch as portions, weighed where they were weighed."""
    found = []
    for row in batch.finishes.all():
        lines = [line for line in batch.lines.all() if line.finish_id == row.pk]
        grams = {line.ingredient_key: line.mass_g for line in lines}
        total = sum(grams.values(), row.mass_g)
        add = tuple(
            Addition(tables.ingredient(line.ingredient_key), line.mass_g / total, line.drops, line.mass_g)
            for line in lines
        )
        count = sum(held.count for held in batch.containers_of(row))
        finish = Finish(row.name, total, add, count)
        found.append(Portion(finish, batch.to_composition(tables, row), row.mass_g, grams))
    return tuple(found)


def setup_of(batch: Batch, tables: Tables, show: Display = CELSIUS, pace: Pace = USUAL_PACE) -> Setup:
    """What a stored batch's method is worked out for, by what is really in its pot and how fast the bench is."""
    composition = batch.weighed_in(tables)
    return BatchPlan.of(batch).setup(
        composition,
        batch.to_kind(tables),
        composition.total,
        show,
        portions_of(batch, tables),
        pace,
        batch.is_made_ready,
    )


def _pitcher(key: str) -> Container:
    """The pitcher of a batch; the half-litre jug for one that was taken away since."""
    known = shipped().containers
    return known.get(key) or containers().get(key) or known[DEFAULT_PITCHER]
