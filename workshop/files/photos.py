"""Photographs of a maker's own: made small, freed of place and camera, kept in the data folder."""

import io
import os
import re
import secrets
from collections.abc import Collection, Sequence
from contextlib import suppress
from pathlib import Path
from typing import IO

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps, UnidentifiedImageError

from balmcore.errors import Problem
from workshop.files.limits import MB, PHOTO_BYTES, PHOTO_PIXELS, PHOTO_SIDE_PX

LONGEST_PX, QUALITY = 2000, 85
NAME = re.compile(r"[0-9a-f]{32}\.jpg")
UNREADABLE = (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError, EOFError)


class NoPicture(Problem):
    """What is too large, or no picture that can be read."""


def folder() -> Path:
    """Where they lie."""
    return Path(settings.DATA_DIR) / "photos"


def keep(sent: UploadedFile) -> str:
    """Keep a photograph; returns the name of its file. It is encoded anew, so that nothing but the picture
    is kept of it. Raises :class:`Problem` for what is too large or no picture that can be read, and on a full disk."""
    if (sent.size or 0) > PHOTO_BYTES:
        raise NoPicture(f"That photograph has more than {PHOTO_BYTES // MB} MB: make it smaller.", "photo")
    return _written(_plain(sent), f"{secrets.token_hex(16)}.jpg")


def keep_bytes(content: bytes, name: str = "") -> str:
    """The same of what came otherwise, by the name that it had, or by a fresh one."""
    return _written(_plain(io.BytesIO(content)), name or f"{secrets.token_hex(16)}.jpg")


def _plain(source: IO[bytes]) -> Image.Image:
    """The picture alone, upright and small. Its size is looked at before it is unpacked, and a JPEG is unpacked at a
    part of its size. Raises :class:`NoPicture`."""
    try:
        with Image.open(source, formats=tuple(PHOTO_PIXELS)) as picture:
            _require_size(picture)
            picture.thumbnail((LONGEST_PX, LONGEST_PX))
            upright: Image.Image = picture
            # A camera's notes may be broken where its picture is not: then it stays as it lies.
            with suppress(Exception):
                upright = ImageOps.exif_transpose(picture)
            plain = Image.new("RGB", upright.size)
            plain.paste(upright.convert("RGB"))
            return plain
    except Problem:
        raise
    except UNREADABLE:
        raise NoPicture("That is no photograph that can be read here: send a JPEG, PNG or WebP.", "photo") from None


def _require_size(picture: Image.Image) -> None:
    most = PHOTO_PIXELS[picture.format or "PNG"]
    if picture.width * picture.height > most or max(picture.size) > PHOTO_SIDE_PX:
        raise NoPicture(
            f"That photograph has more than {most // 1_000_000} megapixels, or more than {PHOTO_SIDE_PX} on one side: "
            "make it smaller.",
            "photo",
        )


def _written(picture: Image.Image, name: str) -> str:
    """A picture beside its place, and then there in one step, so that no kill leaves half of one."""
    part = folder() / f".{name}.{os.getpid()}.part"
    try:
        folder().mkdir(mode=0o700, exist_ok=True)
        picture.save(part, "JPEG", quality=QUALITY)
        part.replace(folder() / name)
    except OSError as refusal:
        with suppress(OSError):
            part.unlink(missing_ok=True)
        told = (refusal.strerror or str(refusal)).lower()
        raise Problem(
            f"The photograph could not be kept ({told}): make room on the disk, and send it again.", "photo"
        ) from None
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


def unnamed(names: Collection[str], place: Path) -> list[Path]:
    """Files that lie in a place and that nothing names: what a kill left, or what was brought and taken back."""
    if not place.is_dir():
        return []
    known = set(names)
    return sorted(file for file in place.iterdir() if file.is_file() and file.name not in known)
