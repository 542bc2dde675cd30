"""Rows of another workshop beside what is here: nothing of ours is written over, and what stays as it was is said.

A row that is here already, by all that it says, is left alone. One made at the same moment that says something else is
the same thing, changed on one side: ours stays. Everything else comes in new, by its own number where that is free, and
whatever names it (a key, a slot of the bench, a look's address) follows. Names that are taken get a word behind them.
"""

import json
import re
from collections import defaultdict
from collections.abc import Callable, Iterable
from copy import copy
from decimal import Decimal
from typing import Any
from urllib.parse import parse_qsl, urlencode

from django.core.serializers.base import DeserializedObject
from django.db import models

from balmcore.errors import Problem
from balmcore.wording import as_sentence
from batches.models import Batch, BatchAround, BatchContainer, BatchFinish, BatchLine
from bench.models import BenchRun, Event
from formulas.models import Formula, Line, Meaning, Question, Recipe, Version
from labels.models import LabelText, Maker
from learning.models import LadderCup
from pantry.models import Entry, Leftover, LeftoverLine, Lot, OwnContainer, OwnIngredient
from pours.models import Pour, PouredPiece, SavedFilter
from workshop.models import OwnKind, Preferences

PARTS = (
    Line,
    LeftoverLine,
    BatchLine,
    BatchContainer,
    BatchAround,
    BatchFinish,
    PouredPiece,
    LadderCup,
    Question,
)  # never without their whole
BROUGHT = " (brought)"
OURS = (Preferences, Maker)  # one row each, and ours where there is one
KEYS: dict[str, type[models.Model]] = {
    "own-ingredient": OwnIngredient,
    "leftover": Leftover,
    "own-kind": OwnKind,
    "own": OwnContainer,
}
_KEY = re.compile(r"\b(own-ingredient|leftover|own-kind|own)-(\d+)\b")
_SLOT = re.compile(r"(base|[a-z][\w-]*)\.(\d+)")
MOST_SAID = 40
Row = models.Model

Signature = tuple[object, ...]


