"""One morning on which the clock stands, for tests that say days."""

from datetime import UTC, datetime, tzinfo
from typing import Any, Self
from unittest import mock

from django.test import TestCase

MORNING = datetime(2026, 3, 27, 9, 30, tzinfo=UTC)


def standing(at: datetime = MORNING) -> Any:
    """While this is entered the clock stands, under all that asks Django for the time."""

    class Standing(datetime):
        @classmethod
        def now(cls, tz: tzinfo | None = None) -> Self:
            return cls.fromtimestamp(at.timestamp(), UTC).astimezone(tz)

    return mock.patch("django.utils.timezone.datetime", Standing)


class MorningCase(TestCase):
    """All of a class's tests, and the data they are set up with, are of one morning."""

    morning = MORNING

    @classmethod
    def setUpClass(cls) -> None:
        cls.enterClassContext(standing(cls.morning))
        super().setUpClass()
