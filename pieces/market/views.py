"""The form of a market day, and what one came to."""

from dataclasses import dataclass
from decimal import Decimal

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from balmcore import units
from balmcore.days import read_day
from balmcore.display import figure, spoken
from balmcore.errors import Problem
from pieces.market.services import Product, Sale, account_of, on_hand, write_market
from pieces.models import Market
from workshop.forms import money
from workshop.forms.days import day_within
from workshop.web import Fields, Request

DAYS_SHOWN = 12


@dataclass(frozen=True)
class Row:
    """A product of the form with what was typed, what is wrong with it, and what it says."""

    product: Product
    took: str
    back: str
    each: str
    problem: str = ""
    sale: Sale | None = None


def market(request: Request) -> HttpResponse:
    """All that is left in one form: taken along, came back, for how much each; written down at once."""
    today, data = timezone.localdate(), Fields(request.POST)
    hand = on_hand(request.tables, today)
    is_posted, problem = request.method == "POST", ""
    rows = [_row(product, data if is_posted else None, request.prefs.currency) for product in hand.products]
    if is_posted and any(row.problem for row in rows):
        problem = "Nothing is written down yet: look at the rows below."
    elif is_posted and _is_of_others(data, {product.slot for product in hand.products}):
        problem = "Something of what you wrote is no longer left: look at the rows once more."
    elif is_posted:
        try:
            on = day_within(read_day(data.text("on", 40), spoken().dates, "on"), "on") or today
            made = write_market(on, data.text("place", 120).strip(), [row.sale for row in rows if row.sale], today)
        except Problem as refusal:
            problem = refusal.sentence
        else:
            messages.success(request, f"{sum(row.sale.sold for row in rows if row.sale)} sold.")
            return redirect(made)
    context = {
        "rows": rows,
        "hand": hand,
        "problem": problem,
        "on": data.text("on", 40) or spoken().day_field(today),
        "place": data.text("place", 120),
        "days": Market.objects.all()[:DAYS_SHOWN],
    }
    return render(request, "pieces/market.html", context, status=400 if problem else 200)


def _is_of_others(data: Fields, slots: set[str]) -> bool:
    """True where a row was filled in of which nothing is left any more."""
    named = {name.removeprefix("back-") for name in data.names("back-") if data.text(name, 20).strip()}
    return bool(named - slots)


def _row(product: Product, data: Fields | None, currency: str) -> Row:
    usual = "" if product.price is None else figure(product.price, 2)
    if data is None:
        return Row(product, str(product.left), "", usual)
    took, back, each = (data.text(f"{name}-{product.slot}", 20).strip() for name in ("took", "back", "each"))
    row = Row(product, took, back, each)
    if not back:  # it stayed at home
        return row
    try:
        sold, price = _sold(took, back, product.left), money(each, currency) if each else None
    except Problem as refusal:
        return Row(product, took, back, each, refusal.sentence)
    return Row(product, took, back, each, "", Sale(product, sold, price))


def _sold(took: str, back: str, left: int) -> int:
    """How many were sold. Raises :class:`Problem` for more taken than there are, or more back than taken."""
    along = left if not took else _whole(took)
    came = _whole(back)
    if along > left:
        raise Problem(f"Only {left} are left.")
    if came > along:
        raise Problem(f"{came} came back of {along}: which is wrong?")
    return along - came


def _whole(text: str) -> int:
    value: Decimal = units.number(text)
    if value < 0 or value != int(value):
        raise Problem(f"“{text}” is no number of pieces.")
    return int(value)


@require_safe
def market_day(request: Request, pk: int) -> HttpResponse:
    """What a market day came to."""
    found = get_object_or_404(Market, pk=pk)
    context = {"market": found, "account": account_of(found, request.tables, request.prefs)}
    return render(request, "pieces/market_day.html", context)


@require_POST
def take_back(request: Request, pk: int) -> HttpResponse:
    """A market day written down by mistake: its pieces are left again."""
    get_object_or_404(Market, pk=pk).delete()
    messages.success(request, "The day is gone; its pieces are left again.")
    return redirect("pieces:market")
