"""Templates are written one thing a line, for people; a page needs no such lines."""

import re

from django.template import Origin
from django.template.loaders import app_directories


class FoldingLoader(app_directories.Loader):
    """Reads a line break with its indent as one space, which is what a browser makes of it."""

    def get_contents(self, origin: Origin) -> str:
        """The template, folded once, when it is first compiled; Django's own stay as they are."""
        written = super().get_contents(origin)
        if str(origin.template_name).startswith("django/"):
            return written
        return re.sub(r"\s*\n\s*", " ", written).strip()
