"""Put a copy in the place of the workshop; without --yes only say what it holds."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connections

from balmcore.errors import Problem
from exchange.copies import preview
from exchange.data_folder import Unusable, only_server
from exchange.restoring import restore
from exchange.startup import known_steps


class Command(BaseCommand):
    """``restore FILE [--yes]``."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The copy, and whether to do it."""
        parser.add_argument("file", type=Path, help="The copy to put back.")
        parser.add_argument("--yes", action="store_true", help="Do it; what is there now is copied first.")

    def handle(self, *arguments: Any, file: Path, yes: bool, **options: Any) -> None:
        """Look, and put back, or say why not."""
        try:
            found = preview(file, known_steps())
            held = ", ".join(f"{count} {name}" for name, count in found.counts.items())
            self.stdout.write(f"{file} holds {held}, until {found.until or 'a day that is not known'}.")
            if not yes:
                self.stdout.write("Nothing was changed: say --yes to put it back.")
                return
            connections.close_all()
            with only_server(settings.DATA_DIR):  # a server would go on writing into what is put away
                found_before = restore(settings.DATA_DIR, file, known_steps())
        except (Problem, Unusable) as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(f"It is put back. {found_before.words}")
