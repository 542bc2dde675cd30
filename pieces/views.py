"""Where pieces went, who has them, and what has to come back."""

from datetime import date

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from balmcore import units
from balmcore.days import read_day
from balmcore.display import spoken
from balmcore.errors import Problem
from balmcore.wording import listed
from batches.fitness import require_fit, unasked, unfit_of
from batches.hooks import unfit_among
from batches.models import Batch
from labels.services import maker
from learning.reactions import risk_for, suspected_by
from pantry.models import Lot
from pantry.queries import containers, name_of
from pieces import accounts, melting
from pieces.models import Handout, Person
from pieces.stall import MOST_POURS, products
from pours.models import Pour, WearTest
from workshop.web import Fields, Request

MOST_PIECES, MOST_ASKED = 100_000, 300
REACTED = "reaction_known"  # where a yes is asked for somebody who reacted


@require_safe
def index(request: Request) -> HttpResponse:
    """Every pour with its labels and what is left of it."""
    asked = Fields(request.GET)
    page, rows = accounts.ledger(asked.text("page"), asked.text("q"))
    unfit = unfit_among([row.pour.batch for row in rows], request.tables)
    shown = [(row, unfit.get(row.pour.batch_id, "")) for row in rows]
    context = {"page": page, "rows": shown, "today": timezone.localdate(), "q": asked.text("q")}
    return render(request, "pieces/index.html", context)


@require_safe
def stall(request: Request) -> HttpResponse:
    """Ingredients and cautions of the pours asked for or, where none is, of those with pieces left."""
    asked = Fields(request.GET).wholes("pour")[:MOST_ASKED]
    newest = Pour.objects.order_by("-poured_on", "-pk")
    if asked:
        chosen = list(newest.filter(pk__in=asked).for_label())
    else:
        chosen = list(accounts.with_left().order_by("-poured_on", "-pk").for_label()[: MOST_POURS + 1])
    containers_by_key, today = containers(), timezone.localdate()
    # What is not to be sold does not stand beside the tins; the page says that it was left out.
    unfit = unasked([pour.batch for pour in chosen], request.tables)
    left_out = [(pour, unfit[pour.batch_id]) for pour in chosen if pour.batch_id in unfit]
    chosen = [pour for pour in chosen if pour.batch_id not in unfit]
    shown = products(chosen[:MOST_POURS], request.tables, containers_by_key, request.prefs.scent_policy, today)
    context = {
        "products": shown,
        "maker": maker(),
        "today": today,
        "more": len(chosen) > MOST_POURS,
        "left_out": left_out,
        "most": MOST_POURS,
    }
    return render(request, "pieces/stall.html", context)


def pieces(request: Request, pk: int) -> HttpResponse:
    """The account of a pour's pieces, and a line more of it."""
    pour = get_object_or_404(Pour.objects.for_label().prefetch_related("checks"), pk=pk)
    data = Fields(request.POST)
    problem: Problem | None = None
    if request.method == "POST":
        try:
            row = _written(request, pour, data)
        except Problem as refusal:
            problem = refusal
        else:
            messages.success(request, f"{row.count} {row.get_how_display().lower()}.")
            return redirect("pieces:pieces", pk)
    account, piece_g = accounts.pieces(pour), melting.piece_g(pour, request.tables)
    context = {
        "account": account,
        "pour": pour,
        "hows": [choice for choice in Handout.How.choices if choice[0] != Handout.How.MELTED],
        "piece_g": piece_g,
        "sizes": [name for name, left in accounts.sizes_left(pour, account.handouts)[0].items() if left > 0],
        "mended": melting.mended(pour, piece_g * account.left, request.tables),
        "typed": {name: data.text(name, 300) for name in ("how", "count", "to", "contact", "on", "note", "size")},
        "today": timezone.localdate(),
        "problem": problem,
        "asks_reaction": problem is not None and problem.where == REACTED,
        "batch": pour.batch,
        "unfit": unfit_of(pour.batch, request.tables),
        "people": Person.objects.all()[:500],
    }
    return render(request, "pieces/pieces.html", context, status=400 if problem else 200)


