"""Days and times as a maker writes them, on a clock that jumps twice a year."""

import re
from datetime import UTC, datetime, time, timedelta

from django.utils import timezone

from balmcore.days import read_day
from balmcore.display import near_day_words, spoken
from balmcore.errors import Problem

FURTHEST_DAYS = 730


def parse_datetime(text: str, now: datetime) -> tuple[datetime, str]:
    """The moment meant by a local day and time, and a word on it where the clock is not plain.

    Raises :class:`Problem` for what is no time, for one passed, and for one that the change to
    summer time leaves out.
    """
    local = _local(text)
    zone = timezone.get_current_timezone()
    first, second = (local.replace(tzinfo=zone, fold=fold) for fold in (0, 1))
    found = first.astimezone(UTC)
    if found.astimezone(zone).replace(tzinfo=None) != local:
        before, after = (moment.astimezone(UTC).astimezone(zone) for moment in (second, first))
        raise Problem(
            f"There is no {local:%H:%M} in that night: the clocks go forward. Choose {before:%H:%M} or {after:%H:%M}.",
            "moment",
        )
    if found < now - timedelta(minutes=1):
        raise Problem(f"{format_datetime(found)} has passed: choose a time from now on.", "moment")
    if found > now + timedelta(days=FURTHEST_DAYS):
        raise Problem("That is more than two years away: check the year.", "moment")
    twice = first.utcoffset() != second.utcoffset()
    return found, f"The clocks go back that night and {local:%H:%M} comes twice: the first is meant." if twice else ""


def _local(text: str) -> datetime:
    """The day and the time typed, on the wall's clock."""
    day, _, hour = text.strip().replace("T", " ").rpartition(" ")
    found = re.fullmatch(r"(\d{1,2})[:.h](\d{2})", hour, re.ASCII)
    if not day or found is None or int(found[1]) > 23 or int(found[2]) > 59:
        raise Problem(f"Write day and time like {spoken().day_field(timezone.localdate())} 12:00.", "moment")
    on = read_day(day, spoken().dates, "moment")
    assert on is not None
    return datetime.combine(on, time(int(found[1]), int(found[2])))


def format_datetime(when: datetime) -> str:
    """``Saturday 28 November, 12:00`` where the workshop is."""
    local = timezone.localtime(when)
    return f"{local:%A} {near_day_words(local)}, {local:%H:%M}"


def datetime_field(when: datetime) -> str:
    """A moment as a field for day and time holds it."""
    return f"{spoken().day_field(timezone.localtime(when))} {format_time(when)}"


def format_time(when: datetime) -> str:
    """``12:05``."""
    return f"{timezone.localtime(when):%H:%M}"
