"""The copies of the workshop, putting one back, and everything in one file."""

import tempfile

from django.conf import settings
from django.contrib import messages
from django.db import connections
from django.http import FileResponse, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from balmcore.errors import Problem
from exchange import copies, package, restoring
from exchange.startup import known_steps
from workshop.services import bump_records_revision
from workshop.web import Request


def copy_list(request: Request) -> HttpResponse:
    """The copies of the workshop; one more is made by a post."""
    if request.method == "POST":
        try:
            made = copies.make_copy(settings.DATA_DIR)
        except Problem as problem:
            messages.error(request, problem.sentence)
        else:
            messages.success(request, f"{made.name} is made.")
        return redirect("exchange:copies")
    found = copies.list_copies(settings.DATA_DIR)
    context = {"copies": found, "folder": settings.DATA_DIR, "room_kb": copies.room_kb(found)}
    return render(request, "exchange/copies.html", context)


@require_POST
def delete(request: Request, name: str) -> HttpResponse:
    """A copy that is not wanted any more."""
    try:
        copies.delete_copy(settings.DATA_DIR, name)
    except Problem as problem:
        messages.error(request, problem.sentence)
    else:
        messages.success(request, f"{name} is deleted.")
    return redirect("exchange:copies")


@require_safe
def take_everything(request: Request) -> HttpResponseBase:
    """Everything in one ZIP, as a file to take away."""
    kept = tempfile.TemporaryFile()  # noqa: SIM115 - the answer closes it when it was sent
    package.write_export(kept)
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
        if not package.is_empty():
            copy = copies.copy_before_a_change(settings.DATA_DIR)
        found = package.read_export(sent)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("exchange:copies")
    return render(request, "exchange/brought.html", {"brought": found, "copy": copy})


def restore(request: Request, name: str) -> HttpResponse:
    """What a copy holds, and putting it back by a post."""
    try:
        file = copies.named(settings.DATA_DIR, name)
        if request.method == "POST":
            connections.close_all()
            found = restoring.restore(settings.DATA_DIR, file, known_steps())
            bump_records_revision()
            messages.success(request, f"{name} is put back. {found.words}")
            return redirect("exchange:copies")
        with copies.reading(file):
            preview = copies.preview(file, known_steps())
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("exchange:copies")
    return render(request, "exchange/restore.html", {"name": name, "preview": preview})


@require_safe
def download(request: Request, name: str) -> HttpResponseBase:
    """A copy to keep elsewhere."""
    try:
        file = copies.named(settings.DATA_DIR, name)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("exchange:copies")
    return FileResponse(file.open("rb"), as_attachment=True, filename=f"calm-tin-{name}")
