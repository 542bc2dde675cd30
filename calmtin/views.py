"""The first page, the copies of the workshop, and the pages for what is not there."""

import tempfile

from django.conf import settings
from django.contrib import messages
from django.db import connections
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.html import format_html, format_html_join
from django.views.decorators.http import require_POST, require_safe

from balmcore.errors import Problem
from calmtin import backups, exchange
from calmtin.data_folder import Unusable
from calmtin.queries import under_way
from calmtin.refusals import refuse, typed_fields
from calmtin.startup import bring_up_to_date, known_steps
from workshop.services import news_of_pours
from workshop.web import Request


@require_safe
def home(request: Request) -> HttpResponse:
    """What is under way and what to do next."""
    return render(request, "home.html", {"home": under_way(request.tables, request.prefs)})


def backup_list(request: Request) -> HttpResponse:
    """The copies of the workshop; one more is made by a post."""
    if request.method == "POST":
        try:
            made = backups.backup(settings.DATA_DIR)
        except Problem as problem:
            messages.error(request, problem.sentence)
        else:
            messages.success(request, f"{made.name} is made.")
        return redirect("backups")
    return render(request, "backups.html", {"backups": backups.backups(settings.DATA_DIR), "folder": settings.DATA_DIR})


@require_safe
def take_everything(request: Request) -> HttpResponseBase:
    """Everything in one ZIP, as a file to take away."""
    kept = tempfile.TemporaryFile()  # noqa: SIM115 - the answer closes it when it was sent
    exchange.write_export(kept)
    kept.seek(0)
    return FileResponse(kept, as_attachment=True, filename=f"calm-tin-{timezone.localdate()}.zip")


@require_POST
def bring_everything(request: Request) -> HttpResponse:
    """An export into this workshop: as it is where it is empty, otherwise beside what is here, with a copy before."""
    sent = request.FILES.get("file")
    copy = None
    try:
        if sent is None:
            raise Problem("Choose the ZIP that another workshop wrote.")
        if not exchange.is_empty():
            copy = backups.before_a_change(settings.DATA_DIR)
        found = exchange.read_export(sent)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("backups")
    return render(request, "brought.html", {"brought": found, "copy": copy})


def restore(request: Request, name: str) -> HttpResponse:
    """What a copy holds, and putting it back by a post."""
    try:
        file = backups.named(settings.DATA_DIR, name)
        if request.method == "POST":
            connections.close_all()
            before = backups.restore(settings.DATA_DIR, file, known_steps())
            bring_up_to_date(settings.DATA_DIR)
            news_of_pours()
            told = f" What was there before is {before.name}." if before else ""
            messages.success(request, f"{name} is put back.{told}")
            return redirect("backups")
        found = backups.preview(file, known_steps())
    except (Problem, Unusable) as problem:
        messages.error(request, str(problem))
        return redirect("backups")
    return render(request, "restore.html", {"name": name, "preview": found})


@require_safe
def download(request: Request, name: str) -> HttpResponseBase:
    """A copy to keep elsewhere."""
    try:
        file = backups.named(settings.DATA_DIR, name)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("backups")
    return FileResponse(file.open("rb"), as_attachment=True, filename=f"calm-tin-{name}")


def not_here(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404: say where to go, and show again what was typed."""
    return refuse(request, "There is nothing at this address. What it was about is no longer there, or never was.", 404)


def too_much(request: HttpRequest, exception: Exception) -> HttpResponse:
    """400: a form of more fields or letters than any of ours has, or an address that is none."""
    sentence = "That was more than any form here holds, or not readable as a form."
    return HttpResponse(f"<!doctype html><title>Calm Tin</title><p>{sentence} Go back, and write less.</p>", status=400)


def went_wrong(request: HttpRequest) -> HttpResponse:
    """500: the page is plain, as nothing else may be working; it shows what was typed."""
    typed = format_html_join("", "<dt>{}</dt><dd>{}</dd>", typed_fields(request))
    page = (
        "<!doctype html><title>Calm Tin</title><p>Something in Calm Tin itself went wrong. Go back: what you typed "
        "still stands there. The window that it was started from shows what happened.</p><dl>{}</dl>"
    )
    return HttpResponse(format_html(page, typed), status=500)
