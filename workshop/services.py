"""The workshop's preferences: read on every request, changed on one screen."""

import secrets
from functools import lru_cache
from typing import Any

from django.core.exceptions import ValidationError
from django.db import connection

from workshop.models import Preferences

ROOMS = ("cool_room_c", "warm_room_c", "hot_pocket_c")


def preferences() -> Preferences:
    """The workshop's preferences; the defaults, unsaved, until they are first changed. What of them cannot be is as
    usual instead, and named in ``replaced``."""
    try:
        found = Preferences.objects.filter(pk=1).first() or Preferences(pk=1)
    except (TypeError, ValueError, ArithmeticError):  # a column holds what it should not, and Django cannot read it
        found = _as_stored()
    if not _is_usable(tuple(getattr(found, field.attname) for field in Preferences._meta.concrete_fields)):
        found.replaced = mend(found)
    return found


@lru_cache(maxsize=4)
def _is_usable(values: tuple[Any, ...]) -> bool:
    """Looked at once as long as they stay the same: every request asks."""
    names = (field.attname for field in Preferences._meta.concrete_fields)
    return not mend(Preferences(**dict(zip(names, values, strict=True))))


def _as_stored() -> Preferences:
    fields = Preferences._meta.concrete_fields
    sql, parameters = Preferences.objects.values_list(*(f.attname for f in fields)).query.sql_with_params()
    found = Preferences()
    with connection.cursor() as cursor:
        cursor.execute(sql, parameters)
        for field, value in zip(fields, cursor.fetchone(), strict=True):
            try:
                value = field.from_db_value(value, None, connection) if hasattr(field, "from_db_value") else value
            except ArithmeticError:
                value = str(value)
            setattr(found, field.attname, value)
    return found


def mend(row: Preferences) -> tuple[str, ...]:
    """Put what is usual in the place of what cannot be; returns the names of what was replaced."""
    replaced: list[str] = []
    for look in (row.clean_fields, row.clean, row.clean):
        try:
            look()
        except ValidationError as refusal:
            names = set(refusal.error_dict)
            for name in names | (set(ROOMS) if names & set(ROOMS) else set()):
                field: Any = Preferences._meta.get_field(name)
                setattr(row, name, field.get_default())
                replaced.append(str(field.verbose_name))
    return tuple(sorted(set(replaced)))


def bump_records_revision() -> None:
    """Say that what pours teach is to be worked out anew: whoever keeps something of it keeps it with this number."""
    fresh = secrets.randbelow(2**31 - 1) + 1
    if not Preferences.objects.filter(pk=1).update(records_revision=fresh):
        Preferences.objects.create(pk=1, records_revision=fresh)
