"""What pages of the apps below show of labels."""

from django.urls import reverse

from pours.models import Pour
from pours.points import ways_of_pour


@ways_of_pour.register
def label(pour: Pour) -> tuple[str, str]:
    """The labels of a pour."""
    return "Labels", reverse("labels:label", args=[pour.pk])
