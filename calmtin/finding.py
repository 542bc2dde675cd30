"""One search for the house: batches by number, formulas, lots, people, ingredients, and what was noted."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.db.models import Q
from django.urls import reverse

from balmcore.display import day_words
from balmcore.tables import Tables
from batches.models import Batch
from formulas.models import Formula, Version
from pantry.models import Lot
from pantry.queries import containers, name_of
from pieces.models import Person
from pours.models import Pour
from workshop.words import all_in

MOST_WORDS, MOST_HITS, AROUND = 6, 8, 40
_NUMBERED = re.compile(r"(batch|lot|pour)?\s*(?:no\.?|nr\.?|#)?\s*(\d{1,9})", re.IGNORECASE)


@dataclass(frozen=True)
class Hit:
    """One thing found: what it is called, what is said of it, and where it is."""

    name: str
    told: str
    address: str


@dataclass(frozen=True)
class Group:
    """Hits of one sort; ``more`` are those that are not listed."""

    name: str
    hits: tuple[Hit, ...]
    more: int = 0


def find(text: str, tables: Tables) -> list[Group]:
    """Everything that a number names, or that holds every word. A fixed number of queries."""
    plain = " ".join(text.split())[:120]
    if not plain:
        return []
    number = _NUMBERED.fullmatch(plain)
    found = _by_number(number[1] or "", int(number[2]), tables) if number else []
    words = plain.split()[:MOST_WORDS]
    found += [_group(name, how(words, tables)) for name, how in _SORTS if not number or name == "Lots"]
    return [group for group in found if group.hits]


def _group(name: str, hits: Iterable[Hit]) -> Group:
    listed = list(hits)
    return Group(name, tuple(listed[:MOST_HITS]), max(len(listed) - MOST_HITS, 0))


def _by_number(sort: str, number: int, tables: Tables) -> list[Group]:
    """A batch with its pours, labels and people; a lot; a pour: by their numbers."""
    found = []
    if sort.lower() in ("", "batch"):
        batch = Batch.objects.select_related("version__formula").filter(pk=number).first()
        found += _of_batch(batch) if batch else []
    if sort.lower() in ("", "lot") and (lot := Lot.objects.filter(pk=number).first()):
        found.append(_group("Lot of that number", [_lot(lot, tables)]))
    if sort.lower() == "pour" and (
        pour := Pour.objects.select_related("batch__version__formula").filter(pk=number).first()
    ):
        found.append(_group("Pours", [_pour(pour)]))
    return found


def _of_batch(batch: Batch) -> list[Group]:
    pours = list(Pour.objects.filter(batch=batch).select_related("batch__version__formula", "finish"))
    people = Person.objects.filter(handouts__pour__in=pours).distinct()
    labels = [Hit(f"Label of {_called(pour)}", "to print", reverse("labels:label", args=[pour.pk])) for pour in pours]
    return [
        _group("Batches", [_batch(batch)]),
        _group("Pours", [_pour(pour) for pour in pours]),
        _group("Labels", labels),
        _group("People who have pieces of it", [_person(person) for person in people]),
    ]


def _batch(batch: Batch) -> Hit:
    when = f", {day_words(batch.starts_at.date())}" if batch.starts_at else ""
    told = f"batch {batch.pk}, {batch.get_state_display().lower()}{when}"
    return Hit(str(batch.version), told, batch.get_absolute_url())


def _called(pour: Pour) -> str:
    return f"{pour.batch.version}{f', {pour.finish}' if pour.finish else ''}"


def _pour(pour: Pour) -> Hit:
    return Hit(_called(pour), f"batch {pour.batch_id}, poured {day_words(pour.poured_on)}", pour.get_absolute_url())


def _lot(lot: Lot, tables: Tables) -> Hit:
    told = ", ".join(part for part in (str(lot), lot.supplier, lot.get_state_display().lower()) if part)
    return Hit(name_of(lot.item_key, tables), told, reverse("pantry:lot", args=[lot.pk]))


def _person(person: Person) -> Hit:
    return Hit(person.name, person.contact, reverse("pieces:person", args=[person.pk]))


def _formulas(words: list[str], tables: Tables) -> list[Hit]:
    found = Formula.objects.filter(all_in(" ".join(words), "name"))[: 4 * MOST_HITS]
    return [
        Hit(
            formula.name,
            f"{formula.to_kind(tables).name.lower()}{', put away' if formula.put_away else ''}",
            formula.get_absolute_url(),
        )
        for formula in found
    ]


def _lots(words: list[str], tables: Tables) -> list[Hit]:
    names = {key: item.name for key, item in tables.ingredients.items()}
    names |= {key: each.name for key, each in containers().items()}
    keys = [key for key, name in names.items() if _holds(name, words)]
    written = all_in(" ".join(words), "supplier", "code")
    found = Lot.objects.filter(written | Q(item_key__in=keys, left__gt=0)).order_by("-left", "-pk")[: 4 * MOST_HITS]
    return [_lot(lot, tables) for lot in found]


def _people(words: list[str], tables: Tables) -> list[Hit]:
    return [
        _person(person) for person in Person.objects.filter(all_in(" ".join(words), "name", "contact"))[: 4 * MOST_HITS]
    ]


def _ingredients(words: list[str], tables: Tables) -> list[Hit]:
    return [
        Hit(item.name, item.inci, reverse("pantry:ingredient", args=[item.key]))
        for item in tables.ingredients.values()
        if item.key != "aroma" and _holds(f"{item.name} {item.inci}", words)
    ]


def _holds(text: str, words: list[str]) -> bool:
    return all(word.lower() in text.lower() for word in words)


def _notes(words: list[str], tables: Tables) -> list[Hit]:
    pours = Pour.objects.filter(all_in(" ".join(words), "notes")).select_related("batch__version__formula", "finish")
    versions = Version.objects.filter(all_in(" ".join(words), "note")).select_related("formula")
    found = [
        Hit(_called(pour), _around(pour.notes, words[0]), pour.get_absolute_url()) for pour in pours[: 2 * MOST_HITS]
    ]
    return found + [
        Hit(
            str(version),
            _around(version.note, words[0]),
            f"{version.formula.get_absolute_url()}?version={version.number}",
        )
        for version in versions[: 2 * MOST_HITS]
    ]


def _around(text: str, word: str) -> str:
    """A note as far as it is about a word."""
    at = max(text.lower().find(word.lower()), 0)
    start, end = max(at - AROUND, 0), at + len(word) + AROUND
    return f"{'…' if start else ''}{text[start:end].strip()}{'…' if end < len(text) else ''}"


_SORTS: tuple[tuple[str, Callable[[list[str], Tables], list[Hit]]], ...] = (
    ("Formulas", _formulas),
    ("People", _people),
    ("Lots", _lots),
    ("Ingredients", _ingredients),
    ("Notes", _notes),
)
