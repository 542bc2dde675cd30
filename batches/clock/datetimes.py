"""Days and times as a maker writes them, on a clock that jumps twice a year."""

from datetime import UTC, datetime, timedelta

from django.utils import timezone

from balmcore.errors import Problem

FURTHEST_DAYS = 730


def parse_datetime(text: str, now: datetime) -> tuple[datetime, str]:
    """The moment meant by a local day and time, and a word on it where the clock is not plain.

    Raises :class:`Problem` for what is no time, for one passed, and for one that the change to
    summer time leaves out.
    """
    try:
        local = datetime.fromisoformat(text.strip())
    except ValueError:
        raise Problem("Write day and time like 2026-11-28 12:00.", "moment") from None
    if local.tzinfo is not None or len(text.strip()) < len("2026-11-28T12"):
        raise Problem("Write day and time like 2026-11-28 12:00.", "moment")
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


def format_datetime(when: datetime) -> str:
    """``Saturday 28 November, 12:00`` where the workshop is."""
    return f"{timezone.localtime(when):%A %-d %B, %H:%M}"


def datetime_field(when: datetime) -> str:
    """A moment as a field for day and time holds it."""
    return f"{timezone.localtime(when):%Y-%m-%dT%H:%M}"


def format_time(when: datetime) -> str:
    """``12:05``."""
    return f"{timezone.localtime(when):%H:%M}"
