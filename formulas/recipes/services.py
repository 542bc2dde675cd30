"""What can be done with a recipe: begin a formula of it, read it again, remember what its maker means."""

from collections.abc import Iterable
from decimal import Decimal

from django.db import transaction

from balmcore.composition import Composition, normalise
from balmcore.design.meant import Meant
from balmcore.errors import Problem
from balmcore.recipes.doubts import is_for_always
from balmcore.recipes.reading import RecipeReading, composition
from balmcore.tables import Kind
from balmcore.wording import listed
from formulas.models import Formula, Meaning, Question, Recipe, Version
from formulas.recipes.page import ASK_AGAIN, RecipePage
from formulas.services import MOST_NOTE, begin_formula, save_version
from pantry.infusions import with_own_infusions


@transaction.atomic
def begin_of(page: RecipePage, name: str, kind: Kind, wishes: Iterable[str], vegan: bool) -> Formula:
    """A new formula of a recipe, which is kept with its open questions. Raises :class:`Problem` when no line was
    understood with its amount."""
    made, reading = _composition(page)
    meant = Meant(vegan=vegan, without=tuple(wishes))
    formula = begin_formula(name, kind, made, _note(page, "From a recipe."), meant)
    recipe = Recipe.objects.create(
        formula=formula,
        version=formula.versions.get(is_current=True),
        text=page.text,
        kitchen=page.kitchen,
        answers=dict(page.answers),
        total_g=_total(reading),
    )
    _ask(recipe, reading, made)
    remember(page)
    return formula


@transaction.atomic
def read_again(recipe: Recipe, page: RecipePage) -> Version | None:
    """Keep what was answered of a recipe. Where it changes what was read, that becomes the next version of the formula,
    which is returned. Raises :class:`Problem` when nothing is left of it."""
    made, reading = _composition(page)
    before = recipe.version
    formula, saved = recipe.formula, None
    if before is None or _shares(made) != {line.ingredient_key: line.share for line in before.lines.all()}:
        current = formula.versions.get(is_current=True)
        saved = save_version(
            formula,
            made,
            seen=current.pk,
            made_from=before.number if before else current.number,
            note=_note(page, "Read again from its recipe."),
        )
        recipe.version = saved
    recipe.text, recipe.kitchen, recipe.answers = page.text, page.kitchen, dict(page.answers)
    recipe.total_g = _total(reading)
    recipe.save()
    recipe.questions.all().delete()
    _ask(recipe, reading, made)
    remember(page)
    return saved


def remember(page: RecipePage) -> None:
    """Keep the answers that hold for every recipe: which shea, what a cup of pellets weighs."""
    settled = {one.key: one.said for line in (page.reading.lines if page.reading else ()) for one in line.settled}
    for key, value in page.answers.items():
        if is_for_always(key) and key in settled and value != ASK_AGAIN:
            Meaning.objects.update_or_create(
                key=key[:200], defaults={"value": value, "said": f"{_about(key)}: {settled[key]}"[:300]}
            )


def forget(key: str) -> None:
    """What was always meant, no longer."""
    Meaning.objects.filter(key=key).delete()


def size_of(version: Version) -> Decimal | None:
    """How much the recipe of a version makes, where it says so, and the version is the one that was read."""
    found = Recipe.objects.filter(version=version).values_list("total_g", flat=True)
    return next(iter(found), None)


def _about(key: str) -> str:
    """What a key is about, in words."""
    kind, _, words = key.partition(":")
    return {"name": f"“{words}”", "ounces": "ounces of a liquid", "unit": f"a {words}"}.get(
        kind, words.replace("_", " ")
    )


def _composition(page: RecipePage) -> tuple[Composition, RecipeReading]:
    grams = composition(page.reading) if page.reading else None
    if page.reading is None or grams is None or not grams.lines:
        raise Problem("No line was understood with its amount: nothing can be made of it yet.", "text")
    return with_own_infusions(normalise(grams)), page.reading


def _shares(made: Composition) -> dict[str, Decimal]:
    return {line.key: line.share for line in made.lines}


def _total(reading: RecipeReading) -> Decimal | None:
    """The grams of what comes into the formula, where the recipe has a size."""
    if reading.total_g is None:
        return None
    return Decimal(str(round(sum(line.grams or 0.0 for line in reading.lines if line.is_counted), 6)))


def _note(page: RecipePage, first: str) -> str:
    """Why a version was made: what is not in it, and what is to be said of the whole."""
    gone = page.not_in_it
    told = [first, f"Not in it: {listed(gone)}." if gone else "", *(page.reading.doubts if page.reading else ())]
    note = " ".join(part for part in told if part)
    return note if len(note) <= MOST_NOTE else note[: MOST_NOTE - 1] + "…"


def _ask(recipe: Recipe, reading: RecipeReading, made: Composition) -> None:
    """Keep the open questions of a reading, on the lines of what was made of it."""
    named = {line.ingredient.name: line.key for line in made.lines}
    Question.objects.bulk_create(
        Question(
            recipe=recipe,
            position=n,
            kind=doubt.kind,
            asks=doubt.asks[:400],
            line=line.text[:620],
            line_number=line.number,
            ingredient_key=named.get(line.ingredient.name, line.ingredient.key)
            if line.ingredient and line.grams
            else "",
        )
        for n, (line, doubt) in enumerate(
            (line, doubt) for line in reading.lines if not line.is_out and not line.refused for doubt in line.doubts
        )
    )
