"""The melt in the pot is not what it should be: how much of what to add.

Where the maker felt how firm a drop of it is, the model is first shifted to agree with that, and the
shift stays with the pot when something is added, until another drop says otherwise.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np
import scipy

from balmcore.composition import Array, Composition, Line
from balmcore.errors import Problem
from balmcore.physics.basis import basis
from balmcore.physics.firmness import HIGHEST, WINDOW_C
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence

MOST_SHARE = 0.9  # of the new melt: beyond this it is another formula
LOWEST = 5  # firmness that can be asked for: a gel that stands, up to the top of our scale
STEPS = 360  # of the grid on which the first gram that suffices is looked for
NEAR = 0.05  # points


@dataclass(frozen=True)
class Rescue:
    """What to add and what the pot then is. ``firmness`` is as shifted, by the ``shift`` points that the drop was
    firmer than the model; ``reason`` says why it cannot be, empty when it can."""

    ingredient: Ingredient
    add_g: float
    composition: Composition
    total_g: float
    firmness: float
    reason: str = ""
    shift: float = 0.0

    @property
    def success(self) -> bool:
        """True when the firmness asked for is reached."""
        return not self.reason


def rescue(
    composition: Composition,
    mass_g: float,
    want: float,
    item: Ingredient,
    felt: float | None = None,
    overrun: float = 0.0,
    shift: float = 0.0,
) -> Rescue:
    """Grams of one ingredient that bring ``mass_g`` of a melt to a firmness at 21 degrees C.

    ``felt`` is how firm a drop of it really was, None where none was felt since ``shift``: the points that an earlier
    drop of this pot was firmer than the model. Raises :class:`Problem` for an empty pot.
    """
    composition.require_mass()
    if not mass_g > 0:
        raise Problem("There is nothing in the pot to rescue.", "mass_g")
    mixed = _Mixed(composition, item, felt, overrun, shift)
    shares = np.linspace(0.0, MOST_SHARE, STEPS + 1)
    off = mixed.firmness(shares) - want
    if abs(off[0]) <= NEAR:
        return mixed.with_share(0.0, mass_g)
    crossed = np.flatnonzero(np.sign(off[1:]) != np.sign(off[0]))
    if crossed.size:
        n = int(crossed[0])
        root = scipy.optimize.brentq(lambda share: mixed.one(share) - want, shares[n], shares[n + 1], xtol=1e-10)
        return mixed.with_share(float(root), mass_g)
    best = int(np.argmin(np.abs(off)))
    name = in_sentence(item.name)
    if best == 0:
        way = "softens" if off[0] < 0 else "stiffens"
        reason = f"Adding {name} only {way} it: choose something else."
    else:
        reason = f"However much {name} goes in, it comes no nearer than {mixed.one(shares[best]):.0f}."
    found = mixed.with_share(float(shares[best]), mass_g)
    return replace(found, reason=reason)


def choices(
    composition: Composition,
    mass_g: float,
    want: float,
    items: Iterable[Ingredient],
    felt: float | None = None,
    shift: float = 0.0,
) -> list[Rescue]:
    """What of some ingredients brings a pot to a firmness, the least change first; those that cannot come last, with
    their reasons. As :func:`rescue`."""
    found = [rescue(composition, mass_g, want, item, felt, shift=shift) for item in items]
    return sorted(found, key=lambda each: (not each.success, each.add_g if each.success else 0.0))


def strengthen(composition: Composition, mass_g: float, item: Ingredient, share: Decimal) -> float:
    """Grams of one ingredient that bring it to a share of the new whole, for a scent that is too faint.

    Raises :class:`Problem` for a share that cannot be, or that it has already.
    """
    before = composition.share_of(item.key) / composition.require_mass().total
    if not 0 <= share < 1:
        raise Problem("A percentage lies between 0 and 100.", "share")
    if share <= before:
        raise Problem(f"There is as much {in_sentence(item.name)} in it already.", "share")
    return mass_g * float((share - before) / (1 - share))


class _Mixed:
    """A melt with more and more of one ingredient, by its share of the new whole."""

    def __init__(
        self, composition: Composition, item: Ingredient, felt: float | None, overrun: float, shift: float
    ) -> None:
        self.before = composition
        self.item = item
        self.ingredients = (*composition.ingredients, *(() if item in composition.ingredients else (item,)))
        self.place = self.ingredients.index(item)
        shares = composition.shares / composition.shares.sum()
        self.start = np.append(shares, np.zeros(len(self.ingredients) - len(shares)))
        self.overrun = overrun
        self.shift = shift
        if felt is not None:
            self.shift = 0.0
            model = self.one(0.0)
            self.shift = felt - (model if np.isfinite(model) else 0.0)

    def firmness(self, shares: Sequence[float] | Array) -> Array:
        """Firmness at 21 degrees C, shifted, of many shares; a liquid counts as 0."""
        wanted = np.asarray(shares, dtype=float)
        mixed = self.start[None, :] * (1 - wanted[:, None])
        mixed[:, self.place] += wanted
        state = basis(self.ingredients).state(mixed, np.array([WINDOW_C]), self.overrun)
        found = state.unclipped[:, 0]
        result: Array = np.where(np.isfinite(found), found, 0.0) + self.shift
        return result

    def one(self, share: float) -> float:
        """The same for one share."""
        return float(self.firmness([share])[0])

    def with_share(self, share: float, mass_g: float) -> Rescue:
        """The pot with so much of it in the new whole."""
        add_g = mass_g * share / (1 - share)
        total = mass_g + add_g
        shares = {line.ingredient: line.share / self.before.total for line in self.before.lines}
        part = Decimal(str(share))
        shares = {each: one * (1 - part) for each, one in shares.items()}
        shares[self.item] = shares.get(self.item, Decimal(0)) + part
        made = Composition(tuple(Line(each, one) for each, one in shares.items()))
        return Rescue(self.item, add_g, made, total, max(0.0, self.one(share)), shift=self.shift)


def wanted_firmness(number: Decimal) -> Decimal:
    """A firmness as it may be asked for. Raises :class:`Problem`."""
    if not LOWEST <= number <= HIGHEST:
        raise Problem(f"Ask for a firmness between {LOWEST} and {HIGHEST:.0f}.")
    return number
