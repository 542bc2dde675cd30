"""From containers to grams: what a batch needs and how it falls on the scale's grid."""

import math
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_FLOOR, Decimal
from typing import TYPE_CHECKING

from balmcore.composition import Composition, Line, largest_remainder
from balmcore.display import figure, mass_words
from balmcore.errors import Problem
from balmcore.physics.basis import DENSITY_C
from balmcore.physics.firmness import Prediction, predict
from balmcore.tables import Container, Ingredient, Kind

if TYPE_CHECKING:
    from balmcore.making.portions import Portion

COARSE = 0.05  # a rounding error above this part of a line is worth a word
ADVICE = "Use a finer scale, drops or a larger batch."
FILM_MM = 0.15  # a melt poured out leaves this on the wall
MOST_PIECES = 5000  # of one sort: beyond any kitchen
MOST_GRAMS = 50_000  # in one melt: beyond any kitchen's bath


# The keys of those lines of a composition that are over a limit, and not over it with less of them.
Over = Callable[[Composition], frozenset[str]]


def nothing_over(composition: Composition) -> frozenset[str]:
    """Where no limit is known."""
    return frozenset()


@dataclass(frozen=True)
class Filling:
    """So many pieces of one container: brimful capacity and the share of it that is filled, or
    the net weight wanted in each, which then decides."""

    key: str
    capacity_ml: float
    fill: float
    count: int
    net_g: float | None = None

    def grams(self, density_g_ml: float) -> float:
        """What one holds of a product of that density when it is filled."""
        return self.capacity_ml * self.fill * density_g_ml if self.net_g is None else self.net_g


@dataclass(frozen=True)
class Piece:
    """What one filled container holds, in grams of product."""

    key: str
    count: int
    net_g: float


@dataclass(frozen=True)
class Flag:
    """A line that the scale cannot weigh well; ``error`` is the rounding error over the line."""

    key: str
    error: float
    sentence: str


@dataclass(frozen=True)
class Scaled:
    """A batch in grams. ``lines`` add to ``total_g`` exactly; both lie on the scale's grid. Of the
    total ``driven_off_g`` boil away before the wax goes in: it is so much more than is poured.
    ``portions`` are its finishes, none where it is one thing."""

    pieces: tuple[Piece, ...]
    density_g_ml: float
    product_g: float
    total_g: Decimal
    lines: Mapping[str, Decimal]
    flags: tuple[Flag, ...]
    driven_off_g: Decimal = Decimal(0)
    portions: "tuple[Portion, ...]" = ()

    @property
    def melt_g(self) -> Decimal:
        """What is in the pot when it is poured."""
        return self.total_g - self.driven_off_g


def scale(
    composition: Composition,
    fillings: Sequence[Filling],
    pour_c: float,
    resolution_g: Decimal,
    loss_g: Decimal = Decimal(0),
    overrun: float = 0.0,
    over: Over = nothing_over,
) -> Scaled:
    """Grams of every line for these containers.

    A piece takes capacity x fill x density of the melt at ``pour_c``; a whipped product is
    filled cold at density / (1 + overrun). ``loss_g`` stays in the jug. Water and
    spirit are driven off first, so that what they weigh is weighed in on top.
    Rounding to ``resolution_g`` is by largest remainder, and never brings a line over a limit that ``over`` knows.
    Raises :class:`Problem` for no
    containers, a resolution that is not above 0, or more than the bench holds.
    """
    composition.require_mass()
    if not fillings:
        raise Problem("Choose at least one container.", "containers")
    if not resolution_g.is_finite() or resolution_g <= 0:
        raise Problem("The scale's smallest step should be above 0.", "resolution_g")
    if not loss_g.is_finite() or loss_g < 0:
        raise Problem("What stays in the jug cannot be less than nothing.", "loss_g")
    left = composition.without_volatiles.require_mass()
    filled = filled_density(left, pour_c, overrun)
    check_fillings(fillings, filled)
    pieces = pieces_of(fillings, filled)
    product = sum(piece.count * piece.net_g for piece in pieces)
    stays = left.total / composition.total
    wanted = (Decimal(str(product)) + loss_g) / stays
    if wanted > MOST_GRAMS:
        raise Problem(
            f"That is {figure(float(wanted) / 1000, 1)} kg in one melt: split it into batches of "
            f"{MOST_GRAMS // 1000} kg or less.",
            "containers",
        )
    total = (wanted / resolution_g).to_integral_value() * resolution_g
    lines, flags = on_grid(composition, total, resolution_g, over)
    weighed = Composition(tuple(line._replace(share=lines[line.key]) for line in composition.lines))
    gone = weighed.total - weighed.without_volatiles.total
    return Scaled(pieces, filled, product, total, lines, flags, gone)


