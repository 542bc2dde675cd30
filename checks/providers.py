"""What pages of the apps below show of looking at pours."""

from django.urls import reverse
from django.utils import timezone

from batches.hooks import CalendarDay, calendar_days
from formulas.hooks import ways_in
from pours.hooks import look_address, parts_of_pour
from pours.models import FollowUp, Pour

MOST_DAYS = 400


@calendar_days.register
def days_to_look() -> list[CalendarDay]:
    """The days on which pours are to be looked at again."""
    rows = FollowUp.objects.asked(timezone.localdate()).select_related("pour__batch__version__formula", "pour__finish")
    found = []
    for row in rows[:MOST_DAYS]:
        name = row.pour.title
        address = f"{reverse('checks:check', args=[row.pour_id])}?follow_up={row.pk}"
        found.append(CalendarDay(f"follow-up-{row.pk}", f"Look at {name} after {row.words}", row.due_on, address))
    return found


@look_address.register
def address(pour: Pour) -> str:
    """Where a pour is looked at again."""
    return reverse("checks:check", args=[pour.pk])


@parts_of_pour.register
def looked_at() -> str:
    """What was seen of a pour, pressed, smelled and worn."""
    return "checks/_checks.html"


@ways_in.register
def notebook() -> tuple[str, str]:
    """A table of past work, with its pours and tests."""
    return "Bring your notebook", reverse("checks:notebook")
