"""Formulas as rows for a spreadsheet: the current versions with their lines."""

from collections.abc import Iterator

from balmcore.composition import percent_text
from balmcore.display import Display
from balmcore.physics.firmness import WINDOW_C
from balmcore.tables import Tables
from formulas.queries import formula_list
from workshop.files.sheets import Value


def header(show: Display) -> tuple[str, ...]:
    """The names of the columns."""
    firmness = f"Firmness at {show.temp_text(WINDOW_C)}"
    return ("Formula", "Kind", "Version", "Stage", "Saved on", firmness, "Ingredients, %", "Note")


def rows(tables: Tables, words: str = "") -> Iterator[tuple[Value, ...]]:
    """One row for each formula in which the words are found."""
    for card in formula_list(tables, words):
        version = card.version
        lines = (
            f"{tables.ingredient(line.ingredient_key).name} {percent_text(line.share)}" for line in version.lines.all()
        )
        yield (
            version.formula.name,
            card.kind.name,
            version.number,
            version.get_stage_display(),
            version.created.date(),
            round(card.firmness, 1),
            "; ".join(lines),
            version.note,
        )
