"""What was ordered and has not come yet."""

from datetime import date

from django.db import models
from django.db.models import F, Q
from django.utils import timezone

from pantry.models.lots import Lot
from workshop.fields import MassField


class OrderQuerySet(models.QuerySet["Order"]):
    """Orders as pages ask for them."""

    def open(self) -> "OrderQuerySet":
        """What is still to come, the next on top."""
        return self.filter(lot=None, called_off=None).order_by(F("comes_on").asc(nulls_last=True), "pk")


class Order(models.Model):
    """So much of an ingredient in grams, or of a container in pieces, from somebody; ``comes_on`` is empty where nobody
    said when. It became a ``lot``, or was called off, or is still to come."""

    item_key = models.CharField(max_length=60, db_index=True)
    is_container = models.BooleanField(default=False)
    amount = MassField()
    supplier = models.CharField(max_length=120, blank=True)
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    ordered_on = models.DateField(default=timezone.localdate)
    comes_on = models.DateField(null=True, blank=True)
    called_off = models.DateField(null=True, blank=True)
    lot = models.OneToOneField(Lot, on_delete=models.SET_NULL, null=True, blank=True, related_name="order")

    objects = OrderQuerySet.as_manager()

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(condition=Q(amount__gt=0), name="order_above_nothing"),
            models.CheckConstraint(condition=Q(price__isnull=True) | Q(price__gte=0), name="order_price_not_negative"),
            models.CheckConstraint(
                condition=Q(comes_on__isnull=True) | Q(comes_on__gte=F("ordered_on")), name="comes_not_before_ordered"
            ),
        ]

    def __str__(self) -> str:
        return f"Order {self.pk}"

    @property
    def is_late(self) -> bool:
        """True when its day has passed."""
        return self.comes_on is not None and self.comes_on < timezone.localdate()

    def comes_by(self, day: date) -> bool:
        """True when it is said to be here by a day."""
        return self.comes_on is not None and self.comes_on <= day
