"""What pages show of pours: cards as tins, and one pour in full with all that was seen of it."""

from collections.abc import Mapping
from dataclasses import dataclass

from django.db.models import Exists

from balmcore.advice.feel import Feel, feel
from balmcore.physics.firmness import WINDOW_C, word
from balmcore.tables import Ingredient, Tables
from balmcore.trials.press import Measured, compare
from batches.models import Batch, BatchFinish
from formulas.models import Version
from pours.models import Check, FollowUp, Pour, WearTest
from workshop.pictures.ruler import Ruler, ruler
from workshop.pictures.tin import Tin, tin

NO_TEST = "No test yet: press or thumb it after a day."


@dataclass(frozen=True)
class Card:
    """A pour in the log: its tin (of what was weighed), and the last test beside its prediction."""

    pour: Pour
    tin: Tin
    word: str
    unfit: str = ""

    @property
    def version(self) -> Version:
        """The version that was poured."""
        return self.pour.batch.version

    @property
    def tested(self) -> Check | None:
        """The last check with a firmness."""
        return self.pour.tested

    @property
    def predicted(self) -> float:
        """What was predicted, for the temperature of the test."""
        return self.tested.predicted if self.tested else self.pour.predicted

    @property
    def at_c(self) -> float:
        """The temperature of the test or, before one, of the prediction."""
        return self.tested.test_c if self.tested and self.tested.test_c is not None else WINDOW_C


def undecided() -> list[int]:
    """The numbers of pours that were tested and not judged yet, newest first."""
    return list(Pour.objects.filter(Exists(Check.objects.last_of("pk")), verdict="").values_list("pk", flat=True))


def card(pour: Pour, tables: Tables, unfit: Mapping[int, str] | None = None) -> Card:
    """A pour as a tin: measured firmness in the centre, or the predicted one before a test; ``unfit``
    are batches not fit to use."""
    tested = pour.tested
    firmness = pour.predicted if tested is None or tested.measured is None else tested.measured
    shares = pour.to_composition(tables).role_shares()
    state = "judged" if pour.verdict else "poured"
    picture = tin(shares, firmness, state, pour.title)
    return Card(pour, picture, word(firmness), (unfit or {}).get(pour.batch_id, ""))


def siblings(batch: Batch) -> list[tuple[BatchFinish, Pour | None]]:
    """The finishes of a batch with their pours, None for one that is not recorded yet."""
    finishes = list(batch.finishes.all())
    known = {pour.finish_id: pour for pour in Pour.objects.filter(batch=batch)} if finishes else {}
    return [(finish, known.get(finish.pk)) for finish in finishes]


@dataclass(frozen=True)
class PourDetail:
    """One pour in full: the ruler of predicted and measured and what to make of it; its checks, the newest
    first; the days on which to look again; what wearers said, beside the feel that the model expects."""

    card: Card
    ruler: Ruler
    sentence: str
    at_c: float
    checks: tuple[Check, ...]
    follow_ups: tuple[FollowUp, ...]
    wear: tuple[WearTest, ...]
    feel: Feel | None


def pour_detail(pour: Pour, tables: Tables) -> PourDetail:
    """Everything known of one pour; it was read with :meth:`PourQuerySet.for_page`."""
    shown = card(pour, tables)
    tested = pour.tested
    measured = None
    predicted, sigma = pour.predicted, pour.predicted_sigma
    if tested is not None and tested.measured is not None and tested.measured_sigma is not None:
        measured = Measured(tested.measured, tested.measured_sigma)
        predicted, sigma = tested.predicted, tested.predicted_sigma
    kind = pour.batch.version.formula.to_kind(tables)
    return PourDetail(
        shown,
        ruler(predicted, sigma, (measured.firmness, measured.sigma) if measured else None),
        compare(predicted, sigma, measured) if measured else NO_TEST,
        shown.at_c,
        tuple(reversed(list(pour.checks.all()))),
        tuple(pour.follow_ups.open()),
        tuple(pour.wear_tests.all()),
        feel(pour.to_composition(tables), kind),
    )


def shares_of(pour: Pour, tables: Tables) -> list[tuple[Ingredient, float]]:
    """What is in a pour with its shares, the most first."""
    composition = pour.to_composition(tables)
    total = float(composition.total) or 1.0
    found = [(line.ingredient, float(line.share) / total) for line in composition.lines if line.share]
    return sorted(found, key=lambda each: -each[1])
