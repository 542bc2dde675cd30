"""Days as people write them, read by the order that their writer keeps; and weeks by the day that begins them."""

import re
from collections.abc import Iterator
from datetime import date, timedelta

from balmcore.display import DAY_FIRST, MONTH_FIRST, YEAR_FIRST, spoken
from balmcore.errors import Problem

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_PART = re.compile(r"[0-9]+|[^\W\d_]+")
_ORDERS = {DAY_FIRST: "dmy", MONTH_FIRST: "mdy", YEAR_FIRST: "ymd"}
# Days that show an order: neither of their figures could be the other's.
_EXAMPLE = date(2026, 5, 31)


def read_day(text: str, order: str = DAY_FIRST, where: str = "") -> date | None:
    """The day typed, None for nothing. Four digits first are the year, a month may be a word; other figures stand in
    the ``order`` of their writer, and a day and a month that only fit the other way round are taken so. Raises
    :class:`Problem` for what is no day.

    >>> [str(read_day(text)) for text in ("31/5/2026", "31.5.26", "2026-05-31", "31 May 2026", "May 31, 2026")]
    ['2026-05-31', '2026-05-31', '2026-05-31', '2026-05-31', '2026-05-31']
    >>> str(read_day("5/6/2026", "month")), str(read_day("5/6/2026", "day"))
    ('2026-05-06', '2026-06-05')
    """
    plain = " ".join(text.split())
    if not plain:
        return None
    parts = _PART.findall(plain)
    try:
        year, month, day = _placed(parts, order)
        return date(year if year > 99 else 2000 + year, month, day)
    except (ValueError, KeyError):
        examples = f"{spoken().day_field(_EXAMPLE)} or {spoken().day(_EXAMPLE)}"
        raise Problem(f"“{plain[:40]}” is no day: write it like {examples}.", where) from None


def _placed(parts: list[str], order: str) -> tuple[int, int, int]:
    """Year, month and day of three parts. Raises ``ValueError`` where they are none."""
    if len(parts) != 3:
        raise ValueError("three parts make a day")
    words = [n for n, part in enumerate(parts) if part.isalpha()]
    if words:
        (at,) = words
        month = MONTHS.index(parts[at][:3].lower()) + 1
        if len(parts[at]) < 3:
            raise ValueError("too short for a month")
        first, last = (int(part) for n, part in enumerate(parts) if n != at)
        return (first, month, last) if at and len(parts[0]) == 4 else (last, month, first)
    if len(parts[0]) == 4:
        order = YEAR_FIRST
    said = dict(zip(_ORDERS[order], (int(part) for part in parts), strict=True))
    if said["m"] > 12 >= said["d"] and order != YEAR_FIRST:
        said["m"], said["d"] = said["d"], said["m"]
    return said["y"], said["m"], said["d"]


def weeks(month: date, first_weekday: int) -> Iterator[list[date]]:
    """The weeks that touch a month, each of seven days from ``first_weekday`` on (0 is Monday).

    >>> [[week[0].day, week[-1].day] for week in weeks(date(2026, 11, 1), 6)]
    [[1, 7], [8, 14], [15, 21], [22, 28], [29, 5]]
    """
    day = month.replace(day=1)
    day -= timedelta(days=(day.weekday() - first_weekday) % 7)
    while (day.year, day.month) <= (month.year, month.month):
        yield [day + timedelta(days=n) for n in range(7)]
        day += timedelta(days=7)
