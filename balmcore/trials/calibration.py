"""What a maker's own tests teach the model: residuals of firmness, by what gives the structure.

A residual is r = measured - model. It is taken as r = b0 + sum of b_g x_g + noise, with x_g the share
of the structuring solids from group g (each wax, brittle butters, soft butters, lauric fats, and every other
ingredient by itself), priors b0 ~ N(0, 8^2) and b_g ~ N(0, 6^2), twice as wide where the table is unsure of it.
One pour is one reading: what is measured twenty times is known better, and not twenty times true. A change of
material is a step (:mod:`balmcore.trials.supply_step`), and what is said goes by what came after it.

A maker who does not differ from the table should lose nothing by testing: the correction is multiplied with how
likely the readings make it that there is one. A band narrows only by what tests speak of.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array, Composition
from balmcore.physics.firmness import predict, prior_sigmas, structure_by_group
from balmcore.tables import Ingredient, Tables
from balmcore.tables.correction import GROUP_NAMES, GROUP_SIGMA, MODEL_SIGMA, Correction
from balmcore.trials.posterior import LEAST_WEIGHT, Posterior
from balmcore.trials.supply_step import STEP_SIGMA, Step, find_step
from balmcore.wording import in_sentence

OVERALL = "overall"
OVERALL_SIGMA = 8.0  # points, before any test: how far kitchens differ as a whole
DOUBT_SIGMA = 2.0  # points beside what was tested, where nothing says that this maker differs
# Weight below which a pour is shown not to fit; part of the structure from which a group is in it.
UNFIT, PRESENT = 0.5, 0.05
ODD = 4.0  # a check so many sigmas from its pour's median is none of that pour's reading


@dataclass(frozen=True)
class FirmnessReading:
    """A firmness measured at a temperature, with the one-sigma of how it was measured. Checks of one pour share its
    ``pour``; None is a pour of its own. ``day`` is when it was poured, None where that is not known."""

    composition: Composition
    temp_c: float
    firmness: float
    sigma: float
    overrun: float = 0.0
    pour: object = None
    day: date | None = None

    @cached_property
    def plain(self) -> float:
        """What the model alone says of it."""
        return predict(self.composition, self.overrun).firmness_at(self.temp_c)

    @cached_property
    def parts(self) -> dict[str, float]:
        """Each group's part of its structure."""
        return structure_by_group(self.composition, self.temp_c, self.overrun)

    @cached_property
    def priors(self) -> dict[str, float]:
        """How far each of its groups may differ from the table before any test: one sigma, in points."""
        return prior_sigmas(self.composition)


@dataclass(frozen=True)
class Learned:
    """What is known of one group: points beside the table, their one-sigma, from how many pours, and the one sigma that
    stood before any."""

    group: str
    points: float
    sigma: float
    pours: int
    prior: float


@dataclass(frozen=True)
class Calibrated:
    """A firmness as corrected, its one-sigma, and what the model alone says."""

    firmness: float
    sigma: float
    plain: float


@dataclass(frozen=True)
class SupplyStep:
    """A change of material: from a day on pours that hold a group (or all, :data:`OVERALL`) read so many points
    otherwise than before."""

    day: date
    group: str
    points: float
    sigma: float
    pours: int


