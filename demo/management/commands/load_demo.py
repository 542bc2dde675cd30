"""Load the demo workshop into an empty data folder."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from demo.loader import YEAR, load
from exchange.data_folder import Unusable
from exchange.startup import bring_up_to_date
from formulas.models import Formula
from instruments.models import SIMULATOR, Instrument
from instruments.services import set_instrument


class Command(BaseCommand):
    """``load_demo`` refuses to touch a workshop that has formulas."""

    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        """Load, or say why not."""
        try:
            bring_up_to_date(settings.DATA_DIR)
        except Unusable as problem:
            raise CommandError(str(problem)) from None
        with transaction.atomic():
            if Formula.objects.exists():
                raise CommandError("This workshop has formulas already; the demo goes into an empty one only.")
            self.stdout.write(f"The net loft is open: {load() + load(YEAR)} formulas.")
            # To rehearse with: the demo is served with a stand-in scale and thermometer.
            for kind in Instrument.Kind.values:
                set_instrument(kind, SIMULATOR)
