"""Batches, their later checks and preparations as an iCalendar file (RFC 5545)."""

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta

from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from balmcore.making.method import FOLLOW_UPS
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from batches.forms.schedule import clock_of
from batches.hooks import CalendarDay
from batches.models import Batch
from pantry.models import Preparation
from workshop.models import Preferences

REMIND_MIN = 30


def calendar(
    batches: Iterable[Batch],
    preparations: Iterable[Preparation],
    tables: Tables,
    prefs: Preferences,
    experience: Experience,
    days: Iterable[tuple[CalendarDay, str]] = (),
) -> bytes:
    """A calendar of batches that have a time, each with its steps and the checks that follow it,
    of the days of preparations, and of other ``days`` with the addresses they lead to."""
    made = Calendar()
    made.add("prodid", "-//Calm Tin//Batches//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", "Calm Tin")
    for batch in batches:
        for event in _batch(batch, tables, prefs, experience):
            made.add_component(event)
    for preparation in preparations:
        for event in _preparation(preparation):
            made.add_component(event)
    for day, address in days:
        event = _event(day.uid, day.summary, f"Write it down at {address}")
        event.add("url", address)
        event.add("dtstart", day.day)
        event.add("dtend", day.day + timedelta(days=1))
        made.add_component(event)
    content: bytes = made.to_ical()
    return content


def _event(uid: str, summary: str, text: str) -> Event:
    event = Event()
    event.add("uid", f"{uid}@calm-tin.invalid")
    event.add("dtstamp", datetime.now(UTC))
    event.add("summary", summary)
    if text:
        event.add("description", text)
    return event


def _batch(batch: Batch, tables: Tables, prefs: Preferences, experience: Experience) -> Iterable[Event]:
    if batch.starts_at is None or batch.ready_at is None:
        return
    name = f"{batch.version.formula.name}, batch {batch.pk}"
    # What was weighed may no longer be possible by this method: then the steps are left out.
    _, clock, _ = clock_of(batch, tables, prefs, experience)
    steps = "\n".join(f"{timed.at} {timed.step.title}: {timed.step.text}" for timed in clock.steps) if clock else ""
    event = _event(f"batch-{batch.pk}", f"Make {name}", steps)
    event.add("dtstart", batch.starts_at)
    event.add("dtend", batch.ready_at)
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", f"Make {name}")
    alarm.add("trigger", timedelta(minutes=-REMIND_MIN))
    event.add_component(alarm)
    yield event
    ready = timezone.localdate(batch.ready_at)
    for days, words in FOLLOW_UPS:
        check = _event(
            f"batch-{batch.pk}-check-{days}",
            f"Check {name} after {words}",
            "Firmness, grain, bloom, sweating, sinkholes, scent. Write it down beside the pour.",
        )
        check.add("dtstart", ready + timedelta(days=days))
        check.add("dtend", ready + timedelta(days=days + 1))
        yield check


def _preparation(row: Preparation) -> Iterable[Event]:
    infusion = row.kind == Preparation.Kind.INFUSION
    event = _event(f"preparation-{row.pk}", f"{'Strain' if infusion else 'Render'} {row.name}", row.note)
    event.add("dtstart", row.ready_on)
    event.add("dtend", row.ready_on + timedelta(days=1))
    yield event
    first = row.started_on + timedelta(days=row.shake_every_days)
    if infusion and first < row.ready_on:
        shake = _event(f"preparation-{row.pk}-shake", f"Shake {row.name}", "")
        shake.add("dtstart", first)
        shake.add("dtend", first + timedelta(days=1))
        shake.add("rrule", {"freq": "daily", "interval": row.shake_every_days, "until": row.ready_on})
        yield shake
