"""Everything of the workshop into one ZIP."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from exchange.package import write_export


class Command(BaseCommand):
    """``export FILE.zip``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where it goes."""
        parser.add_argument("file", type=Path, help="The ZIP to write.")

    def handle(self, *arguments: Any, file: Path, **options: Any) -> None:
        """Write it, or say why not; a file that is there is not written over."""
        try:
            with file.open("xb") as target:
                counts = write_export(target)
        except FileExistsError:
            raise CommandError(f"{file} is there already: choose another name.") from None
        except OSError as refusal:
            raise CommandError(f"{file} cannot be written ({refusal.strerror}).") from None
        self.stdout.write(f"{sum(counts.values())} rows in {len(counts)} tables are in {file}.")
