"""Pours side by side: in what they differ, and what those show that differ in one thing alone."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import combinations
from statistics import fmean

from balmcore.composition import Composition
from balmcore.display import figure
from balmcore.tables import Ingredient
from balmcore.tables.correction import MODEL_SIGMA
from balmcore.trials.press import PRESS_SIGMA
from balmcore.trials.rates import Rate
from balmcore.wording import in_sentence, listed

FEWEST, MOST = 2, 6  # pours side by side: what a page holds
LEAST_SHARE, LEAST_PART = 0.0015, 0.04  # a line that differs by less was only weighed otherwise
SAID_SIGMAS = 2.0  # of a difference of firmness, from which it is said
NO_DIFFERENCE = "no difference of firmness that the tests could show"


@dataclass(frozen=True)
class Handled:
    """One thing about how a pour was handled: its name, in words, and what it is compared by. Numbers within
    ``within`` of each other are alike; None is not known. What does not ``counts`` is only told."""

    name: str
    told: str
    value: str | float | None
    within: float = 0.0
    counts: bool = True

    def is_surely_like(self, other: "Handled") -> bool:
        """True when the two are known to be alike, or do not count: what was not written down is not alike."""
        if not (self.counts and other.counts):
            return True
        return self.value is not None and other.value is not None and self.is_like(other)

    def is_like(self, other: "Handled") -> bool:
        """True when the two are alike, or when one is not known: then nobody can say that they differ."""
        if self.value is None or other.value is None:
            return True
        if isinstance(self.value, str) or isinstance(other.value, str):
            return self.value == other.value
        return abs(self.value - other.value) <= self.within


@dataclass(frozen=True)
class Made:
    """One pour: its name, what is in it, how it was handled (the same names in the same order for all), its
    firmness at 21 degrees C with one sigma, and what was seen: True, False, or left out where nobody looked."""

    name: str
    composition: Composition
    handling: tuple[Handled, ...]
    firmness: float | None = None
    seen: Mapping[str, bool] = field(default_factory=dict)
    sigma: float = PRESS_SIGMA

    @cached_property
    def shares(self) -> dict[str, float]:
        """The share of each line, whatever the composition adds to; every pair asks for it."""
        total = float(self.composition.total) or 1.0
        return {line.key: float(line.share) / total for line in self.composition.lines}

    @property
    def place(self) -> str:
        """Where it stands among others, whatever order they come in."""
        return repr((sorted(self.shares.items()), [each.value for each in self.handling], self.firmness))


@dataclass(frozen=True)
class ShareRow:
    """One ingredient with its share in each pour, 0 where it is not in."""

    ingredient: Ingredient
    shares: tuple[float, ...]
    differs: bool


@dataclass(frozen=True)
class HandlingRow:
    """One thing about handling, in words for each pour."""

    name: str
    told: tuple[str, ...]
    differs: bool


def _unlike(shares: Iterable[float]) -> bool:
    known = list(shares)
    return max(known) - min(known) > max(LEAST_SHARE, LEAST_PART * max(known))


def share_rows(made: Sequence[Made]) -> tuple[ShareRow, ...]:
    """All ingredients of some pours, those that differ first."""
    items = dict.fromkeys(item for one in made for item in one.composition.ingredients)
    rows = [
        ShareRow(item, shares, _unlike(shares))
        for item in items
        if any(shares := tuple(one.shares.get(item.key, 0.0) for one in made))
    ]
    return tuple(sorted(rows, key=lambda row: not row.differs))


def _apart(handled: Iterable[Handled]) -> bool:
    return any(not one.is_like(other) for one, other in combinations(handled, 2))


def handling_rows(made: Sequence[Made]) -> tuple[HandlingRow, ...]:
    """How some pours were handled, what differs first."""
    rows = [
        HandlingRow(each[0].name, tuple(one.told for one in each), _apart(each))
        for each in zip(*(one.handling for one in made), strict=True)
    ]
    return tuple(sorted(rows, key=lambda row: not row.differs))


def _handling_apart(one: Made, other: Made) -> list[int]:
    return [n for n, (a, b) in enumerate(zip(one.handling, other.handling, strict=True)) if not a.is_surely_like(b)]


def _is_one_mix(one: Made, other: Made) -> bool:
    """True where no line of two pours differs: asked of every pair, and so without rows."""
    if one.shares == other.shares:
        return True
    keys = one.shares.keys() | other.shares.keys()
    return not any(_unlike((one.shares.get(key, 0.0), other.shares.get(key, 0.0))) for key in keys)


def _lines_apart(one: Made, other: Made) -> list[ShareRow]:
    return [row for row in share_rows((one, other)) if row.differs]


@dataclass(frozen=True)
class Difference:
    """The one thing in which two compositions differ: a line with its shares, or what was taken ``instead`` of it."""

    row: ShareRow
    instead: ShareRow | None = None

    @property
    def told(self) -> str:
        """``beeswax differs, 15.0 % and 18.0 %``, or ``castor oil for jojoba oil differs, 20.0 % and 20.0 %``."""
        if self.instead is None:
            shares = self.row.shares
            name = in_sentence(self.row.ingredient.name)
        else:
            shares = max(self.instead.shares), max(self.row.shares)
            name = f"{in_sentence(self.row.ingredient.name)} for {in_sentence(self.instead.ingredient.name)}"
        return f"{name} differs, {' and '.join(f'{figure(share * 100, 1)} %' for share in shares)}"


def one_line(one: Made, other: Made) -> Difference | None:
    """The one thing in which two compositions differ: a line, the rest keeping its proportions or one other line
    taking up what it leaves, or one ingredient taken for another; None when they are alike or differ in more. Of a line
    and what makes room for it the one that structures is named."""
    apart = _lines_apart(one, other)
    if len(apart) == 2 and (apart[0].shares[0] - apart[0].shares[1]) * (apart[1].shares[0] - apart[1].shares[1]) < 0:
        taken = next((row for row in apart if not row.shares[0] and row.shares[1]), None)
        left = next((row for row in apart if row.shares[0] and not row.shares[1]), None)
        if taken and left:
            return Difference(taken, left)
        return Difference(
            max(apart, key=lambda row: row.ingredient.strength * bool(row.ingredient.role in ("wax", "butter")))
        )
    for row in apart:
        key = row.ingredient.key
        first, second = (
            {name: share / (1 - each.shares.get(key, 0.0)) for name, share in each.shares.items() if name != key}
            for each in (one, other)
        )
        keys = set(first) | set(second)
        if not any(_unlike((first.get(name, 0.0), second.get(name, 0.0))) for name in keys):
            return Difference(row)
    return None


FIRMNESS = "firmness"


@dataclass(frozen=True)
class Shown:
    """What pours show that differ in one thing alone: a sentence, and the pours it rests on."""

    sentence: str
    names: tuple[str, ...]


def shown_by(made: Sequence[Made], about: str = "") -> tuple[Shown, ...]:
    """What can be said for sure of some pours: those alike but for one thing about their handling, counted;
    then pairs handled alike whose compositions differ in one line, of those with the name ``about`` where it is given.
    """
    return (*_by_handling(made), *_by_line(made, about))


def _by_handling(made: Sequence[Made]) -> Iterator[Shown]:
    names = [each.name for each in made[0].handling] if made else []
    for n, name in enumerate(names):
        for group in _groups(made, n):
            sorts: dict[str, list[Made]] = {}
            for one in sorted(group, key=lambda each: each.place):
                if one.handling[n].value is not None:
                    sorts.setdefault(_sort(one.handling[n], sorts), []).append(one)
            asked = {id(one): number for number, one in enumerate(group)}
            sorts = dict(sorted(sorts.items(), key=lambda each: min(asked[id(one)] for one in each[1])))
            said = _outcomes(sorts) if len(sorts) > 1 else []
            if said:
                told = "; ".join(said)
                yield Shown(f"Only the {in_sentence(name)} differs: {told}.", tuple(one.name for one in group))


def _sort(handled: Handled, sorts: Mapping[str, list[Made]]) -> str:
    """The sort that a way of handling belongs to: one that is known and alike, or itself."""
    for told, others in sorts.items():
        like = next(each for each in others[0].handling if each.name == handled.name)
        if handled.is_like(like):
            return told
    return handled.told


def _groups(made: Sequence[Made], n: int) -> list[list[Made]]:
    """Pours of which each is alike to each in composition and in all of its handling but the n-th, whatever order they
    come in."""
    groups: list[list[Made]] = []
    for one in sorted(made, key=lambda each: each.place):
        for group in groups:
            if all(not set(_handling_apart(each, one)) - {n} and _is_one_mix(each, one) for each in group):
                group.append(one)
                break
        else:
            groups.append([one])
    order = {id(one): number for number, one in enumerate(made)}  # told in the order in which they were asked for
    told = [sorted(group, key=lambda each: order[id(each)]) for group in groups if len(group) > 1]
    return sorted(told, key=lambda group: order[id(group[0])])


def _outcomes(sorts: Mapping[str, list[Made]]) -> list[str]:
    """What was seen of each sort, where it is not the same of all."""
    said = []
    for seen in dict.fromkeys(key for group in sorts.values() for one in group for key in one.seen):
        rates = {}
        for told, group in sorts.items():
            looked = [one.seen[seen] for one in group if seen in one.seen]
            if looked:
                rates[told] = Rate(sum(looked), len(looked))
        if len(rates) > 1 and len({rate.cases / rate.of for rate in rates.values()}) > 1:
            said.append(f"{seen} " + ", ".join(f"{rate} {told}" for told, rate in rates.items()))
    firm = {told: _mean(known) for told, group in sorts.items() if (known := _tested(group))}
    if len(firm) > 1:
        apart = any(_shows(a, b) for a, b in combinations(firm.values(), 2))
        told = ", ".join(f"{mean:.0f} {told}" for told, (mean, _) in firm.items())
        said.append(f"firmness {told}" if apart else NO_DIFFERENCE)
    return said


def _tested(group: Iterable[Made]) -> list[tuple[float, float]]:
    """The firmness of those that were tested, with the variance of its making and its test."""
    return [(one.firmness, one.sigma**2 + MODEL_SIGMA**2) for one in group if one.firmness is not None]


def told_apart(made: Sequence[Made]) -> bool:
    """True where the firmness of two of some pours lies further apart than their tests may differ by."""
    return any(_shows(one, other) for one, other in combinations(_tested(made), 2))


def _mean(tested: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The mean of some, and its variance."""
    return fmean(value for value, _ in tested), sum(variance for _, variance in tested) / len(tested) ** 2


