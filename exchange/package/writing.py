"""Writing everything into a ZIP, a few hundred rows at once."""

import csv
import io
import json
import zipfile
from datetime import UTC, datetime
from typing import IO, Any

from django.core import serializers
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models

from exchange.package.tables import APPS, owned_models
from exchange.startup import known_steps
from workshop.files import photos
from workshop.files.sheets import as_text

SORT, SCHEMA = "calm-tin-workshop", 1
FIRST = (1980, 1, 1, 0, 0, 0)
AT_ONCE = 500


class _Exact(DjangoJSONEncoder):
    """Moments to the microsecond: Django's own writes milliseconds, and what comes back would be another one."""

    def default(self, value: Any) -> Any:
        """A value as JSON."""
        return value.isoformat() if isinstance(value, datetime) else super().default(value)


def steps() -> list[str]:
    """The steps by which the tables were made, of the apps that are handed over."""
    return sorted(f"{app}.{name}" for app, name in known_steps() if app in APPS)


def write_export(target: IO[bytes]) -> dict[str, int]:
    """Write everything into a ZIP, a few hundred rows at once; returns how many rows each table has."""
    counts: dict[str, int] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as package:
        for model in owned_models():
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
            "steps": steps(),
            "rows": counts,
        }
        with _entry(package, "about.json") as out:
            out.write(json.dumps(about, indent=1).encode())
    return counts


def _entry(package: zipfile.ZipFile, name: str) -> IO[bytes]:
    info = zipfile.ZipInfo(name, FIRST)
    info.compress_type = zipfile.ZIP_DEFLATED
    return package.open(info, "w", force_zip64=True)


def _rows(model: type[models.Model]) -> models.QuerySet[models.Model]:
    """Every row in its order, whatever a model's own manager leaves out."""
    return model._base_manager.order_by("pk")


def _write_rows(out: IO[bytes], model: type[models.Model]) -> int:
    count, encoder = 0, _Exact(ensure_ascii=False)
    out.write(b"[")
    for row in _rows(model).iterator(chunk_size=AT_ONCE):
        (plain,) = serializers.serialize("python", [row])
        text = encoder.encode({"pk": plain["pk"], "fields": plain["fields"]})
        out.write((",\n" if count else "\n").encode() + text.encode())
        count += 1
    out.write(b"\n]\n")
    return count


def _write_csv(out: IO[bytes], model: type[models.Model]) -> None:
    text = io.TextIOWrapper(out, "utf-8", newline="", write_through=True)
    sheet = csv.writer(text)
    names = [field.attname for field in model._meta.concrete_fields]
    sheet.writerow(names)
    for row in _rows(model).values_list(*names).iterator(chunk_size=AT_ONCE):
        sheet.writerow([as_text(value) for value in row])
    text.detach()
