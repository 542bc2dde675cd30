"""Load the demo workshop into an empty data folder."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import transaction

from demo.loader import load
from formulas.models import Formula


class Command(BaseCommand):
    """``load_demo`` refuses to touch a workshop that has formulas."""

    help = __doc__

    @transaction.atomic
    def handle(self, *arguments: Any, **options: Any) -> None:
        """Load, or say why not."""
        if Formula.objects.exists():
            raise CommandError("This workshop has formulas already; the demo goes into an empty one only.")
        self.stdout.write(f"The net loft is open: {load()} formulas.")
