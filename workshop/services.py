"""The workshop's preferences: read on every request, changed on one screen."""

from workshop.models import Preferences


def preferences() -> Preferences:
    """The workshop's preferences; the defaults, unsaved, until they are first changed."""
    return Preferences.objects.filter(pk=1).first() or Preferences(pk=1)
