"""Look whether the workshop, its copies, its photographs and its folder are as they should be."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from exchange.copies import examine
from exchange.startup import known_steps


class Command(BaseCommand):
    """``doctor`` ends with 1 when something is not."""

    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        """Say it, a line for each thing."""
        said = list(examine(settings.DATA_DIR, known_steps()))
        for is_well, sentence in said:
            self.stdout.write(f"{'well' if is_well else 'LOOK'}  {sentence}")
        if not all(is_well for is_well, _ in said):
            raise CommandError("Something wants looking at.")
