"""Look whether the workshop, its copies, its photographs and its folder are as they should be."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from exchange.doctor import examine, remove_unnamed
from exchange.startup import known_steps


class Command(BaseCommand):
    """``doctor`` ends with 1 when something is not; ``--tidy`` removes photographs that nothing names."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Whether to clear up."""
        parser.add_argument("--tidy", action="store_true", help="Remove photographs that nothing names.")

    def handle(self, *arguments: Any, tidy: bool, **options: Any) -> None:
        """Say it, a line for each thing."""
        if tidy:
            self.stdout.write(f"{remove_unnamed(settings.DATA_DIR)} photographs that nothing names are removed.")
        said = list(examine(settings.DATA_DIR, known_steps()))
        for is_well, sentence in said:
            self.stdout.write(f"{'well' if is_well else 'LOOK'}  {sentence}")
        if not all(is_well for is_well, _ in said):
            raise CommandError("Something wants looking at.")