class MergePlan:
    """One merging: tables are brought in the order in which they point at each other, then finished."""

    def __init__(self, named: Callable[[Row], Row] = lambda row: row) -> None:
        self.counts: dict[str, int] = {}
        self._named = named  # a row by the name that its photograph has here
        self.already = 0
        self.said: list[str] = []
        self._here: dict[tuple[type[Row], int], int] = {}  # the number there, and here
        self._later: list[tuple[Row, str, int]] = []  # what points at a row of its own table
        self._extra: defaultdict[int, Decimal] = defaultdict(Decimal)  # what new entries add to lots that were here
        self._new: set[tuple[type[Row], int]] = set()
        self._batches: dict[int, int] = {}  # the number here, and there

    def bring(self, model: type[Row], rows: Iterable[DeserializedObject]) -> None:
        """Bring the rows of a table."""
        known = _Known(model)
        self.counts[model._meta.label_lower] = 0
        for found in rows:
            there, row = found.object.pk, found.object
            if model in OURS and known.by_number:
                here = next(iter(known.by_number))
            else:
                self._follow(row, found.m2m_data or {})
                here = self._settle(model, row, found.m2m_data or {}, known)
            self._here[model, there] = here
            if model is Batch:
                self._batches[here] = there

    def finish(self) -> None:
        """Set what points at its own table, and what lots hold now. Raises :class:`Problem` for a lot that would hold
        less than nothing."""
        for row, name, there in self._later:
            here = self._here.get((type(row), there))
            type(row)._base_manager.filter(pk=row.pk).update(**{name: here})
        for pk, amount in self._extra.items():
            lot = Lot.objects.get(pk=pk)
            if lot.left + amount < 0:
                raise Problem(
                    f"{as_sentence(str(lot))} was used up here and there: together more went out of it than came in. "
                    "Nothing was brought; put the lot right on one side first."
                )
            Lot.objects.filter(pk=pk).update(left=lot.left + amount)
        if len(self.said) > MOST_SAID:
            self.said[MOST_SAID:] = [f"And {len(self.said) - MOST_SAID} more of the kind."]

    def _follow(self, row: Row, many: dict[str, Any]) -> None:
        """Let everything in a row that names another one name that as it is here."""
        for field in row._meta.concrete_fields:
            value = getattr(row, field.attname)
            if isinstance(field, models.ForeignKey):
                self._follow_relation(row, field, value)
            elif field.name == "slot" or field.name.endswith("_key"):
                setattr(row, field.attname, self._words(value))
        for name, numbers in many.items():
            model = row._meta.get_field(name).related_model
            assert isinstance(model, type)
            many[name] = [self._is_here(model, int(getattr(each, "pk", each)), row) for each in numbers]
        if isinstance(row, Event):
            row.data = self._data(row.data)
        if isinstance(row, SavedFilter):
            row.query = self._query(row.query)

    def _follow_relation(self, row: Row, field: "models.ForeignKey[Any, Any]", value: int | None) -> None:
        if value is None:
            return
        if field.related_model is type(row):
            self._later.append((row, field.attname, value))
            setattr(row, field.attname, None)
        else:
            setattr(row, field.attname, self._is_here(field.related_model, value, row))

    def _is_here(self, model: type[Row], there: int, row: Row) -> int:
        """The number here of a row there. Raises :class:`Problem` where the file does not have it."""
        if (here := self._here.get((model, there))) is None:
            raise Problem(
                f"Row {row.pk} of {row._meta.verbose_name_plural} points at {model._meta.verbose_name} {there}, "
                "which is not in the file."
            )
        return here

    def _words(self, text: str) -> str:
        """A key, or a slot of a key and a finish, as it is here."""
        text = _KEY.sub(lambda found: f"{found[1]}-{self._here.get((KEYS[found[1]], int(found[2])), found[2])}", text)
        if slot := _SLOT.fullmatch(text):
            return f"{slot[1]}.{self._here.get((BatchFinish, int(slot[2])), slot[2])}"
        return text

    def _data(self, value: Any, name: str = "") -> Any:
        """What an event holds, with its slots and finishes as they are here."""
        if isinstance(value, dict):
            return {self._words(key): self._data(each, key) for key, each in value.items()}
        if isinstance(value, list):
            return [self._data(each) for each in value]
        if name == "finish" and isinstance(value, str) and value.isdigit():
            return str(self._here.get((BatchFinish, int(value)), value))
        return self._words(value) if isinstance(value, str) else value

    def _query(self, query: str) -> str:
        """A look's address, with its formula and ingredients as they are here."""
        pairs = parse_qsl(query.removeprefix("?"), keep_blank_values=True)
        moved = [
            (name, str(self._here.get((Formula, int(value)), value)))
            if name == "formula" and value.isdigit()
            else (name, self._words(value))
            for name, value in pairs
        ]
        return query if moved == pairs else urlencode(moved)

    def _settle(self, model: type[Row], row: Row, many: dict[str, Any], known: "_Known") -> int:
        """The number of a row here: of the one that is here already, or of a new one."""
        if isinstance(row, Pour):
            self._tell_number(row)
        here = self._found(row, known)
        if here is not None:
            self._later = [each for each in self._later if each[0] is not row]
            return here
        if isinstance(row, PARTS) and not self._is_of_new(row):
            return int(row.pk)  # its whole is here already, and stays as it is
        return self._insert(model, row, many, known)

    def _found(self, row: Row, known: "_Known") -> int | None:
        """The number of the row that is here already, the same or changed on one side; None for a new one."""
        for variant in (*_variants(row), self._named(copy(row))):
            if (pk := known.same(variant)) is not None:
                self.already += 1
                return pk
        if isinstance(row, PARTS) or (pk := known.changed(row)) is None:
            return None
        if isinstance(row, Batch) or (isinstance(row, BenchRun) and not row.is_rehearsal):
            batch = pk if isinstance(row, Batch) else row.batch_id
            raise Problem(
                f"Batch {batch} went on here and there, and both cannot stand beside each other. Nothing was brought: "
                "call it off on one side, or bring the export into an empty workshop."
            )
        if differs := known.differences(row, pk):
            self.said.append(f"{_named(row)} differs here in {', '.join(differs)}: yours stays.")
        return pk

    def _insert(self, model: type[Row], row: Row, many: dict[str, Any], known: "_Known") -> int:
        """Store a row that is new here, by its own number where that is free."""
        number = row.pk
        self._named(row)
        self._make_room(row)
        row.pk = None if number in known.by_number else number
        row.save_base(raw=True, force_insert=True)
        known.took(row)
        for name, numbers in many.items():
            getattr(row, name).set(numbers)
        if isinstance(row, Batch) and row.pk != number:
            self.said.append(f"Batch {number} there is batch {row.pk} here; its pours say so in their notes.")
        if isinstance(row, Lot) and row.pk != number:
            self.said.append(f"Lot {number} there is lot {row.pk} here.")
        if isinstance(row, Entry) and (Lot, row.lot_id) not in self._new:
            self._extra[row.lot_id] += row.amount
        self._new.add((model, row.pk))
        self.counts[model._meta.label_lower] += 1
        return int(row.pk)

    def _is_of_new(self, row: Row) -> bool:
        """True where what a row is a part of came in just now."""
        return any(
            (field.related_model, getattr(row, field.attname)) in self._new
            for field in row._meta.concrete_fields
            if isinstance(field, models.ForeignKey) and not field.null
        )

    def _tell_number(self, pour: Pour) -> None:
        """Labels on tins say the number that the batch had: its pour says both."""
        there = self._batches.get(pour.batch_id, pour.batch_id)
        if there != pour.batch_id:
            pour.notes = f"{pour.notes}\nBatch {there} in the workshop it came from.".strip()

    def _make_room(self, row: Row) -> None:
        """Give a name or a number that is taken here another one."""
        names = [f.name for f in row._meta.concrete_fields if f.unique and isinstance(f, models.CharField)]
        if isinstance(row, OwnKind) and row.name:
            names.append("name")
        for name in names:
            if type(row)._base_manager.filter(**{name: getattr(row, name)}).exists():
                taken = _named(row)
                setattr(row, name, f"{getattr(row, name)}{BROUGHT}")
                self.said.append(f"There is another {taken} here: it comes as {row}.")
        if isinstance(row, Version):
            others = Version.objects.filter(formula=row.formula_id)
            if others.filter(number=row.number).exists():
                highest = others.order_by("-number").values_list("number", flat=True)[0]
                self.said.append(f"Version {row.number} of {row.formula.name} there is version {highest + 1} here.")
                row.number = highest + 1
            row.is_current = row.is_current and not others.filter(is_current=True).exists()


