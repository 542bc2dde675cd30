"""Photographs of a maker's own: made small, freed of place and camera, kept in the data folder."""

import re
import secrets
from collections.abc import Sequence
from pathlib import Path

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps, UnidentifiedImageError

from balmcore.errors import Problem

MOST_BYTES, MOST_PIXELS = 12 * 1024**2, 40_000_000
LONGEST_PX, QUALITY = 2000, 85
FORMATS = ("JPEG", "PNG", "WEBP")
NAME = re.compile(r"[0-9a-f]{32}\.jpg")


def folder() -> Path:
    """Where they lie."""
    return Path(settings.DATA_DIR) / "photos"


def keep(sent: UploadedFile) -> str:
    """Keep a photograph; returns the name of its file. It is encoded anew, so that nothing but the picture
    is kept of it. Raises :class:`Problem` for what is too large or no picture that can be read."""
    if (sent.size or 0) > MOST_BYTES:
        raise Problem(f"That photograph has more than {MOST_BYTES // 1024**2} MB: make it smaller.", "photo")
    try:
        with Image.open(sent, formats=FORMATS) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise Problem("That photograph has more than 40 megapixels: make it smaller.", "photo")
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except Problem:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError):
        raise Problem("That is no photograph that can be read here: send a JPEG, PNG or WebP.", "photo") from None
    upright.thumbnail((LONGEST_PX, LONGEST_PX))
    folder().mkdir(mode=0o700, exist_ok=True)
    name = f"{secrets.token_hex(16)}.jpg"
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    plain.save(folder() / name, "JPEG", quality=QUALITY)
    return name


def keep_all(sent: Sequence[UploadedFile]) -> list[str]:
    """Keep several photographs, or none of them. Raises :class:`Problem` for the first that cannot be."""
    names: list[str] = []
    try:
        for one in sent:
            names.append(keep(one))
    except Problem as problem:
        for name in names:
            (folder() / name).unlink(missing_ok=True)
        which = f"{sent[len(names)].name}: " if len(sent) > 1 else ""
        raise Problem(f"{which}{problem.sentence}", "photos") from None
    return names


def path_of(name: str) -> Path | None:
    """Where the photograph of that name lies; None for a name that is none, or one that is not there."""
    found = folder() / name
    return found if NAME.fullmatch(name) and found.is_file() else None