def _shows(one: tuple[float, float], other: tuple[float, float]) -> bool:
    """True where two firmnesses lie further apart than twice what their tests can tell."""
    return abs(one[0] - other[0]) > SAID_SIGMAS * math.sqrt(one[1] + other[1])


def _by_line(made: Sequence[Made], about: str) -> Iterator[Shown]:
    for one, other in combinations(made, 2):
        if about not in ("", one.name, other.name):
            continue
        row = None if _handling_apart(one, other) else one_line(one, other)
        if row is None or not (looked := _looked_at(one, other)):
            continue
        changes = _changes(one, other)
        told = listed(changes) if changes else f"the same {listed(looked)}"
        if FIRMNESS not in looked:
            told += "; firmness was not tested of both"
        yield Shown(f"Only {row.told}: {told}.", (one.name, other.name))


def _looked_at(one: Made, other: Made) -> list[str]:
    """What both were looked at for: of anything else nobody knows that it is the same."""
    tested = one.firmness is not None and other.firmness is not None
    return [FIRMNESS] * tested + [seen for seen in one.seen if seen in other.seen]


def _changes(one: Made, other: Made) -> list[str]:
    said = []
    firm = _tested((one, other))
    if len(firm) == 2:
        apart = _shows(*firm)
        said.append(f"firmness {firm[0][0]:.0f} and {firm[1][0]:.0f}" if apart else NO_DIFFERENCE)
    words = {True: "yes", False: "no"}
    for seen, was in one.seen.items():
        if seen in other.seen and other.seen[seen] != was:
            said.append(f"{seen} {words[was]} and {words[other.seen[seen]]}")
    return said