def filled_density(composition: Composition, pour_c: float, overrun: float) -> float:
    """Density in g/mL of what is filled in: the melt as it is poured, or the whipped product."""
    prediction = predict(composition)
    return prediction.density_g_ml / (1 + overrun) if overrun else 1 / prediction.ml_per_g(pour_c, is_melt=True)


def pieces_of(fillings: Sequence[Filling], density_g_ml: float) -> tuple[Piece, ...]:
    """What each filled container holds of a product of that density."""
    return tuple(Piece(f.key, f.count, f.grams(density_g_ml)) for f in fillings)


def check_fillings(fillings: Iterable[Filling], density_g_ml: float) -> None:
    """Raises :class:`Problem` for a count, a size or a fill that cannot be."""
    for filling in fillings:
        _check(filling, density_g_ml)


def _check(filling: Filling, density_g_ml: float) -> None:
    where = f"containers.{filling.key}"
    if not 1 <= filling.count <= MOST_PIECES:
        raise Problem(f"{filling.count} pieces: choose between 1 and {MOST_PIECES} in one batch.", where)
    if not 0 < filling.capacity_ml <= 100_000:
        raise Problem(f"A container of {figure(filling.capacity_ml)} mL cannot be filled.", where)
    if not 0 < filling.fill <= 1:
        raise Problem(f"A fill of {figure(filling.fill * 100)} % is not possible: choose up to 100 %.", where)
    if filling.net_g is not None and not 0 < filling.net_g <= filling.capacity_ml * density_g_ml + 1e-9:
        most = filling.capacity_ml * density_g_ml
        raise Problem(
            f"{mass_words(filling.net_g)} does not go in: brimful of this it holds {mass_words(most)}. "
            "Millilitres and fluid ounces are room, not weight.",
            where,
        )


def film_g(density_g_ml: float, filled_ml: float, diameter_mm: float) -> float:
    """Grams that stay on the wall and floor of a round pitcher once it is emptied."""
    radius, height = diameter_mm / 2, filled_ml * 1000 / (math.pi * (diameter_mm / 2) ** 2)
    wetted_mm2 = math.pi * radius**2 + 2 * math.pi * radius * height
    return wetted_mm2 * FILM_MM / 1000 * density_g_ml


def sinkhole_ml(prediction: Prediction, filled_ml: float) -> float:
    """Millilitres by which what was filled up when its skin formed falls short once it is cold: 4 to 7 % of it, as
    crystals take less room than the melt."""
    if prediction.set_c is None:
        return 0.0
    as_set = prediction.ml_per_g(prediction.set_c, is_melt=True)
    return max(0.0, filled_ml * (1 - prediction.ml_per_g(DENSITY_C) / as_set))


def on_grid(
    composition: Composition, total_g: Decimal, resolution_g: Decimal, over: Over = nothing_over
) -> tuple[dict[str, Decimal], tuple[Flag, ...]]:
    """Grams per line on the scale's grid, adding to ``total_g``, and the lines it is too coarse for. What only the
    rounding would bring over a limit, as ``over`` says of a composition, is rounded down."""
    exact = [line.share / composition.total * total_g for line in composition.lines]
    grams = largest_remainder(exact, resolution_g, total_g)
    crossing = crossed(composition, composition.keys, grams, over)
    grams = rounded_down(composition.keys, exact, grams, resolution_g, crossing)
    flags = (flag_of(*each) for each in zip(composition.keys, exact, grams, strict=True))
    return dict(zip(composition.keys, grams, strict=True)), tuple(flag for flag in flags if flag)


