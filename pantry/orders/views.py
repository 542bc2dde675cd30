"""The page of what is on order."""

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from pantry import queries
from pantry.forms import OrderForm
from pantry.models import Order
from pantry.orders import services
from workshop.web import Fields, Request


def orders(request: Request) -> HttpResponse:
    """What is still to come, and a form to write an order down."""
    asked, containers_by_key = Fields(request.GET), queries.containers()
    form = OrderForm(
        request.POST or None,
        prefs=request.prefs,
        tables=request.tables,
        containers_by_key=containers_by_key,
        initial={name: asked.text(name) for name in ("item", "amount") if asked.text(name)},
    )
    if request.method == "POST" and form.is_valid():
        order = form.order()
        order.save()
        name = queries.name_of(order.item_key, request.tables, containers_by_key)
        messages.success(request, f"{name} is on order.")
        return redirect("pantry:orders")
    rows = [
        (order, queries.name_of(order.item_key, request.tables, containers_by_key), _receive(order))
        for order in Order.objects.open()
    ]
    context = {"form": form, "rows": rows, "suppliers": queries.suppliers()}
    return render(request, "pantry/orders.html", context, status=400 if form.errors else 200)


def _receive(order: Order) -> str:
    """Where it is written down when it has come, with what is known of it."""
    amount = f"{order.amount.normalize():f}{'' if order.is_container else ' g'}"
    known = {"item": order.item_key, "amount": amount, "supplier": order.supplier, "order": order.pk}
    if order.price is not None:
        known["price"] = f"{order.price}"
    return f"{reverse('pantry:stock')}?{urlencode(known)}#receive"


@require_POST
def call_off(request: Request, pk: int) -> HttpResponse:
    """It does not come any more."""
    services.call_off(get_object_or_404(Order, pk=pk))
    messages.success(request, "The order is called off.")
    return redirect("pantry:orders")