class Calibration:
    """What some readings teach. Without any, predictions are the model's. A change of material is looked for, after the
    day on which its maker said that there was none; where its maker named day and group (``step``), that one counts."""

    def __init__(
        self,
        readings: Sequence[FirmnessReading],
        step: tuple[date, str] | None = None,
        refused_on: date | None = None,
    ) -> None:
        self.readings = tuple(readings)
        self.groups = tuple(sorted({group for one in self.readings for group in one.parts}))
        own = {group: sigma for one in self.readings for group, sigma in one.priors.items()}
        self._sigmas = np.array([OVERALL_SIGMA, *(own.get(group, GROUP_SIGMA) for group in self.groups)])
        rows = [[1.0, *(one.parts.get(group, 0.0) for group in self.groups)] for one in self.readings]
        self._rows = np.array(rows).reshape(len(rows), len(self.groups) + 1)
        self.residuals = np.array([one.firmness - one.plain for one in self.readings])
        self._gather()
        known = Posterior(self._design, self._pour_residuals, self._variance, self._sigmas**2,
                          np.zeros(len(self._days))).settled()  # fmt: skip
        after = refused_on.toordinal() if refused_on else 0
        self._step = self._named(step) if step else find_step(known, self._days, after)
        if self._step is not None:
            known = Posterior(
                np.column_stack([self._design, self._after(self._design, self._days)]),
                self._pour_residuals, self._variance, np.append(self._sigmas**2, STEP_SIGMA**2),
                np.zeros(len(self._days)),
            ).settled()  # fmt: skip
        self.known = known

    def _gather(self) -> None:
        """One row, residual, variance and day for each pour, of those of its checks that agree with each other."""
        keys = [("pour", one.pour) if one.pour is not None else ("own", n) for n, one in enumerate(self.readings)]
        places = {key: n for n, key in enumerate(dict.fromkeys(keys))}
        self._pour_of = np.array([places[key] for key in keys], dtype=np.intp)
        precision = np.array([one.sigma**-2 for one in self.readings])
        self._agrees = np.ones(len(self.readings), bool)
        for n in np.flatnonzero(np.bincount(self._pour_of, minlength=len(places)) > 2):
            own = np.flatnonzero(self._pour_of == n)
            gaps = np.abs(self.residuals[own] - np.median(self.residuals[own]))
            self._agrees[own] = gaps <= ODD * np.sqrt(1 / precision[own] + MODEL_SIGMA**2)
        counted = precision * self._agrees
        whole = np.bincount(self._pour_of, counted, len(places))
        self._variance = 1 / whole
        self._pour_residuals = np.bincount(self._pour_of, counted * self.residuals, len(places)) / whole
        self._design = np.zeros((len(places), self._rows.shape[1]))
        np.add.at(self._design, self._pour_of, self._rows * counted[:, None])
        self._design /= whole[:, None]
        self._days = np.zeros(len(places), dtype=np.int64)
        for n, one in zip(self._pour_of, self.readings, strict=True):
            if one.day is not None:
                self._days[n] = one.day.toordinal()

    def _named(self, step: tuple[date, str]) -> Step | None:
        """A step that its maker named; None where no pour holds its group."""
        day, group = step
        if group != OVERALL and group not in self.groups:
            return None
        return Step(day.toordinal(), 0 if group == OVERALL else 1 + self.groups.index(group), 0.0)

    def _after(self, rows: Array, days: NDArray[np.int64]) -> Array:
        """The column of the step for rows of some days."""
        assert self._step is not None
        found: Array = rows[:, self._step.column] * (days >= self._step.day)
        return found

    @property
    def weights(self) -> Array:
        """The weight of each reading, 0 to 1, (N,): its pour's, and 0 where it does not agree with that."""
        found: Array = self.known.weights[self._pour_of] * self._agrees if len(self.readings) else np.zeros(0)
        return found

    @cached_property
    def step(self) -> SupplyStep | None:
        """The change of material that is reckoned with, None where there is none."""
        if self._step is None:
            return None
        group = (OVERALL, *self.groups)[self._step.column]
        after = (self._days >= self._step.day) & (np.abs(self._design[:, self._step.column]) > PRESENT)
        points, sigma = self.trust * float(self.known.mean[-1]), float(np.sqrt(self.known.covariance[-1, -1]))
        return SupplyStep(date.fromordinal(self._step.day), group, points, sigma, int(after.sum()))

    @cached_property
    def trust(self) -> float:
        """How likely it is, 0 to 1, that this maker differs from the table at all: the evidence of the readings with
        the priors against that without, both as likely before (Kass & Raftery 1995). Without readings 1: then only
        the width of the priors is said."""
        if not (self.known.weights > LEAST_WEIGHT).any():
            return 1.0
        return float(1 / (1 + np.exp(-np.clip(self.known.log_evidence, -50, 50))))

    @cached_property
    def correction(self) -> Correction:
        """What was learned, as ingredients carry it; see :func:`corrected`. It is as large as it is trusted, and the
        doubt whether there is anything to correct is part of its covariance. What no pour speaks of keeps its prior."""
        mean, covariance = self.known.mean, self.known.covariance
        if self._step is not None:  # what is said from now on is said of what came after
            now = np.eye(len(self._sigmas), len(self._sigmas) + 1)
            now[self._step.column, -1] = 1.0
            mean, covariance = now @ mean, now @ covariance @ now.T
        tested = self._tested
        doubt = self.trust * (1 - self.trust) * np.outer(mean, mean)
        found = self.trust * covariance + doubt + np.diag(DOUBT_SIGMA**2 * (1 - self.trust) * tested)
        found[~tested, :] = found[:, ~tested] = 0.0
        found[~tested, ~tested] = self._sigmas[~tested] ** 2
        return Correction(
            self.groups,
            self.trust * mean * tested,
            found,
            self.known.spread,
            frozenset(self._tested_keys),
            tuple(tested[1:].tolist()),
        )

    @cached_property
    def _fits(self) -> NDArray[np.bool_]:
        """The pours that fit the others, (P,)."""
        found: NDArray[np.bool_] = self.known.weights >= UNFIT
        return found

    @property
    def _tested(self) -> NDArray[np.bool_]:
        """Which coefficients some fitting pour speaks of, (1 + G,)."""
        return np.asarray((np.abs(self._design[self._fits]) > PRESENT).any(axis=0), dtype=bool)

    @property
    def _tested_keys(self) -> set[str]:
        """The ingredients that were in a fitting pour, more than a trace."""
        fits = set(np.flatnonzero(self._fits).tolist())
        return {
            line.key
            for n, one in zip(self._pour_of.tolist(), self.readings, strict=True)
            if n in fits
            for line in one.composition.expanded.lines
            if float(line.share) > PRESENT * float(one.composition.total)
        }

    def predict(self, composition: Composition, temp_c: float, overrun: float = 0.0) -> Calibrated:
        """A firmness corrected by what was learned, not below 0."""
        parts = structure_by_group(composition, temp_c, overrun)
        plain = predict(composition, overrun).firmness_at(temp_c)
        known = self.correction
        sigma = known.sigma(parts, prior_sigmas(composition), known.unsure(composition.expanded.ingredients))
        return Calibrated(max(0.0, plain + known.points(parts)), sigma, plain)

    @property
    def learned(self) -> tuple[Learned, ...]:
        """What is known of each group and of all together, the surest first."""
        if not self.readings:
            return ()
        mean, covariance = self.correction.mean, self.correction.covariance
        counts = (np.abs(self._design[self._fits]) > PRESENT).sum(axis=0).tolist()
        found = [
            Learned(group, float(mean[n]), float(np.sqrt(covariance[n, n])), counts[n], float(self._sigmas[n]))
            for n, group in enumerate((OVERALL, *self.groups))
        ]
        return tuple(sorted(found, key=lambda one: one.sigma))

    @property
    def errors(self) -> tuple[float, float]:
        """How far predictions are off in the root mean square, over all readings, fitting or not: the model's, and as
        corrected by all the other pours. Zeros without any."""
        return self.errors_of(OVERALL)

    def errors_of(self, group: str, fitting: bool = False) -> tuple[float, float]:
        """The same over the readings that hold something of a group; over those that fit, where that is asked for."""
        held = np.ones(len(self.readings), bool)
        if group != OVERALL:
            held = self._rows[:, 1 + self.groups.index(group)] > PRESENT
        counted = held & ~self.unfit if fitting else held
        if not counted.any():
            return 0.0, 0.0
        plain, corrected = (float(np.sqrt(np.mean(each[counted] ** 2))) for each in (self.residuals, self._left_out))
        return plain, corrected

    @cached_property
    def _left_out(self) -> Array:
        """How far each reading lies from its correction by all the other pours, (N,)."""
        found: Array = self.residuals - self.trust * self.known.by_others[0][self._pour_of]
        return found

    @cached_property
    def by_pour(self) -> tuple[Array, Array, NDArray[np.int64]]:
        """Of each pour how far it came out beside what all the others say of it, the one sigma of that, and the ordinal
        of its day, 0 where that is not known; all (P,)."""
        said, variance = self.known.by_others
        doubt = self.trust * (1 - self.trust) * said**2
        sigma = np.sqrt(self.known.noise + self.trust * variance + doubt)
        return self._pour_residuals - self.trust * said, sigma, self._days

    @cached_property
    def points(self) -> Array:
        """What each reading's firmness is corrected by, as of its own day, (N,)."""
        rows, days = self._rows, self._days[self._pour_of]
        if self._step is not None:
            rows = np.column_stack([rows, self._after(rows, days)])
        found: Array = self.trust * rows @ self.known.mean
        return found

    @property
    def unfit(self) -> NDArray[np.bool_]:
        """The readings that do not fit their neighbours, (N,)."""
        found: NDArray[np.bool_] = self.weights < UNFIT
        return found


