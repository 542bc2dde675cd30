"""Which instruments are set, and setting them."""

from pathlib import Path
from threading import Lock

from django.conf import settings

from instruments import zero
from instruments.models import SIMULATOR, Instrument
from instruments.reader import Source
from instruments.readings import Reading, latest, now
from instruments.simulator import address_of
from workshop.services import preferences

_beginning = Lock()  # of the server's threads, which are all that ask
DEFAULT_UNITS = {Instrument.Kind.SCALE: Instrument.Unit.GRAMS, Instrument.Kind.THERMOMETER: Instrument.Unit.CELSIUS}


def sources(folder: Path) -> list[Source]:
    """The instruments as they are set; the stand-in by where it speaks now, left out while it does not."""
    step = float(preferences().resolution_g)
    found = []
    for row in Instrument.objects.all():
        address = address_of(row.kind, folder) if row.address == SIMULATOR else row.address
        if address:
            found.append(Source(row.kind, address, row.baud, row.unit, step, row.tare))
    return found


def readings() -> dict[str, Reading]:
    """The last that each instrument said."""
    return latest(settings.DATA_DIR)


def begin_weighing(name: str, raw_g: float | None = None, is_counted: bool = False, is_sure: bool = True) -> None:
    """Let what the scale shows count as nothing from now on, see :class:`~instruments.zero.Beginning`. One that is not
    sure takes no place of one that was asked for already, by another device or by what was done before it."""
    with _beginning:
        if is_sure or weighing_asked().name != name:
            zero.ask(settings.DATA_DIR, zero.Beginning(name, now(), raw_g, is_counted, is_sure))


def weighing_asked() -> zero.Beginning:
    """The weighing that was asked for last; one without a name for none."""
    return zero.asked(settings.DATA_DIR) or zero.Beginning("", 0.0)


def set_instrument(kind: str, address: str, baud: int = 9600, unit: str = "", tare: str = "") -> None:
    """Read an instrument at an address from now on; at none, no more."""
    if not address:
        Instrument.objects.filter(kind=kind).delete()
        return
    wanted = {"address": address, "baud": baud, "unit": unit or DEFAULT_UNITS[Instrument.Kind(kind)], "tare": tare}
    Instrument.objects.update_or_create(kind=kind, defaults=wanted)
