"""What a maker's own records teach, as one value: it is worked out anew when the records change, and handed to whatever
goes by it."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from balmcore.composition import Composition
from balmcore.making.method.temperatures import GRAINS_FROM
from balmcore.making.steps import USUAL_PACE, Pace
from balmcore.physics.cooling import COOLING_METHODS, DEFAULT
from balmcore.physics.grain import HELD, MELTING_METHODS, readiness
from balmcore.tables import Role, Tables
from balmcore.trials.rates import Middle, Rate
from balmcore.wording import in_sentence

LEAST_BUTTER = 0.1  # of the formula: less does not make its grain
NO_BUTTER = ""


@dataclass(frozen=True)
class HandlingRates:
    """The rates of faults of one butter, or of no butter, by one way of cooling and of melting."""

    butter: str
    cooling: str
    melting: str
    rates: Mapping[str, Rate]


@dataclass(frozen=True)
class BenchPace:
    """What is usual at a bench, each None before there are four cases: seconds a piece by the kind of container, times
    as long as reckoned that melting takes by each way of heating, what each whipper gains of the volume, and the
    minutes it takes."""

    piece_s: Mapping[str, Middle] = field(default_factory=dict)
    heating: Mapping[str, Middle] = field(default_factory=dict)
    overrun: Mapping[str, Middle] = field(default_factory=dict)
    whip_min: Mapping[str, Middle] = field(default_factory=dict)

    @property
    def pace(self) -> Pace:
        """As methods go by it."""
        if not self.piece_s and not self.heating and not self.whip_min:
            return USUAL_PACE
        return Pace(
            {kind: found.median for kind, found in self.piece_s.items()},
            {key: found.median for key, found in self.heating.items()},
            {key: found.median for key, found in self.whip_min.items()},
        )


@dataclass(frozen=True, eq=False)
class Experience:
    """What this maker's records teach; every part is as usual, or empty, where they say nothing.

    ``tables`` are the tables as tests correct them; ``handling`` how often what grained; ``losses`` what stays in a
    pitcher, by its key and a kind or any (empty); ``stayed_g`` what does in any, and ``pieces_g`` what a piece weighs,
    by the name of its container; ``bench`` how fast things go.
    """

    tables: Tables | None = None
    handling: tuple[HandlingRates, ...] = ()
    losses: Mapping[tuple[str, str], Middle] = field(default_factory=dict)
    stayed_g: Middle | None = None
    pieces_g: tuple[tuple[str, Middle], ...] = ()
    bench: BenchPace = field(default_factory=BenchPace)

    def grain_sentence(self, composition: Composition) -> str:
        """What those say of a composition whose butter grains; empty for one that does not, and where they say
        nothing."""
        if composition.total <= 0 or readiness(composition) <= GRAINS_FROM:
            return ""
        return " ".join(self.cooling_sentences(composition).values())

    @property
    def pace(self) -> Pace:
        """How fast this bench is."""
        return self.bench.pace

    def usual_loss(self, pitcher: str, kind: str, whipper: str = "") -> Middle | None:
        """What usually stays in a pitcher: of a kind, whipped by that whipper, or, where too few of it were poured, of
        any; None before four pours."""
        if whipper and (found := self.losses.get((pitcher, f"{kind} {whipper}"))):
            return found
        return self.losses.get((pitcher, kind)) or self.losses.get((pitcher, ""))

    def grain_of(self, composition: Composition) -> dict[str, Rate]:
        """How often pours with this composition's leading butter grained, by way of cooling, with how far it was melted
        before it where that is another than our default."""
        butter = leading_butter(composition)
        return {
            row.cooling if row.melting == HELD else f"{row.melting} {row.cooling}": row.rates["grain"]
            for row in (self.handling if butter else ())
            if row.butter == butter and "grain" in row.rates and row.cooling in COOLING_METHODS
        }

    def best_cooling(self, composition: Composition, usual: str = DEFAULT) -> str:
        """The way of cooling that this maker's pours speak for against the usual one; empty where they do not."""
        rates = self.grain_of(composition)
        against = rates.get(usual)
        if against is None:
            return ""
        rivals = [key for key in rates if key in COOLING_METHODS and key != usual]
        better = [key for key in rivals if rates[key].is_below(against, len(rivals))]
        return min(better, key=lambda key: rates[key].cases / rates[key].of, default="")

    def cooling_sentences(self, composition: Composition) -> dict[str, str]:
        """A sentence for each way of cooling: ``Slowly on the counter: 3 of 4 of yours with shea butter grained``."""
        rates, names = self.grain_of(composition), {line.key: line.ingredient.name for line in composition.lines}
        butter = in_sentence(names[leading_butter(composition)]) if rates else ""
        return {
            key: f"{_way_words(key)}: {rate.sentence} of yours with {butter} grained." for key, rate in rates.items()
        }


NO_EXPERIENCE = Experience()


def leading_butter(composition: Composition) -> str:
    """The butter there is most of, empty where there is hardly any."""
    least = LEAST_BUTTER * float(composition.total)
    butters = [line for line in composition.lines if line.ingredient.role == Role.BUTTER and float(line.share) >= least]
    return max(butters, key=lambda line: line.share).key if butters else NO_BUTTER


def _way_words(key: str) -> str:
    """A way of cooling in words, with that of melting before it where the key has one."""
    *melting, cooling = key.split(" ")
    told = COOLING_METHODS[cooling].name
    return f"{MELTING_METHODS[melting[0]].name}, then {in_sentence(told)}" if melting else told
