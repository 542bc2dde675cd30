"""The wishes of a tool's form: vegan, only what is in stock, and a picker of what it must do without."""

from dataclasses import dataclass

from balmcore.design.meant import Meant
from balmcore.design.wishes import Wishes, named_by, names_something, read_wishes
from balmcore.errors import Problem
from balmcore.tables import Tables
from pantry.queries import stocked
from workshop.web import Fields

MOST_WISHES = 12


@dataclass(frozen=True)
class WishForm:
    """Wishes as they stand in a form: ``without`` are those understood, ``typed`` what is not, with
    its ``problem``."""

    vegan: bool
    stock_only: bool
    without: tuple[str, ...]
    typed: str
    problem: str
    wishes: Wishes

    def meant(self, skin: str, season: str) -> Meant:
        """What is wished, for a skin and a season."""
        return Meant(self.vegan, self.without, self.stock_only, skin, season)


NOTHING = WishForm(False, False, (), "", "", Wishes())


def kept(meant: Meant, tables: Tables) -> WishForm:
    """The wishes of a version, as a form shows them; a word that names nothing any more is left to be put right."""
    without = tuple(word for word in meant.without if names_something(word, tables))
    lost = ", ".join(word for word in meant.without if word not in without)
    problem = f"“{lost}” names nothing here any more." if lost else ""
    only = stocked(tables) if meant.stock_only else None
    return WishForm(
        meant.vegan,
        meant.stock_only,
        without,
        lost,
        problem,
        read_wishes(tables, meant.vegan, without, only),
    )


def read(data: Fields, tables: Tables) -> WishForm:
    """The wishes of a form. What was typed becomes a token once it names something."""
    gone = data.text("unwish")
    without = [word for word in data.texts("without")[:MOST_WISHES] if word != gone]
    typed, problem = data.text("wish", 200), ""
    left = []
    for word in (part.strip() for part in typed.replace(";", ",").split(",")):
        if not word:
            continue
        try:
            named_by(word, tables)
            if len(without) >= MOST_WISHES:
                raise Problem(f"At most {MOST_WISHES} wishes at once.")
            if word not in without:
                without.append(word)
        except Problem as refusal:
            left.append(word)
            problem = refusal.sentence
    try:
        only = stocked(tables) if data.text("stock_only") else None
        wishes = read_wishes(tables, bool(data.text("vegan")), without, only)
    except Problem as refusal:  # a token of a forged form
        problem, wishes, without = refusal.sentence, Wishes(), []
    return WishForm(
        bool(data.text("vegan")),
        bool(data.text("stock_only")),
        tuple(without),
        ", ".join(left),
        problem,
        wishes,
    )
