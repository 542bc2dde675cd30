"""The settings of scale and thermometer, and what they say while one sets them."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_safe
from serial.tools import list_ports

from instruments import services
from instruments.forms import InstrumentForm
from instruments.models import SIMULATOR, Instrument
from instruments.readings import now
from instruments.services import set_instrument
from workshop.web import Request


def settings_page(request: Request) -> HttpResponse:
    """Where scale and thermometer speak."""
    stored = {row.kind: row for row in Instrument.objects.all()}
    sent = request.POST if request.method == "POST" else None
    forms = [InstrumentForm(sent, kind=kind, stored=stored.get(kind)) for kind in Instrument.Kind.values]
    if request.method == "POST" and not any(form.errors for form in forms):
        for form in forms:
            data = form.cleaned_data
            set_instrument(form.kind, data["address"], data["baud"], data["unit"], data.get("tare", ""))
        messages.success(request, "Kept. What is heard stands below within a second or two.")
        return redirect("instruments:settings")
    ports = [(port.device, port.description) for port in list_ports.comports()]
    context = {"forms": forms, "ports": [*ports, (SIMULATOR, "a scale and thermometer to rehearse with")]}
    status = 400 if request.method == "POST" else 200
    return render(
        request, "instruments/settings.html", {**context, **_heard(request), "section": "workshop"}, status=status
    )


@require_safe
def heard(request: Request) -> HttpResponse:
    """The raw line of each instrument, and what was understood."""
    return render(request, "instruments/_heard.html", _heard(request))


def _heard(request: Request) -> dict[str, object]:
    moment, show = now(), request.prefs.show
    found = services.readings()
    rows = []
    for row in Instrument.objects.all():
        reading = found.get(row.kind)
        understood = ""
        if reading is not None and reading.value is not None:
            is_scale = row.kind == Instrument.Kind.SCALE
            # Here it is set up: what it shows itself, whatever a weighing subtracts of it.
            shown = reading.value + reading.zero_g
            understood = show.mass_text(shown) if is_scale else show.temp_text(shown, 1)
        said = "Nothing reads it yet." if reading is None else reading.trouble(moment)
        rows.append((row, reading.raw if reading else "", understood, said, bool(reading and reading.is_steady)))
    return {"rows": rows}
