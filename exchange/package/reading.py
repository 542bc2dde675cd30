"""Reading a ZIP that :mod:`exchange.package.writing` wrote: into an empty workshop as it is, into a full one beside
what is there."""

import json
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from django.core import serializers
from django.db import DatabaseError, connection, models, transaction

from balmcore.errors import Problem
from exchange.package.merging import Merge
from exchange.package.writing import SCHEMA, SORT, owned, steps
from formulas.models import Formula
from pantry.models import Lot
from workshop import photos
from workshop.services import news_of_pours

MOST_BYTES, MOST_FILES = 4 * 1024**3, 100_000
TABLE = re.compile(r"tables/([a-z]+\.[a-z]+)\.json")
PHOTO = re.compile(r"photos/([0-9a-f]{32}\.jpg)")


@dataclass(frozen=True)
class Brought:
    """What a ZIP brought: rows by table, how many were here already, and sentences on what stayed as it was here and
    on numbers that changed."""

    counts: dict[str, int]
    already: int = 0
    said: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The whole in a sentence."""
        of = [(self.counts.get(label, 0), one, many) for one, many, label in NAMED]
        told = ", ".join(f"{count} {one if count == 1 else many}" for count, one, many in of)
        return f"Brought: {told}." + (f" {self.already} rows were here already." if self.already else "")


NAMED = (
    ("formula", "formulas", "formulas.formula"),
    ("batch", "batches", "batches.batch"),
    ("pour", "pours", "pours.pour"),
    ("lot", "lots", "pantry.lot"),
)


def read_export(source: IO[bytes]) -> Brought:
    """Read a ZIP, all of it or nothing. Raises :class:`Problem` for a file that is none, one of another version, one
    that holds what it should not, and one that cannot stand beside what is here."""
    try:
        with zipfile.ZipFile(source) as package:
            _require_sane(package)
            return _read(package)
    except zipfile.BadZipFile:
        raise Problem("That is no export of Calm Tin: it should be the ZIP that it wrote.") from None
    except (ValueError, KeyError, TypeError, DatabaseError, serializers.base.DeserializationError) as refusal:
        raise Problem(f"The export cannot be read, and nothing of it was kept ({str(refusal)[:120]}).") from None


def is_empty() -> bool:
    """True for a workshop in which nothing was made or bought yet."""
    return not (Formula.objects.exists() or Lot.objects.exists())


def _require_sane(package: zipfile.ZipFile) -> None:
    entries = package.infolist()
    if len(entries) > MOST_FILES or sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise Problem("That file unpacks to more than any workshop holds: it was not opened.")
    strange = [e.filename for e in entries if not (_is_known(e.filename) or e.filename.startswith("csv/"))]
    if strange or any(".." in entry.filename for entry in entries):
        raise Problem(f"That file holds what no export does ({(strange or ['..'])[0][:60]}): it was not opened.")
    if "about.json" not in package.namelist():
        raise Problem("That is no export of Calm Tin: it does not say what it is.")


def _is_known(name: str) -> bool:
    labels = {model._meta.label_lower for model in owned()}
    table = TABLE.fullmatch(name)
    return name == "about.json" or bool(PHOTO.fullmatch(name)) or bool(table and table.group(1) in labels)


def _read(package: zipfile.ZipFile) -> Brought:
    about = json.loads(package.read("about.json"))
    if not isinstance(about, dict) or about.get("sort") != SORT:
        raise Problem("That is no export of a workshop of Calm Tin.")
    if about.get("schema") != SCHEMA or about.get("steps") != steps():
        raise Problem("That export is of another version of Calm Tin: bring both to the same one, and export again.")
    kept: list[Path] = []
    try:
        with transaction.atomic():
            found = _into_empty(package) if is_empty() else _beside(package)
            connection.check_constraints()
            kept = list(_read_photos(package))
    except BaseException:
        for file in kept:
            file.unlink(missing_ok=True)
        raise
    news_of_pours()
    return found


def _into_empty(package: zipfile.ZipFile) -> Brought:
    """Every row by its own number; a new workshop has only what its first page wrote."""
    counts = {}
    with connection.constraint_checks_disabled():
        for model in owned():
            model._base_manager.all().delete()
            rows = _rows(package, model)
            for row in rows:
                row.save()
            counts[model._meta.label_lower] = len(rows)
    return Brought(counts)


def _beside(package: zipfile.ZipFile) -> Brought:
    merge = Merge()
    for model in owned():
        merge.bring(model, _rows(package, model))
    merge.finish()
    return Brought(merge.counts, merge.already, tuple(merge.said))


def _rows(package: zipfile.ZipFile, model: type[models.Model]) -> list[serializers.base.DeserializedObject]:
    label = model._meta.label_lower
    rows: list[dict[str, Any]] = json.loads(package.read(f"tables/{label}.json"))
    return list(serializers.deserialize("python", [{"model": label, **row} for row in rows]))


def _read_photos(package: zipfile.ZipFile) -> Iterator[Path]:
    """The photographs that are not here yet; a name is that of one photograph for good."""
    for entry in package.infolist():
        if name := PHOTO.fullmatch(entry.filename):
            photos.folder().mkdir(mode=0o700, exist_ok=True)
            file = photos.folder() / name.group(1)
            if not file.exists():
                file.write_bytes(package.read(entry))
                yield file