def corrected(tables: Tables, correction: Correction) -> Tables:
    """Tables whose ingredients carry what a maker's tests say, so that everything reckoned with them follows: curve,
    target, triangle, plan and bench. What is reckoned of them is corrected by exactly the points of
    :meth:`Calibration.predict` at every temperature (:class:`balmcore.physics.basis.Basis`)."""
    known: dict[str, Ingredient] = {}

    def told(item: Ingredient) -> Ingredient:
        if (found := known.get(item.key)) is None:
            made_of = tuple((told(leaf), share) for leaf, share in item.made_of)
            found = known[item.key] = replace(item, made_of=made_of, correction=correction)
        return found

    return tables.with_corrected({key: told(item) for key, item in tables.ingredients.items()})


def group_words(group: str, tables: Tables) -> str:
    """A group in a sentence: ``beeswax``, ``brittle butters``, ``candelilla wax``."""
    item = tables.ingredients.get(group)
    return GROUP_NAMES.get(group) or (in_sentence(item.name) if item else group)


def learned_words(learned: Learned, tables: Tables) -> str:
    """What was learned, in a sentence: your candelilla wax runs 6 points softer than the table, from 5 pours."""
    points, name = round(abs(learned.points)), group_words(learned.group, tables)
    who = "Everything you make" if learned.group == OVERALL else f"Your {name}"
    verb = "run" if learned.group in GROUP_NAMES else "runs"
    pours = f"{learned.pours} pour{'' if learned.pours == 1 else 's'}"
    if points < 1:
        return f"{who} {verb} as the table says, from {pours}."
    side = "firmer" if learned.points > 0 else "softer"
    return f"{who} {verb} {points} point{'' if points == 1 else 's'} {side} than the table, from {pours}."
