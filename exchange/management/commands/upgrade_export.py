"""An export of an earlier version as this one writes it. It is run by an import, in an empty data folder of its own."""

import zipfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from balmcore.errors import Problem
from exchange.data_folder import DATABASE_FILE
from exchange.package import write_export
from exchange.package.upgrading import load_as_made
from workshop.files import limits


class Command(BaseCommand):
    """``upgrade_export BEFORE.zip AFTER.zip``."""

    help = __doc__
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        """Both files."""
        parser.add_argument("before", type=Path, help="The ZIP that an earlier version wrote.")
        parser.add_argument("after", type=Path, help="The ZIP to write.")

    def handle(self, *arguments: Any, before: Path, after: Path, **options: Any) -> None:
        """Bring it up to date, or say why not; a folder that holds a workshop is not touched."""
        if (settings.DATA_DIR / DATABASE_FILE).exists():
            raise CommandError("This folder holds a workshop: name an empty one with CALM_TIN_DATA.")
        try:
            with zipfile.ZipFile(before) as package:
                made = limits.read_json(package.read("about.json").decode())["steps"]
                load_as_made(package, made)
            with after.open("xb") as target:
                write_export(target)
        except (Problem, OSError) as refusal:
            raise CommandError(" ".join(str(refusal).split())) from None
