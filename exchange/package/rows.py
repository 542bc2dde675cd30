"""Rows out of a ZIP, one at a time: each of the table it stands in, and each looked at by its own model."""

import io
import json
import math
import zipfile
from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from typing import Any, TextIO

from django.core import serializers
from django.core.exceptions import FieldDoesNotExist, ValidationError
from django.core.serializers.base import DeserializationError, DeserializedObject
from django.db import models

from balmcore.errors import Problem
from workshop.files import limits
from workshop.models import Preferences
from workshop.services import mend

CHUNK = 64 * 1024
FIRST_YEAR, LAST_YEAR = 1900, 2199
HIGHEST_PK = 2**53
MOST_FLOAT = 1e9
_DECODER = json.JSONDecoder(parse_float=limits.finite, parse_constant=limits.refuse)


def plain_rows(package: zipfile.ZipFile, label: str) -> Iterator[tuple[int, dict[str, Any]]]:
    """The rows of a table as their numbers and fields. Raises :class:`Problem` for one that says anything else, such as
    another table, or a number twice."""
    name, seen = f"tables/{label}.json", set[int]()
    for row in _objects(package, name):
        if not isinstance(row, dict) or set(row) != {"pk", "fields"} or not isinstance(row["fields"], dict):
            raise Problem(f"{name} has a row that is not a number and its fields alone.")
        pk = row["pk"]
        if not _is_number(pk) or pk in seen:
            raise Problem(f"{name} has a row of the number {str(pk)[:20]}, which cannot be, or stands there twice.")
        seen.add(pk)
        try:
            limits.require_plain(row["fields"])
        except Problem as problem:
            raise Problem(f"{name}, row {pk}: {problem.sentence}") from None
        yield pk, row["fields"]


def read_rows(package: zipfile.ZipFile, model: type[models.Model], said: list[str]) -> Iterator[DeserializedObject]:
    """The rows of a table, each looked at by its model; ``said`` takes what was replaced. Raises :class:`Problem` for
    the first that cannot be."""
    label, many = model._meta.label_lower, model._meta.verbose_name_plural
    for pk, fields in plain_rows(package, label):
        try:
            (found,) = serializers.deserialize("python", [{"model": label, "pk": pk, "fields": fields}])
            if isinstance(found.object, Preferences):
                said += mend(found.object)
            check_row(found.object)
            for name, numbers in (found.m2m_data or {}).items():
                if not all(_is_number(getattr(number, "pk", number)) for number in numbers):
                    raise ValidationError({name: "are no numbers of rows."})
        except ValidationError as refusal:
            raise Problem(f"Row {pk} of {many} cannot be ({sentence_of(refusal)}).") from None
        except DeserializationError as refusal:
            raise Problem(f"Row {pk} of {many} cannot be read ({_plainly(refusal)}).") from None
        except (FieldDoesNotExist, ValueError, TypeError, ArithmeticError) as refusal:
            raise Problem(f"Row {pk} of {many} cannot be read ({refusal}).") from None
        yield found


def _plainly(refusal: DeserializationError) -> str:
    """What the framework says of a value, without its brackets."""
    cause = refusal.__cause__ or refusal.__context__
    return " ".join(cause.messages) if isinstance(cause, ValidationError) else str(refusal)


def sentence_of(refusal: ValidationError) -> str:
    """What a model refused, field by field."""
    if not hasattr(refusal, "error_dict"):
        return " ".join(refusal.messages)
    fields = refusal.message_dict.items()
    return "; ".join(f"{name.strip('_').replace('_', ' ')}: {' '.join(texts)}" for name, texts in fields)


def _is_number(pk: object) -> bool:
    return type(pk) is int and 0 < pk <= HIGHEST_PK


def check_row(row: models.Model) -> None:
    """A row by its own model: types, choices, lengths, ranges, and what its columns say together. Rows that it points
    at, and what may stand but once, the database looks at. Raises ``ValidationError``."""
    relations = [field.name for field in row._meta.concrete_fields if field.is_relation]
    row.full_clean(exclude=[*relations, "id"], validate_unique=False, validate_constraints=False)
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if field.is_relation and value is not None and not _is_number(value):
            raise ValidationError({field.name: "is no number of a row."})
        if isinstance(value, date) and not FIRST_YEAR <= value.year <= LAST_YEAR:
            raise ValidationError({field.name: f"the year {value.year} is no year of a workshop."})
        if isinstance(value, float) and not (math.isfinite(value) and abs(value) < MOST_FLOAT):
            raise ValidationError({field.name: "is no number that can be."})
        if isinstance(value, Decimal) and not value.is_finite():
            raise ValidationError({field.name: "is no number that can be."})


def _objects(package: zipfile.ZipFile, name: str) -> Iterator[Any]:
    """The members of a JSON list, read a piece at a time: a table may be larger than what fits into memory."""
    try:
        entry = package.getinfo(name)
    except KeyError:
        raise Problem(f"{name} is not in it.") from None
    if entry.file_size > limits.TABLE_BYTES:
        raise Problem(f"{name} is larger than any table of a workshop.")
    try:
        with package.open(entry) as opened, io.TextIOWrapper(opened, "utf-8") as source:
            yield from _members(source)
    except Problem as problem:
        raise Problem(f"{name}: {problem.sentence}") from None
    except UnicodeDecodeError:
        raise Problem(f"{name} is no text.") from None


class _Text:
    """A JSON text that is read a piece at a time."""

    def __init__(self, source: TextIO) -> None:
        self._source, self._text, self._at = source, "", 0

    def next_sign(self) -> str:
        """The next sign that is no space, still to be taken; nothing at the end."""
        while True:
            while self._at < len(self._text):
                if not (sign := self._text[self._at]).isspace():
                    return sign
                self._at += 1
            self._text, self._at = self._source.read(CHUNK), 0
            if not self._text:
                return ""

    def take(self, *signs: str) -> str:
        """Take the next sign, which is one of these. Raises :class:`Problem` where it is not."""
        if (sign := self.next_sign()) not in signs:
            raise Problem("It is no list of rows, or not the whole of one.")
        self._at += 1
        return sign

    def value(self) -> Any:
        """The value that begins here, with as much of the file as it takes. Raises :class:`Problem`."""
        while True:
            try:
                found, self._at = _DECODER.raw_decode(self._text, self._at)
                return found
            except RecursionError:
                raise Problem(f"A row is nested deeper than {limits.JSON_DEPTH}.") from None
            except ValueError as refusal:
                piece = self._source.read(CHUNK)
                if not piece or len(self._text) - self._at > limits.ROW_BYTES:
                    raise Problem(f"A row cannot be read ({refusal}).") from None
                self._text, self._at = self._text[self._at :] + piece, 0


def _members(source: TextIO) -> Iterator[Any]:
    text = _Text(source)
    text.take("[")
    sign = text.take("]") if text.next_sign() == "]" else ","
    while sign == ",":
        text.next_sign()
        yield text.value()
        sign = text.take(",", "]")
    if text.next_sign():
        raise Problem("It goes on after its end.")
