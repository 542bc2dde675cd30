"""The page of a recipe as it is posted: text and answers, read anew each time, with what became of every word."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from django.http import QueryDict

from balmcore.advice.kind_of import Proposal, kind_of
from balmcore.composition import normalise
from balmcore.design.wishes import Wishes, wished
from balmcore.errors import Problem
from balmcore.recipes.doubts import Doubted, line_of
from balmcore.recipes.lines import ReadLine
from balmcore.recipes.reading import LONGEST_TEXT, RecipeReading, composition, read
from balmcore.tables import Tables
from formulas.models import Meaning, Recipe
from workshop.models import Preferences
from workshop.web import Fields

LONGEST_KEPT = 1_200_000  # letters of a text that are kept, whatever is read of them
LONGEST_ANSWER = 200
MOST_ANSWERS = 400
ASK_AGAIN = "?"  # the answer of what is to be asked again


@dataclass(frozen=True)
class Stretch:
    """Some letters of the text and what became of them; ``line`` is the number of their row."""

    text: str
    what: str = ""
    line: int | None = None


@dataclass(frozen=True)
class Row:
    """A line as its row shows it, with what was typed in it."""

    line: ReadLine
    amount: str

    @property
    def asks_form(self) -> bool:
        """Whether its form is asked below, where it can be told."""
        return any(doubt.kind == Doubted.FORM for doubt in self.line.doubts)

    @property
    def state(self) -> str:
        """In a word what it is to the eye: out, refused, asked, or nothing."""
        if self.line.is_out:
            return "out"
        return "refused" if self.line.refused else "asked" if self.line.doubts else ""


@dataclass(frozen=True)
class RecipePage:
    """Text, kitchen and answers, and what is read of them; ``said`` is why nothing could be."""

    text: str
    kitchen: str
    answers: Mapping[str, str]
    reading: RecipeReading | None = None
    said: str = ""
    tables: Tables | None = field(default=None, repr=False)

    @property
    def rows(self) -> list[Row]:
        """The lines with what stands in their fields."""
        lines = self.reading.lines if self.reading else ()
        return [Row(line, self.answers.get(f"amount@{line.key}", line.written)) for line in lines]

    @property
    def stretches(self) -> list[Stretch]:
        """The whole text in order, each stretch with what became of it."""
        made, at = [], 0
        for mark in self.reading.marks if self.reading else ():
            made += [Stretch(self.text[at : mark.start])] if mark.start > at else []
            made.append(Stretch(self.text[mark.start : mark.end], mark.what, mark.line))
            at = mark.end
        rest = self.text[at:]
        if len(self.text) > LONGEST_TEXT:
            cut = max(LONGEST_TEXT - at, 0)
            made += [Stretch(rest[:cut]), Stretch(rest[cut : cut + LONGEST_TEXT], "unread")]
        else:
            made.append(Stretch(rest))
        return [stretch for stretch in made if stretch.text]

    @property
    def proposal(self) -> Proposal | None:
        """The kind it would be, None where nothing is weighed yet."""
        if self.reading is None or self.tables is None:
            return None
        grams = composition(self.reading)
        return kind_of(normalise(grams), self.tables, self.reading.title) if grams.lines else None

    @cached_property
    def wishes(self) -> Wishes | None:
        """What the text wishes, as far as it names something here."""
        found = wished(self.reading.wishes, self.tables) if self.reading and self.tables else None
        return found if found and found.any else None

    @property
    def not_in_it(self) -> list[str]:
        """The lines that a formula of it would not hold."""
        lines = self.reading.lines if self.reading else ()
        return [line.text for line in lines if not line.is_counted]


def always() -> dict[str, str]:
    """What this maker always means, by the key of its question."""
    return dict(Meaning.objects.values_list("key", "value"))


def posted(data: QueryDict, prefs: Preferences, tables: Tables) -> RecipePage:
    """The page as it was posted."""
    fields = Fields(data)
    text = fields.text("text", LONGEST_KEPT).replace("\r\n", "\n")
    return page_of(text, fields.text("kitchen") or prefs.kitchen, _answers(data), tables)


def kept(recipe: Recipe, tables: Tables) -> RecipePage:
    """The page of a recipe as it was kept."""
    return page_of(recipe.text, recipe.kitchen, recipe.answers, tables)


def page_of(text: str, kitchen: str, answers: Mapping[str, str], tables: Tables) -> RecipePage:
    """A text with its answers, read."""
    try:
        found = read(text, kitchen, answers, tables, always())
    except Problem as problem:
        return RecipePage(text, kitchen, answers, None, problem.sentence, tables)
    return RecipePage(text, kitchen, _that_count(answers, found), found, "", tables)


def _answers(data: QueryDict) -> dict[str, str]:
    """What was answered: what the page carried, what was typed in a row since, and what was tapped."""
    found = _under("answer:", data)
    shown = _under("shown:", data)
    found |= {key: value for key, value in _under("row:", data).items() if value != shown.get(key, "")}
    found |= _under("tap:", data)
    if again := data.get("again"):
        found[again] = ASK_AGAIN
    return {key: value for key, value in found.items() if value}


def _under(prefix: str, data: QueryDict) -> dict[str, str]:
    """The fields whose names begin so, by the rest of them."""
    names = [name for name in data if name.startswith(prefix)][:MOST_ANSWERS]
    return {name.removeprefix(prefix): (data.get(name) or "").strip()[:LONGEST_ANSWER] for name in names}


def _that_count(answers: Mapping[str, str], found: RecipeReading) -> dict[str, str]:
    """The answers but for those about lines that are gone."""
    lines = {"", "recipe", *(line.key for line in found.lines)}
    return {key: value for key, value in answers.items() if line_of(key) in lines}
