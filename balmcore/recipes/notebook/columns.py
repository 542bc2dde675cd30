"""What each column of a table of past work is: by what it is called, unless its maker chose."""

import re
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from balmcore.display import DAY_FIRST, MONTH_FIRST, YEAR_FIRST
from balmcore.errors import Problem
from balmcore.recipes.doubts import Doubted
from balmcore.recipes.reading import read
from balmcore.recipes.words.picking import picked
from balmcore.tables import Ingredient, Tables
from balmcore.wording import called

UNKNOWN, OF = "?", "of"
# What a column can be, with what people call it; a column that is named like an ingredient holds its amounts.
ROLES = {
    "name": "name",
    "day": "day",
    "ingredients": "ingredients",
    OF: "amounts of one ingredient",
    "total": "how much it was",
    "firmness": "firmness",
    "temperature": "how warm it was tested",
    "cooled": "how it cooled",
    "verdict": "verdict",
    "notes": "notes",
    "": "not taken",
    UNKNOWN: "not known yet",
}
CALLED = {
    "name": ("name", "recipe", "balm", "product", "what"),
    "day": ("day", "date", "made on", "poured", "when"),
    "ingredients": ("ingredients", "formula", "composition", "lines"),
    "total": ("total", "batch size", "makes", "how much", "weight", "yield"),
    "temperature": ("temp", "at °", "tested at", "warm"),
    "firmness": ("firm", "thumb", "hardness", "texture"),
    "cooled": ("cool", "set in"),
    "verdict": ("verdict", "again", "keep", "judg"),
    "notes": ("note", "remark", "comment"),
}
# A word beside others, or in brackets: a name may end in any of these letters.
UNIT = re.compile(
    r"(?:\s+|\s*[(\[]\s*)(g|grams?|kg|%|percent|parts?|oz|ounces?|lbs?|ml|tsp|tbsp|cups?|drops?)\s*[)\]]?\s*$",
    re.IGNORECASE,
)
PERCENT, PARTS = "percent", "parts"
SHARES = {"%": PERCENT, "percent": PERCENT, "part": PARTS, "parts": PARTS}
_SLASHED = re.compile(r"\D*(\d{1,2})\D(\d{1,2})\D\d{2,4}\D*")
_FIRST = {DAY_FIRST: "day", MONTH_FIRST: "month"}


@dataclass(frozen=True)
class Column:
    """A column: its title, what it is, and of an ingredient's own which; ``said`` is what is doubted of it. Days of it
    stand in an ``order``."""

    title: str
    role: str = ""
    item: Ingredient | None = None
    said: str = ""
    order: str = ""

    @property
    def is_open(self) -> bool:
        """True until it is said what it holds."""
        return self.role == UNKNOWN or (self.role == OF and self.item is None)


def columns_of(
    rows: Sequence[Sequence[str]],
    tables: Tables,
    chosen: Sequence[str] = (),
    picks: Sequence[str] = (),
    order: str = DAY_FIRST,
) -> tuple[Column, ...]:
    """What each column of a table with a header is: as it was ``chosen``, of the ingredient that was typed in
    ``picks``, else by what it is called. What can stand once only is the first column's; ``order`` is how the maker
    writes days elsewhere."""
    found: list[Column] = []
    for at, title in enumerate(rows[0]):
        column = _column(
            " ".join(title.split()),
            chosen[at] if at < len(chosen) and chosen[at] in ROLES else None,
            picks[at].strip() if at < len(picks) else "",
            tables,
        )
        if column.role not in ("", OF, UNKNOWN) and any(other.role == column.role for other in found):
            column = Column(title, UNKNOWN, said=f"There is a column for {ROLES[column.role]} already.")
        if column.role == "day":
            column = _ordered(column, [row[at] for row in rows[1:] if at < len(row)], order)
        found.append(column)
    return tuple(found)


def _column(title: str, chosen: str | None, pick: str, tables: Tables) -> Column:
    if pick and chosen in (OF, UNKNOWN):
        try:
            return Column(title, OF, tables.ingredient(picked(pick, tables)))
        except Problem as problem:
            return Column(title, OF, said=problem.sentence)
    if chosen is not None and chosen != OF:
        return Column(title, chosen)
    if chosen is None and (role := called(title, CALLED)):
        return Column(title, role)
    item, doubt = _named(title, tables)
    if item is not None or chosen == OF:
        return Column(title, OF, item, doubt)
    # "How firm" is called so too, but "Cool mint oil" is an oil.
    words = title.split()
    later = (called(" ".join(words[n:]), CALLED) for n in range(1, len(words)))
    role = next(filter(None, later), UNKNOWN)
    return Column(title, role, said="What it holds is not known: say what it is." if role == UNKNOWN else "")


def _named(title: str, tables: Tables) -> tuple[Ingredient | None, str]:
    """The ingredient that a title names, as a line of a recipe would, and what is doubted of it."""
    plain = UNIT.sub("", title)
    with suppress(Problem):
        return tables.ingredient(picked(plain, tables)), ""
    lines = read(f"10 g {plain}", tables=tables).lines
    measured = (Doubted.AMOUNT, Doubted.UNIT)  # a title that seems to hold another measure
    if len(lines) != 1 or not lines[0].is_counted or any(doubt.kind in measured for doubt in lines[0].doubts):
        return None, "Which ingredient it is, is not known: type its name."
    return lines[0].ingredient, " ".join(doubt.asks for doubt in lines[0].doubts)


def _ordered(column: Column, days: Sequence[str], order: str) -> Column:
    """With the order in which its days are written: the maker's, unless a day of it fits only another."""
    slashed = [(day, int(found[1]), int(found[2])) for day in days if (found := _SLASHED.fullmatch(day.strip()))]
    shown = {
        MONTH_FIRST: [day for day, first, second in slashed if second > 12 >= first],
        DAY_FIRST: [day for day, first, second in slashed if first > 12 >= second],
    }
    usual = order if order != YEAR_FIRST else DAY_FIRST
    orders = [each for each, told in shown.items() if told]
    unclear = any(first != second and max(first, second) <= 12 for _, first, second in slashed)
    if len(orders) == 1 and (orders[0] != order or unclear):
        said = f"“{shown[orders[0]][0]}” shows that the {_FIRST[orders[0]]} stands first: all of them are read so."
        return replace(column, order=orders[0], said=said if orders[0] != order else "")
    if not unclear:
        return replace(column, order=order)
    both = " Some show the other order: look at each." if len(orders) == 2 else ""
    return replace(column, order=usual, said=f"Days are read with the {_FIRST[usual]} first.{both}")


def unit_of(cell: str, title: str) -> str:
    """The unit of an amount: its own goes before that of its column. Empty for neither."""
    own = re.search(r"[a-zA-Z%][a-zA-Z. ]*$", cell)
    of_title = UNIT.search(title)
    named = (own[0] if own else of_title[1] if of_title else "").strip().lower()
    return SHARES.get(named, named)
