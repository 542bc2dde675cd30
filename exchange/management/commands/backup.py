"""Copy the workshop: beside it, or into a file."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from balmcore.errors import Problem
from exchange.copies import Reason, make_copy


class Command(BaseCommand):
    """``backup [FILE]``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where the copy goes."""
        parser.add_argument("file", nargs="?", type=Path, help="The copy; by default one of now beside the workshop.")

    def handle(self, *arguments: Any, file: Path | None, **options: Any) -> None:
        """Copy, or say why not."""
        try:
            copy = make_copy(settings.DATA_DIR, Reason.HAND, file)
        except Problem as problem:
            raise CommandError(problem.sentence) from None
        self.stdout.write(f"Copied to {copy}. Photographs lie in {settings.DATA_DIR / 'photos'}: copy that folder too.")
