"""What comes in from outside is looked at by its declared size before anything of it is unpacked: every bound in
one place, named in docs/export.md. A request should never take more than 300 MB of memory."""

import json
import math
import zipfile
from typing import Any, NoReturn

from balmcore.errors import Problem

MB = 1024**2

PHOTO_BYTES = 12 * MB
PHOTO_SIDE_PX = 20_000
PHOTO_PIXELS = {"JPEG": 40_000_000, "PNG": 20_000_000, "WEBP": 14_000_000}  # each unpacks to less than 300 MB

ZIP_ENTRIES = 100_000
ZIP_BYTES = 4 * 1024 * MB  # all entries together, photographs for the most part
ZIP_RATIO, ZIP_RATIO_FROM = 200, MB  # of what unpacks to more than so many bytes
TABLE_BYTES = 512 * MB  # one table, which is read row by row
WORKBOOK_BYTES = 20 * MB  # of all parts of a spreadsheet

JSON_DEPTH = 12
ROW_BYTES = MB


def require_sane_archive(package: zipfile.ZipFile, most_bytes: int = ZIP_BYTES) -> None:
    """Raises :class:`Problem` for an archive that says it unpacks to too much, in all or for what it weighs."""
    entries = package.infolist()
    large = len(entries) > ZIP_ENTRIES or sum(entry.file_size for entry in entries) > most_bytes
    if large or any(entry.file_size > ZIP_RATIO_FROM and _ratio(entry) > ZIP_RATIO for entry in entries):
        raise Problem("That file unpacks to more than any workshop holds: it was not opened.", "file")


def _ratio(entry: zipfile.ZipInfo) -> float:
    return entry.file_size / max(1, entry.compress_size)


def read_json(text: str) -> Any:
    """What a JSON text says. Raises :class:`Problem` for what is none, one nested too deep, one with a number without
    end, and one with letters that no text has."""
    try:
        found = json.loads(text, parse_constant=refuse, parse_float=finite)
    except RecursionError:
        raise Problem(f"It is nested deeper than {JSON_DEPTH}.", "file") from None
    except ValueError as refusal:
        raise Problem(f"It is no JSON ({refusal}).", "file") from None
    require_plain(found)
    return found


def require_plain(value: Any, depth: int = 0) -> None:
    """Raises :class:`Problem` for a value nested too deep, a number without end, and letters that no text has."""
    if depth > JSON_DEPTH:
        raise Problem(f"It is nested deeper than {JSON_DEPTH}.", "file")
    if isinstance(value, str) and any(ch == "\0" or "\ud800" <= ch <= "\udfff" for ch in value):
        raise Problem("It holds letters that no text has.", "file")
    if isinstance(value, float) and not math.isfinite(value):
        raise Problem("It holds a number without end.", "file")
    if isinstance(value, dict):
        for key, each in value.items():
            require_plain(key, depth + 1)
            require_plain(each, depth + 1)
    elif isinstance(value, list | tuple):
        for each in value:
            require_plain(each, depth + 1)


def refuse(word: str) -> NoReturn:
    """Infinity and what is no number, which JSON does not know. Raises :class:`Problem`."""
    raise Problem(f"It holds {word}, which is no number.", "file")


def finite(text: str) -> float:
    """A number in JSON. Raises :class:`Problem` for one without end."""
    number = float(text)
    if not math.isfinite(number):
        raise Problem(f"{text[:20]} is no number that can be.", "file")
    return number
