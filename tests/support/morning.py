"""One morning on which the clock stands, for tests that say days."""

from datetime import UTC, datetime, tzinfo
from typing import Any, Self
from unittest import mock

from django.test import TestCase

NOW = datetime(2026, 3, 27, 9, 30, tzinfo=UTC)


class Morning(datetime):
    """A clock that stands, under all that asks Django for the time."""

    @classmethod
    def now(cls, tz: tzinfo | None = None) -> Self:
        """Half past nine."""
        return cls.fromtimestamp(NOW.timestamp(), UTC).astimezone(tz)


def standing() -> Any:
    """The clock stands while this is entered."""
    return mock.patch("django.utils.timezone.datetime", Morning)


class MorningCase(TestCase):
    """All of a class's tests, and the data they are set up with, are of that morning."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.enterClassContext(standing())
        super().setUpClass()
