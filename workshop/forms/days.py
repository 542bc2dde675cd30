"""Days in forms: typed in the maker's order, or chosen from a month."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone

from balmcore.days import read_day, weeks
from balmcore.display import spoken
from balmcore.errors import Problem

FIRST_DAY, LAST_DAY = date(2000, 1, 1), date(2099, 12, 31)


class DayInput(forms.DateInput):
    """A text for a day, and a button that opens a month beside it."""

    template_name = "forms/day.html"

    def format_value(self, value: Any) -> str | None:
        """A day in the maker's order; what was typed, as it was typed."""
        return spoken().day_field(value) if isinstance(value, date) else value


class DayField(forms.DateField):
    """A day as :func:`balmcore.days.read_day` reads it."""

    widget = DayInput

    def to_python(self, value: Any) -> date | None:
        """The day, None for nothing."""
        if value in self.empty_values or isinstance(value, date):
            return value or None
        try:
            return read_day(str(value)[:60], spoken().dates)
        except Problem as problem:
            raise ValidationError(problem.sentence) from None


def day_within(day: date | None, where: str = "") -> date | None:
    """A day that a workshop can have. Raises :class:`Problem` for one of another century."""
    if day is not None and not FIRST_DAY <= day <= LAST_DAY:
        raise Problem(f"A day lies between {FIRST_DAY:%Y} and {LAST_DAY:%Y}.", where)
    return day


@dataclass(frozen=True)
class Month:
    """A month to choose a day from: its weeks, the names of their days, and the day chosen so far."""

    first: date
    weeks: tuple[tuple[date, ...], ...]
    chosen: date | None
    today: date

    @property
    def before(self) -> date:
        """The month before it."""
        return (self.first - timedelta(days=1)).replace(day=1)

    @property
    def after(self) -> date:
        """The month after it."""
        return (self.first + timedelta(days=31)).replace(day=1)

    @property
    def weekdays(self) -> tuple[date, ...]:
        """A day for each of its columns."""
        return self.weeks[0]


def month_of(typed: str, asked: str, first_weekday: int) -> Month:
    """The month ``asked`` for as 2026-11, otherwise that of the day typed, otherwise this one. ``typed`` may hold an
    hour behind its day."""
    today = timezone.localdate()
    try:
        chosen = read_day(typed.rpartition(" ")[0] if ":" in typed else typed, spoken().dates)
    except Problem:
        chosen = None
    try:
        first = date.fromisoformat(f"{asked}-01")
    except ValueError:
        first = (chosen or today).replace(day=1)
    first = min(max(first, FIRST_DAY), LAST_DAY.replace(day=1))
    return Month(first, tuple(tuple(week) for week in weeks(first, first_weekday)), chosen, today)
