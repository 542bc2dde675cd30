"""An export into this workshop: as it is into an empty one, otherwise beside what is here."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from balmcore.errors import Problem
from exchange.copies import copy_before_a_change
from exchange.package import is_empty, read_export


class Command(BaseCommand):
    """``import FILE.zip``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """What is read."""
        parser.add_argument("file", type=Path, help="The ZIP that export wrote.")

    def handle(self, *arguments: Any, file: Path, **options: Any) -> None:
        """Read it, or say why not."""
        try:
            copy = None if is_empty() else copy_before_a_change(settings.DATA_DIR)
            with file.open("rb") as source:
                found = read_export(source)
        except (Problem, OSError) as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(found.words)
        if copy:
            self.stdout.write(f"What was here before lies in {copy}.")
        for told in found.said:
            self.stdout.write(told)