def flag_of(key: str, want: Decimal, got: Decimal) -> Flag | None:
    """What is to be said of so many grams that the scale's step made into ``got``; None where it does well."""
    if want <= 0 or (error := float(abs(got - want) / want)) <= COARSE:
        return None
    if got:
        return Flag(key, error, f"The scale's step puts it {error * 100:.0f} % off. {ADVICE}")
    return Flag(key, error, f"{mass_words(want)} is too little for this scale. {ADVICE}")


def crossed(planned: Composition, keys: Sequence[str], grams: Sequence[Decimal], over: Over) -> frozenset[str]:
    """The lines that grams on the grid bring over a limit, where their exact shares are not."""
    weighed = Composition(tuple(line._replace(share=g) for line, g in zip(planned.lines, grams, strict=True)))
    return over(weighed) - over(planned) if weighed.total else frozenset()


def rounded_down(
    keys: Sequence[str], exact: Sequence[Decimal], grams: Sequence[Decimal], step: Decimal, crossing: Collection[str]
) -> list[Decimal]:
    """The grams of some lines rounded down where they were rounded up; what that leaves over goes, a step at a time, to
    the others that rounding had taken the most from, so that the sum stays."""
    found = list(grams)
    others = [n for n, key in enumerate(keys) if key not in crossing]
    if not others:
        return found
    over = Decimal(0)
    for n, key in enumerate(keys):
        if key in crossing and found[n] > exact[n]:
            down = (exact[n] / step).to_integral_value(ROUND_FLOOR) * step
            over, found[n] = over + found[n] - down, down
    while over > 0:
        found[max(others, key=lambda n: exact[n] - found[n])] += step
        over -= step
    return found


def in_pot(lines: Iterable[tuple[Ingredient, Decimal | None, Decimal]]) -> Composition:
    """What is in the pot, from ingredient, weighed and target grams of each line: weighed where it was
    weighed, the target where it was not; the targets throughout while all that was weighed is nothing."""
    rows = list(lines)
    weighed = Composition(tuple(Line(item, target if actual is None else actual) for item, actual, target in rows))
    return weighed if weighed.total else Composition(tuple(Line(item, target) for item, _, target in rows))


def with_added(base: Composition, base_g: Decimal, added: Iterable[tuple[Ingredient, Decimal]]) -> Composition:
    """What so many grams of a base are with grams of other things stirred in, in grams."""
    grams = {line.ingredient: line.share / base.total * base_g for line in base.lines}
    for item, mass in added:
        if mass:
            grams[item] = grams.get(item, Decimal(0)) + mass
    return Composition(tuple(Line(item, mass) for item, mass in grams.items()))


def added_up(*parts: Mapping[str, Decimal]) -> dict[str, Decimal]:
    """Grams or pieces by key, those of all parts together."""
    amounts: dict[str, Decimal] = {}
    for part in parts:
        for key, amount in part.items():
            amounts[key] = amounts.get(key, Decimal(0)) + amount
    return amounts


def pitchers(containers: Mapping[str, Container]) -> list[Container]:
    """Pitchers and bowls, the smallest first."""
    vessels = [c for c in containers.values() if c.kind == "vessel" and c.capacity_ml >= 100]
    return sorted(vessels, key=lambda c: c.capacity_ml)


def usual_pitcher(containers: Mapping[str, Container], melt_ml: float, overrun: float) -> Container:
    """The smallest that holds the melt; the largest for whipping, which wants a bowl, and room."""
    known = pitchers(containers)
    return known[-1] if overrun else next((c for c in known if c.capacity_ml * c.fill >= melt_ml), known[-1])


def by_suit(kind: Kind, containers: Mapping[str, Container]) -> list[Container]:
    """All containers, those that suit the kind first, then the maker's own, then others."""
    suits = kind.suits

    def place(container: Container) -> tuple[int, bool]:
        matches = [n for n, family in enumerate(suits) if family in container.suits]
        # Where a mould suits at all, it is a bar, and bars are moulded.
        return matches[0] if matches else len(suits) + (not container.is_own), container.kind != "mould"

    return sorted((c for c in containers.values() if c.kind != "vessel" and not c.is_around), key=place)
