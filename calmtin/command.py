"""``calm-tin``: what ``make run`` does, from an installed wheel; with a word after it, that command."""

import os
import sys

from django.core.management import execute_from_command_line


def main() -> None:
    """Serve the workshop, or do what is asked: ``calm-tin backup``, ``calm-tin doctor``."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.settings")
    execute_from_command_line([sys.argv[0], *(sys.argv[1:] or ["serve"])])
