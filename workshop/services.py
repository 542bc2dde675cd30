"""The workshop's preferences: read on every request, changed on one screen."""

import secrets

from workshop.models import Preferences


def preferences() -> Preferences:
    """The workshop's preferences; the defaults, unsaved, until they are first changed."""
    return Preferences.objects.filter(pk=1).first() or Preferences(pk=1)


def news_of_pours() -> None:
    """Say that what pours teach is to be worked out anew."""
    Preferences.objects.update_or_create(pk=1, defaults={"pours_said": secrets.randbelow(2**31 - 1) + 1})
