"""A melt rescued, as an example: a pot on the stove that nobody weighed, and what to put into it. Nothing is stored."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from balmcore import units
from balmcore.composition import Composition
from balmcore.design.rescue import Rescue, rescue, wanted_firmness
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables
from balmcore.trials.press import THUMB_WORDS, thumb
from workshop.models import Preferences
from workshop.web import FieldReader, Fields

PARTS = {"beeswax_yellow": Decimal("0.11"), "shea_butter_refined": Decimal("0.15"), "sunflower_oil_ho": Decimal("0.74")}
KIND, POT_G, WANT = "pot_salve", Decimal(240), Decimal(58)
ADDED = ("beeswax_yellow", "carnauba_wax", "cocoa_butter_refined", "sunflower_oil_ho")


@dataclass(frozen=True)
class Example:
    """A pot and what was said of a drop of it, as typed; ``offers`` are what could go in, those that cannot help
    with their reason."""

    composition: Composition
    model: float
    pot: str
    want: str
    thumb: str
    problems: dict[str, str]
    offers: tuple[Rescue, ...]

    @property
    def thumbs(self) -> Iterable[str]:
        """What a drop can feel like."""
        return THUMB_WORDS


def read(data: Fields, tables: Tables, prefs: Preferences) -> Example:
    """The example as it stands in the form, with what could be done."""
    composition, reading = Composition.of(PARTS, tables), FieldReader()
    pot, want = data.text("pot", 40) or prefs.show.mass_words(POT_G), data.text("want", 20) or f"{WANT}"
    felt_as = data.text("thumb", 20)
    grams = reading.value("pot", lambda: _pot(pot, prefs), POT_G)
    aim = reading.value("want", lambda: _aim(want), WANT)
    felt = reading.value("thumb", lambda: thumb(felt_as).firmness if felt_as else None, None)
    offers = (
        ()
        if reading.problems
        else tuple(rescue(composition, float(grams), float(aim), tables.ingredient(key), felt) for key in ADDED)
    )
    model = predict(composition).firmness_at(WINDOW_C)
    return Example(composition, model, pot, want, felt_as, reading.problems, offers)


def _pot(text: str, prefs: Preferences) -> Decimal:
    grams = units.mass_g(text, prefs.mass_unit, prefs.kitchen)
    if not grams:
        raise Problem("There is nothing in the pot to rescue.")
    return grams


def _aim(text: str) -> Decimal:
    return wanted_firmness(units.number(text))
