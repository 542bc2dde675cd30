"""What pages of the apps below show of labels."""

from django.urls import reverse

from pours.hooks import ways_of_pour
from pours.models import Pour


@ways_of_pour.register
def label(pour: Pour) -> tuple[str, str]:
    """The labels of a pour."""
    return "Labels", reverse("labels:label", args=[pour.pk])
