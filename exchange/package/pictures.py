"""Photographs out of a ZIP: encoded anew like those that are sent, compared with what is here by what they show."""

import hashlib
import io
import re
import zipfile
from typing import Any

from django.db import models
from PIL import Image, ImageChops, ImageStat

from bench.models import Event
from pours.models import CheckPhoto
from workshop.files import limits, photos

PHOTO = re.compile(r"photos/([0-9a-f]{32}\.jpg)")
THUMB = (24, 24)
ALIKE = 6.0  # of 255: what encoding anew changes is far below, another picture far above


class Pictures:
    """The photographs of one ZIP. ``aliases`` are names for those whose own name another picture has here, the same
    each time. Every file is written beside and renamed; :meth:`take_back` removes what came."""

    def __init__(self, package: zipfile.ZipFile) -> None:
        self._package = package
        self._entries = {m[1]: entry for entry in package.infolist() if (m := PHOTO.fullmatch(entry.filename))}
        self._came: list[str] = []
        self.aliases: dict[str, str] = {}
        for name in self._entries:
            here = photos.path_of(name)
            content = self._content(name) if here else b""
            if here and _is_another(here.read_bytes(), content):
                self.aliases[name] = f"{hashlib.sha256(content).hexdigest()[:32]}.jpg"

    def _content(self, name: str) -> bytes:
        entry = self._entries[name]
        return self._package.read(entry) if entry.file_size <= limits.PHOTO_BYTES else b""

    def named(self, row: models.Model) -> models.Model:
        """A row that comes in, with its photograph by the name that this has here."""
        if isinstance(row, CheckPhoto):
            row.file = self.aliases.get(row.file, row.file)
        elif isinstance(row, Event) and "file" in row.data:
            row.data = {**row.data, "file": self.aliases.get(row.data["file"], row.data["file"])}
        return row

    def bring(self) -> list[str]:
        """Keep those that rows name; returns sentences on what was left out. Raises ``Problem`` on a full disk."""
        named, unread, unnamed, differ = _names(), 0, 0, 0
        for name in sorted(self._entries):
            wanted = self.aliases.get(name, name)
            if wanted not in named:
                differ += name in named
                unnamed += name not in named
            elif photos.path_of(wanted) is None:
                try:
                    self._came.append(photos.keep_bytes(self._content(name), wanted))
                except photos.NoPicture:
                    unread += 1
        missing = sum(photos.path_of(name) is None for name in named)
        return _said(unnamed, unread, differ, missing)

    def take_back(self) -> None:
        """Remove what came."""
        for name in self._came:
            (photos.folder() / name).unlink(missing_ok=True)


def _names() -> set[str]:
    """The photographs that rows name."""
    events: Any = Event.objects.filter(data__has_key="file").values_list("data__file", flat=True)
    return {*CheckPhoto.objects.values_list("file", flat=True), *events}


def _is_another(here: bytes, content: bytes) -> bool:
    """True for two pictures that show different things; what is no picture is not another one."""
    if here == content:
        return False
    try:
        one, other = (Image.open(io.BytesIO(each)).convert("L").resize(THUMB) for each in (here, content))
    except photos.UNREADABLE:
        return False
    return bool(ImageStat.Stat(ImageChops.difference(one, other)).mean[0] >= ALIKE)


def _said(unnamed: int, unread: int, differ: int, missing: int) -> list[str]:
    told = (
        (unnamed, "that no row names: left out"),
        (unread, "that cannot be read as a picture, or is too large: left out"),
        (differ, "that is another one here: yours stays"),
        (missing, "that rows name, and that was not in the file"),
    )
    return [f"{count} photograph{'' if count == 1 else 's'} {words}." for count, words in told if count]
