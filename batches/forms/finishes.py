"""The finishes of a melt as typed: their names, and what is added to each."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from balmcore import units
from balmcore.advice.colour import TINTS, colour_words, tint_share
from balmcore.errors import Problem
from balmcore.making.portions import MOST_FINISHES, FinishPlan, Wanted
from balmcore.making.scaling import Filling
from balmcore.tables import Ingredient, Role, Tables
from workshop.models import Preferences
from workshop.web import Fields

MOST_ADDITIONS, MOST_DROPS = 8, 200
FIRST_NAMES = ("plain", "scented", "tinted")


@dataclass(frozen=True)
class AdditionRow:
    """Something added to a finish as typed, what is wrong with it, and what to know of it."""

    item: str
    amount: str
    problem: str = ""
    note: str = ""


@dataclass(frozen=True)
class FinishRow:
    """One finish as typed, what is wrong with it, and what is added to it."""

    name: str
    additions: tuple[AdditionRow, ...] = ()
    problem: str = ""


def read(data: Fields) -> tuple[FinishRow, ...]:
    """The finishes as posted, with one action carried out: ``add_finish``, ``drop_finish``,
    ``add_addition``, ``drop_addition`` (of finish and row, as in ``1.0``) or none."""
    found = [FinishRow(name[:60]) for name in data.texts("finish_name")[:MOST_FINISHES]]
    cells = zip(data.texts("add_to"), data.texts("add_item"), data.texts("add_amount"), strict=False)
    for where, item, amount in cells:
        number = int(where) if where.isascii() and where.isdigit() and len(where) < 4 else len(found)
        if number < len(found) and len(found[number].additions) < MOST_ADDITIONS:
            row = AdditionRow(item[:80], amount[:80])
            found[number] = replace(found[number], additions=(*found[number].additions, row))
    if data.text("add_finish"):
        found = _one_more(found)
    if (drop := data.whole("drop_finish")) is not None and drop < len(found):
        del found[drop]
    if (to := data.whole("add_addition")) is not None and to < len(found):
        found[to] = replace(found[to], additions=(*found[to].additions, AdditionRow("", ""))[:MOST_ADDITIONS])
    finish, _, place = data.text("drop_addition", 12).partition(".")
    if finish.isdecimal() and place.isdecimal() and int(finish) < len(found):
        left = [each for n, each in enumerate(found[int(finish)].additions) if n != int(place)]
        found[int(finish)] = replace(found[int(finish)], additions=tuple(left))
    return tuple(found) if len(found) > 1 or any(each.additions for each in found) else ()


def _one_more(found: list[FinishRow]) -> list[FinishRow]:
    """One finish more; where there was only the whole, that becomes the first of two."""
    grown = list(found) or [FinishRow(FIRST_NAMES[0])]
    if len(grown) < MOST_FINISHES:
        taken = {row.name for row in grown}
        name = next((n for n in FIRST_NAMES if n not in taken), f"finish {len(grown) + 1}")
        grown.append(FinishRow(name, (AdditionRow("", ""),)))
    return grown


def choices(tables: Tables) -> list[Ingredient]:
    """What can be added: scents, colours and other extras first, then everything else, by name."""
    return sorted(tables.ingredients.values(), key=lambda item: (item.role != Role.EXTRA, item.name.lower()))


def planned(
    rows: Sequence[FinishRow], filled: Sequence[tuple[int, Filling]], tables: Tables, prefs: Preferences
) -> tuple[tuple[FinishRow, ...], list[FinishPlan]]:
    """The rows with their problems, and the finishes of those that have none; ``filled`` are the fillings
    with the number of the finish that each belongs to."""
    read_rows, plans = [], []
    for number, row in enumerate(rows):
        additions, wanted = [], []
        for addition in row.additions:
            if not addition.item and not addition.amount.strip():
                additions.append(addition)
                continue
            try:
                wanted.append(one := _wanted(addition, tables, prefs))
                additions.append(replace(addition, problem="", note=colour_words(one.ingredient)))
            except Problem as problem:
                additions.append(replace(addition, problem=problem.sentence))
        name = row.name.strip()
        said = "" if name else "Give it a name you will know it by."
        if name and sum(each.name.strip().lower() == name.lower() for each in rows) > 1:
            said = f"Two finishes are called “{name}”: give one another name."
        if len({one.ingredient for one in wanted}) < len(wanted):
            said = "The same thing is added twice: put both into one row."
        read_rows.append(replace(row, additions=tuple(additions), problem=said))
        plans.append(FinishPlan(name, tuple(filling for n, filling in filled if n == number), tuple(wanted)))
    return tuple(read_rows), plans


def has_problems(rows: Sequence[FinishRow]) -> bool:
    """True when anything of them could not be read."""
    return any(row.problem or any(addition.problem for addition in row.additions) for row in rows)


def _wanted(row: AdditionRow, tables: Tables, prefs: Preferences) -> Wanted:
    """An addition read: ``1 %``, ``0.8 g``, ``1 drop`` in each piece; faint, clear or deep for a colour."""
    known: Mapping[str, Ingredient] = tables.ingredients
    item = known.get(row.item)
    if item is None:
        raise Problem("Choose what is added, or remove the row.")
    text = row.amount.strip().lower()
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
