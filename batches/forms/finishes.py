"""The finishes of a melt as typed: their names, and what is added to each."""

from collections.abc import Sequence
from decimal import Decimal

from django import forms

from balmcore import units
from balmcore.advice.colour import TINTS, colour_words, tint_share
from balmcore.errors import Problem
from balmcore.making.portions import MOST_FINISHES, FinishPlan, Wanted
from balmcore.making.scaling import Filling
from balmcore.recipes.words.picking import picked
from balmcore.tables import Tables
from workshop.forms import RowForm
from workshop.models import Preferences
from workshop.web import Fields

MOST_ADDITIONS, MOST_DROPS = 8, 200
FIRST_NAMES = ("plain", "scented", "tinted")


class AdditionForm(RowForm):
    """Something added to a finish, and what to know of it. ``wanted`` is what it says once it was read, None for a row
    that was left empty."""

    item = forms.CharField(required=False)
    amount = forms.CharField(required=False)
    wanted: Wanted | None = None

    def __init__(self, item: str, amount: str, tables: Tables, prefs: Preferences) -> None:
        super().__init__({"item": item[:120], "amount": amount[:80]})
        self.tables, self.prefs = tables, prefs

    def read(self) -> None:
        """The row as what is wanted. Raises :class:`Problem`."""
        if self.text("item") or self.text("amount").strip():
            key = picked(self.text("item"), self.tables) if self.text("item").strip() else ""
            self.wanted = _wanted(key, self.text("amount"), self.tables, self.prefs)

    @property
    def item_name(self) -> str:
        """What stands in its field: a name, or what was typed."""
        item = self.tables.ingredients.get(self.text("item"))
        return item.name if item else self.text("item")

    @property
    def note(self) -> str:
        """What to know of a colour."""
        return colour_words(self.wanted.ingredient) if self.is_valid() and self.wanted else ""


class FinishForm(RowForm):
    """One finish: its name, and what is added to it."""

    name = forms.CharField(required=False)

    def __init__(self, name: str, additions: Sequence[AdditionForm] = ()) -> None:
        super().__init__({"name": name[:60]})
        self.additions = list(additions)[:MOST_ADDITIONS]
        self.others: tuple[str, ...] = ()  # the names of the others

    @property
    def called(self) -> str:
        """Its name without spaces around it."""
        return self.text("name").strip()

    @property
    def wanted(self) -> list[Wanted]:
        """What is added to it, as far as it could be read."""
        return [row.wanted for row in self.additions if row.is_valid() and row.wanted]

    def read(self) -> None:
        """Look whether it can be made so. Raises :class:`Problem`."""
        if len({one.ingredient for one in self.wanted}) < len(self.wanted):
            raise Problem("The same thing is added twice: put both into one row.")
        if not self.called:
            raise Problem("Give it a name you will know it by.")
        if self.called.lower() in self.others:
            raise Problem(f"Two finishes are called “{self.called}”: give one another name.")

    def is_valid(self) -> bool:
        """True when nothing is wrong with it, nor with anything added to it."""
        return super().is_valid() and all(row.is_valid() for row in self.additions)


def read(data: Fields, tables: Tables, prefs: Preferences) -> tuple[FinishForm, ...]:
    """The finishes as posted, with one action carried out: ``add_finish``, ``drop_finish``,
    ``add_addition``, ``drop_addition`` (of finish and row, as in ``1.0``) or none."""
    found = [FinishForm(name) for name in data.texts("finish_name")[:MOST_FINISHES]]

    def add(number: int, item: str = "", amount: str = "") -> None:
        if number < len(found) and len(found[number].additions) < MOST_ADDITIONS:
            found[number].additions.append(AdditionForm(item, amount, tables, prefs))

    for where, item, amount in zip(
        data.texts("add_to"), data.texts("add_item"), data.texts("add_amount"), strict=False
    ):
        if where.isascii() and where.isdigit() and len(where) < 4:
            add(int(where), item, amount)
    if data.text("add_finish"):
        _one_more(found)
        add(len(found) - 1)
    if (drop := data.whole("drop_finish")) is not None and drop < len(found):
        del found[drop]
    if (to := data.whole("add_addition")) is not None:
        add(to)
    finish, _, place = data.text("drop_addition", 12).partition(".")
    if finish.isdecimal() and place.isdecimal() and int(finish) < len(found):
        del found[int(finish)].additions[int(place) : int(place) + 1]
    return tuple(found) if len(found) > 1 or any(each.additions for each in found) else ()


def _one_more(found: list[FinishForm]) -> None:
    """One finish more; where there was only the whole, that becomes the first of two."""
    if not found:
        found.append(FinishForm(FIRST_NAMES[0]))
    if len(found) < MOST_FINISHES:
        taken = {each.text("name") for each in found}
        found.append(FinishForm(next((n for n in FIRST_NAMES if n not in taken), f"finish {len(found) + 1}")))


def name_apart(finishes: Sequence[FinishForm]) -> None:
    """Let each finish know what the others are called, before it is read."""
    for one in finishes:
        one.others = tuple(other.called.lower() for other in finishes if other is not one)


def planned(finishes: Sequence[FinishForm], filled: Sequence[tuple[int, Filling]]) -> list[FinishPlan]:
    """The finishes as they were read; ``filled`` are the fillings with the number of the finish that each is of."""
    return [
        FinishPlan(each.called, tuple(filling for n, filling in filled if n == number), tuple(each.wanted))
        for number, each in enumerate(finishes)
    ]


def _wanted(key: str, amount: str, tables: Tables, prefs: Preferences) -> Wanted:
    """An addition read: ``1 %``, ``0.8 g``, ``1 drop`` in each piece; faint, clear or deep for a colour."""
    item = tables.ingredients.get(key)
    if item is None:
        raise Problem("Choose what is added, or remove the row.")
    text = amount.strip().lower()
    if text in TINTS:
        return Wanted(item, tint_share(item, text), Wanted.How.PERCENT)
    if (number := units.drops(text, MOST_DROPS)) is not None:
        return Wanted(item, Decimal(number), Wanted.How.DROPS)
    if text and text[-1].isalpha():
        grams = units.mass_g(text, prefs.mass_unit, prefs.kitchen, item.density_g_ml, item.bulk_density_g_ml)
        return Wanted(item, _above(grams), Wanted.How.GRAMS)
    return Wanted(item, _above(units.share(text)), Wanted.How.PERCENT)


def _above(amount: Decimal) -> Decimal:
    if amount <= 0:
        raise Problem("Nothing of it is added: give an amount, or remove the row.")
    return amount