def _written(request: Request, pour: Pour, data: Fields) -> Handout:
    """What was said of some pieces, written down. Raises :class:`Problem`."""
    how, day = data.text("how", 10), _day(data.text("on", 20))
    count = units.count(data.text("count", 20), MOST_PIECES, "count")
    if how == Handout.How.MELTED:
        grams = data.text("grams", 40).strip()
        held = units.mass_g(grams, request.prefs.mass_unit, request.prefs.kitchen) if grams else None
        return melting.melt_again(pour, count, held, day, request.tables)
    if how != Handout.How.SPOILED:
        require_fit(pour.batch, request.tables)
    to = " ".join(data.text("to", 200).split())
    is_asked = to and how in (Handout.How.GIVEN, Handout.How.SOLD) and data.text(REACTED, 200) != to
    if is_asked and (risk := risk_for(to, pour, request.tables)):
        raise Problem(risk, REACTED)
    return accounts.hand_out(
        pour,
        how,
        count,
        data.text("to", 200),
        data.text("contact", 300),
        day,
        data.text("note", 200),
        data.text("size", 120),
    )


def _day(text: str) -> date:
    found = read_day(text, spoken().dates, "on") or timezone.localdate()
    if found > timezone.localdate():
        raise Problem("That day is still to come.", "on")
    return found


@require_POST
def take_back(request: Request, pk: int) -> HttpResponse:
    """A line written down by mistake."""
    row = get_object_or_404(Handout, pk=pk)
    pour = row.pour_id
    melting.take_back(row)
    messages.success(request, "The line is gone; its pieces are left again.")
    return redirect("pieces:pieces", pour)


@require_safe
def people(request: Request) -> HttpResponse:
    """Everybody who has pieces."""
    asked = Fields(request.GET)
    page = accounts.people(asked.text("page"), asked.text("q"))
    return render(request, "pieces/people.html", {"page": page, "q": asked.text("q")})


@require_safe
def person(request: Request, pk: int) -> HttpResponse:
    """What one person has."""
    found = get_object_or_404(Person, pk=pk)
    rows = found.handouts.select_related("pour__batch__version__formula", "pour__finish").order_by("-on")
    reactions = WearTest.objects.filter(who__iexact=found.name).exclude(reaction=WearTest.Reaction.NONE)
    context = {
        "person": found,
        "rows": rows,
        "reactions": reactions.select_related("pour__batch__version__formula", "pour__finish"),
        "suspected": listed(list(suspected_by(found.name, request.tables).values()) or ["nothing that is known"]),
    }
    return render(request, "pieces/person.html", context)


@require_POST
def forget(request: Request, pk: int) -> HttpResponse:
    """Take a person out of the workshop."""
    found = get_object_or_404(Person, pk=pk)
    name, held = found.name, accounts.forget(found)
    said = f"{name} is taken out. " + (
        f"{held} pieces stay counted without a name: a recall can no longer say who has them." if held else ""
    )
    messages.success(request, said.strip())
    return redirect("pieces:people")


@require_safe
def recall_lot(request: Request, pk: int) -> HttpResponse:
    """Everything made from a lot, and who has it."""
    lot = get_object_or_404(Lot, pk=pk)
    found = accounts.recall_of_lot(lot, name_of(lot.item_key, request.tables), request.tables)
    return render(request, "pieces/recall.html", {"recall": found, "today": timezone.localdate()})


@require_safe
def recall_batch(request: Request, pk: int) -> HttpResponse:
    """Everything of a batch, and who has it."""
    batch = get_object_or_404(Batch.objects.select_related("version__formula"), pk=pk)
    found = accounts.recall_of_batch(batch.pk, f"Batch {batch.pk}, {batch.version}")
    return render(request, "pieces/recall.html", {"recall": found, "today": timezone.localdate()})
