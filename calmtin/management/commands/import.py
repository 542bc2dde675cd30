"""An export into an empty workshop."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from balmcore.errors import Problem
from calmtin.exchange import read_export


class Command(BaseCommand):
    """``import FILE.zip``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What is read."""
        parser.add_argument("file", type=Path, help="The ZIP that export wrote.")

    def handle(self, *arguments: Any, file: Path, **options: Any) -> None:
        """Read it, or say why not."""
        try:
            with file.open("rb") as source:
                counts = read_export(source)
        except (Problem, OSError) as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(f"{sum(counts.values())} rows in {len(counts)} tables are in the workshop.")
