"""Who may use the workshop besides the computer it runs on: phones that were paired, each a user of its own."""

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils import timezone


class Sharing(models.Model):
    """Whether the workshop is open to the home network, and at which address of this computer; one row."""

    is_on = models.BooleanField(default=False)
    address = models.CharField(max_length=60, blank=True)

    class Meta:
        verbose_name_plural = "sharing"
        constraints = [models.CheckConstraint(condition=Q(pk=1), name="one_row_of_sharing")]

    def __str__(self) -> str:
        return "Open" if self.is_on else "Closed"


class Device(models.Model):
    """A phone: the user it is signed in as, its name, and when it was here last."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="device")
    name = models.CharField(max_length=60)
    is_paired = models.BooleanField(default=False)
    made = models.DateTimeField(default=timezone.now)
    last_seen = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-made",)

    def __str__(self) -> str:
        return self.name
