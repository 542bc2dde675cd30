"""Everything a maker owns in one ZIP: documented JSON, CSV of every table, photographs; and reading it into an empty
workshop. docs/export.md says what stands in it."""

import csv
import io
import json
import re
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

from django.apps import apps
from django.core import serializers
from django.core.serializers.json import DjangoJSONEncoder
from django.db import DatabaseError, connection, models, transaction

from balmcore.errors import Problem
from calmtin.startup import known_steps
from formulas.models import Formula
from pantry.models import Lot
from workshop import photos
from workshop.models import SentForm
from workshop.services import news_of_pours
from workshop.sheets import as_text

SORT, SCHEMA = "calm-tin-workshop", 1
APPS = ("workshop", "pantry", "formulas", "batches", "bench", "pours", "labels")
MOST_BYTES, MOST_FILES = 4 * 1024**3, 100_000
TABLE = re.compile(r"tables/([a-z]+\.[a-z]+)\.json")
PHOTO = re.compile(r"photos/([0-9a-f]{32}\.jpg)")
FIRST = (1980, 1, 1, 0, 0, 0)
AT_ONCE = 500


class _Exact(DjangoJSONEncoder):
    """Moments to the microsecond: Django's own writes milliseconds, and what comes back would be another one."""

    def default(self, value: Any) -> Any:
        """A value as JSON."""
        return value.isoformat() if isinstance(value, datetime) else super().default(value)


def owned() -> list[type[models.Model]]:
    """The models whose rows are the maker's, those first that others point at."""
    wanted = [(apps.get_app_config(name), None) for name in APPS]
    found = serializers.sort_dependencies(wanted, allow_cycles=True)
    return [model for model in found if model is not SentForm]


def _steps() -> list[str]:
    """The steps by which the tables were made, of the apps that are handed over."""
    return sorted(f"{app}.{name}" for app, name in known_steps() if app in APPS)


def write_export(target: IO[bytes]) -> dict[str, int]:
    """Write everything into a ZIP, a few hundred rows at once; returns how many rows each table has."""
    counts: dict[str, int] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as package:
        for model in owned():
            label = model._meta.label_lower
            with _entry(package, f"tables/{label}.json") as out:
                counts[label] = _write_rows(out, model)
            with _entry(package, f"csv/{label}.csv") as out:
                _write_csv(out, model)
        for file in sorted(photos.folder().glob("*.jpg")):
            with _entry(package, f"photos/{file.name}") as out:
                out.write(file.read_bytes())
        about = {
            "sort": SORT,
            "schema": SCHEMA,
            "made": datetime.now(UTC).isoformat(),
            "steps": _steps(),
            "rows": counts,
        }
        with _entry(package, "about.json") as out:
            out.write(json.dumps(about, indent=1).encode())
    return counts


def _entry(package: zipfile.ZipFile, name: str) -> IO[bytes]:
    info = zipfile.ZipInfo(name, FIRST)
    info.compress_type = zipfile.ZIP_DEFLATED
    return package.open(info, "w", force_zip64=True)


def _rows(model: type[models.Model]) -> Iterator[models.Model]:
    # Every row in its order, whatever a model's own manager leaves out.
    yield from model._base_manager.order_by("pk").iterator(chunk_size=AT_ONCE)


def _write_rows(out: IO[bytes], model: type[models.Model]) -> int:
    count = 0
    out.write(b"[")
    for row in _rows(model):
        (plain,) = serializers.serialize("python", [row])
        text = json.dumps({"pk": plain["pk"], "fields": plain["fields"]}, cls=_Exact, ensure_ascii=False)
        out.write((",\n" if count else "\n").encode() + text.encode())
        count += 1
    out.write(b"\n]\n")
    return count


def _write_csv(out: IO[bytes], model: type[models.Model]) -> None:
    text = io.TextIOWrapper(out, "utf-8", newline="", write_through=True)
    sheet = csv.writer(text)
    names = [field.attname for field in model._meta.concrete_fields]
    sheet.writerow(names)
    for row in _rows(model):
        sheet.writerow([as_text(getattr(row, name)) for name in names])
    text.detach()


def read_export(source: IO[bytes]) -> dict[str, int]:
    """Read a ZIP into an empty workshop, all of it or nothing; returns how many rows each table got. Raises
    :class:`Problem` for a workshop that is not empty, a file that is none, one of another version, and one that
    holds what it should not."""
    if Formula.objects.exists() or Lot.objects.exists():
        raise Problem("This workshop has formulas or lots already: read it into an empty one, so that nothing is lost.")
    try:
        with zipfile.ZipFile(source) as package:
            _require_sane(package)
            return _read(package)
    except zipfile.BadZipFile:
        raise Problem("That is no export of Calm Tin: it should be the ZIP that it wrote.") from None
    except (ValueError, KeyError, TypeError, DatabaseError, serializers.base.DeserializationError) as refusal:
        raise Problem(f"The export cannot be read, and nothing of it was kept ({str(refusal)[:120]}).") from None


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


def _read(package: zipfile.ZipFile) -> dict[str, int]:
    about = json.loads(package.read("about.json"))
    if not isinstance(about, dict) or about.get("sort") != SORT:
        raise Problem("That is no export of a workshop of Calm Tin.")
    if about.get("schema") != SCHEMA or about.get("steps") != _steps():
        raise Problem("That export is of another version of Calm Tin: bring both to the same one, and export again.")
    counts, kept = {}, []
    try:
        with transaction.atomic(), connection.constraint_checks_disabled():
            for model in owned():
                counts[model._meta.label_lower] = _read_table(package, model)
            connection.check_constraints()
            kept = _read_photos(package)
    except BaseException:
        for file in kept:
            file.unlink(missing_ok=True)
        raise
    news_of_pours()
    return counts


def _read_table(package: zipfile.ZipFile, model: type[models.Model]) -> int:
    label = model._meta.label_lower
    rows: list[dict[str, Any]] = json.loads(package.read(f"tables/{label}.json"))
    model._base_manager.all().delete()  # a new workshop has only what its first page wrote
    found = serializers.deserialize("python", [{"model": label, **row} for row in rows])
    for row in found:
        row.save()
    return len(rows)


def _read_photos(package: zipfile.ZipFile) -> list[Path]:
    kept = []
    for entry in package.infolist():
        if name := PHOTO.fullmatch(entry.filename):
            photos.folder().mkdir(mode=0o700, exist_ok=True)
            file = photos.folder() / name.group(1)
            file.write_bytes(package.read(entry))
            kept.append(file)
    return kept