class _Known:
    """The rows of a table here, found by all that they say, and by when they were made."""

    def __init__(self, model: type[Row]) -> None:
        self.by_number: dict[int, Row] = {row.pk: row for row in model._base_manager.all()}
        stamps = [f for f in model._meta.concrete_fields if isinstance(f, models.DateTimeField)]
        self._stamp = next((f for f in stamps if f.name in ("created", "at", "begun")), None)
        self._said: dict[Signature, list[int]] = {}
        self._made: dict[Signature, list[int]] = {}
        self._alone: dict[Signature, int] = {}
        self._used: set[int] = set()
        for row in self.by_number.values():
            self._said.setdefault(_signature(row), []).append(row.pk)
            if self._stamp:
                self._made.setdefault(self._moment(row), []).append(row.pk)
            if only := _only(row):
                self._alone[only] = row.pk

    def same(self, row: Row) -> int | None:
        """The one that says just the same, each once."""
        free = [pk for pk in self._said.get(_signature(row), ()) if pk not in self._used]
        self._used.update(free[:1])
        return free[0] if free else None

    def changed(self, row: Row) -> int | None:
        """The one that was made at the same moment, or that stands where only one can."""
        if self._stamp:
            free = [pk for pk in self._made.get(self._moment(row), ()) if pk not in self._used]
            if len(free) == 1:
                self._used.add(free[0])
                return free[0]
        only = _only(row)
        return None if only is None else self._alone.get(only)

    def differences(self, row: Row, pk: int) -> list[str]:
        """The columns in which a row differs from ours."""
        ours = self.by_number[pk]
        return [
            field.name.replace("_", " ")
            for field in row._meta.concrete_fields
            if not field.primary_key
            and field.related_model is not type(row)
            and _plain(getattr(row, field.attname)) != _plain(getattr(ours, field.attname))
        ]

    def took(self, row: Row) -> None:
        """A row that came in: its number is taken."""
        self.by_number[row.pk] = row
        self._used.add(row.pk)

    def _moment(self, row: Row) -> Signature:
        assert self._stamp is not None
        parents = [
            getattr(row, field.attname)
            for field in row._meta.concrete_fields
            if isinstance(field, models.ForeignKey) and field.related_model is not type(row) and not field.null
        ]
        return getattr(row, self._stamp.attname), *parents


def _only(row: Row) -> Signature | None:
    """Where only one such row can stand: the window of a shipped kind, the label's words and the recipe of a formula,
    what its maker always means by a word."""
    if isinstance(row, OwnKind) and not row.name:
        return ("window", row.like_key)
    if isinstance(row, LabelText):
        return ("text", row.formula_id)
    if isinstance(row, Recipe):
        return ("recipe", row.formula_id)
    if isinstance(row, Meaning):
        return ("meaning", row.key)
    unique = [c for c in row._meta.constraints if isinstance(c, models.UniqueConstraint) and c.condition is None]
    if unique and not isinstance(row, Version):
        return tuple(getattr(row, name) for name in unique[0].fields)
    return None


def _variants(row: Row) -> Iterable[Row]:
    """A row as it is, and as it was brought before, when its name was taken."""
    yield row
    for field in row._meta.concrete_fields:
        if field.unique and isinstance(field, models.CharField) and field.name == "name":
            other = type(row)(**{each.attname: getattr(row, each.attname) for each in row._meta.concrete_fields})
            setattr(other, field.attname, f"{getattr(row, field.attname)}{BROUGHT}")
            yield other


def _signature(row: Row) -> Signature:
    """All that a row says, its own number and those of its own table left out."""
    return tuple(
        _plain(getattr(row, field.attname))
        for field in row._meta.concrete_fields
        if not field.primary_key and field.related_model is not type(row)
    )


def _plain(value: object) -> object:
    return json.dumps(value, sort_keys=True) if isinstance(value, dict | list) else value


def _named(row: Row) -> str:
    return f"{row._meta.verbose_name} {row}"[:80]
