"""What can be done with an order: write it down, let it come, call it off; and what is on order of something."""

from collections.abc import Iterable, Sequence
from datetime import date
from decimal import Decimal

from django.utils import timezone

from balmcore.display import near_day_words
from balmcore.errors import Problem
from pantry.models import Lot, Order


def on_order(keys: Iterable[str]) -> dict[str, list[Order]]:
    """What is still to come of some items, by key, the next on top."""
    found: dict[str, list[Order]] = {}
    for order in Order.objects.open().filter(item_key__in=set(keys)):
        found.setdefault(order.item_key, []).append(order)
    return found


def ordered(orders: Sequence[Order]) -> Decimal:
    """How much of it comes in all."""
    return sum((order.amount for order in orders), Decimal(0))


def coming_words(orders: Sequence[Order], by: date | None = None) -> str:
    """When it comes, in words: ``comes Friday 4 December``; that it is late, or comes after the day ``by`` which it is
    needed."""
    days = [order.comes_on for order in orders if order.comes_on]
    if len(days) < len(orders):
        return "no day said"
    last = max(days)
    if any(order.is_late for order in orders):
        return f"should have come {near_day_words(min(days))}"
    told = f"comes {last:%A} {near_day_words(last)}"
    return f"{told}, after it is needed" if by is not None and last > by else told


def arrived(number: int | None, lot: Lot) -> Decimal:
    """Let a lot be what an order became. Of an order of more the rest stays on order: returns how much that is, nothing
    where all of it came, or where no such order is open."""
    order = Order.objects.open().filter(pk=number or 0, item_key=lot.item_key).first()
    if order is None:
        return Decimal(0)
    rest = max(order.amount - lot.received, Decimal(0))
    if rest:
        order.amount = rest
        order.save(update_fields=("amount",))
    else:
        order.lot = lot
        order.save(update_fields=("lot",))
    return rest


def call_off(order: Order) -> None:
    """It does not come any more. Raises :class:`Problem` for one that came, or was called off already."""
    if not Order.objects.open().filter(pk=order.pk).update(called_off=timezone.localdate()):
        raise Problem("It has come, or was called off already.")
