"""What ``doctor`` says of a workshop, its copies, its photographs and its folder."""

import json
import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import DatabaseError

from balmcore.errors import Problem
from exchange.copies import list_copies, preview
from exchange.data_folder import DATABASE_FILE, newest_sound, opened, served_at
from exchange.package.agreement import disagreements
from exchange.package.rows import check_row, sentence_of
from exchange.package.tables import owned_models
from exchange.restoring import require_sound
from workshop.files import photos

LEAST_FREE_MB = 200
LOOKED_AT, MOST_SAID = 3, 5
SETTLED_S = 3600  # what was sent just now may be named in a moment
Finding = tuple[bool, str]


def examine(folder: Path, known: set[tuple[str, str]]) -> Iterator[Finding]:
    """Whether each thing is as it should be, and a sentence on it."""
    yield from _database(folder, known)
    yield from _copies(folder, known)
    yield True, served_at(folder) or "No server has this workshop open."
    free_mb = shutil.disk_usage(folder).free // 1024**2
    is_room = free_mb > LEAST_FREE_MB
    yield is_room, f"{free_mb} MB are free on its disk{'' if is_room else ': make room'}."
    rights = folder.stat().st_mode & 0o077
    yield not rights, f"{folder} is {'readable by others: chmod 700 it' if rights else 'its owner’s alone'}."
    yield from _photographs(folder)


def _database(folder: Path, known: set[tuple[str, str]]) -> Iterator[Finding]:
    live = folder / DATABASE_FILE
    try:
        found = preview(live, known)
        require_sound(live)
    except Problem as problem:
        sound = newest_sound(folder)
        yield False, problem.sentence + (f" {sound.name} is whole: put it back." if sound else "")
        return
    told_of = ", ".join(f"{count} {name}" for name, count in found.counts.items())
    yield True, f"The workshop is whole: {told_of}."
    if found.steps >= known and folder == settings.DATA_DIR:
        yield from _rows()


def _rows() -> Iterator[Finding]:
    """What rows hold, by their models and beside each other."""
    wrong: list[str] = []
    with suppress(DatabaseError):  # the tables of another folder, or none
        for model in owned_models():
            wrong += [f"{model._meta.verbose_name_plural}: {sentence}" for sentence in _unfit(model)]
        wrong += list(disagreements())
    for sentence in wrong[:MOST_SAID]:
        yield False, sentence
    if len(wrong) > MOST_SAID:
        yield False, f"And {len(wrong) - MOST_SAID} more of the kind."


def _unfit(model: type) -> Iterator[str]:
    try:
        for row in model._base_manager.iterator(chunk_size=500):  # type: ignore[attr-defined]
            try:
                check_row(row)
            except ValidationError as refusal:
                yield f"row {row.pk} holds what cannot be ({sentence_of(refusal)})."
    except (TypeError, ValueError, ArithmeticError) as refusal:
        yield f"they hold what cannot be read ({refusal})."


def _copies(folder: Path, known: set[tuple[str, str]]) -> Iterator[Finding]:
    copies = list_copies(folder)
    if not copies:
        yield False, "There is no copy beside it: make one with manage.py backup."
    for copy in copies[:LOOKED_AT]:
        try:
            preview(copy.file, known)
        except Problem as problem:
            yield False, problem.sentence
        else:
            yield True, f"{copy.name} is whole."


def _photographs(folder: Path) -> Iterator[Finding]:
    named, there = _named(folder) or [], folder / "photos"
    lost = sum(not (there / name).is_file() for name in named)
    yield (
        not lost,
        f"{lost} photographs are named and not there." if lost else "Every photograph that is named is there.",
    )
    if unnamed := photos.unnamed(named, there):
        yield False, f"{len(unnamed)} files in {there} are named by nothing: doctor --tidy removes them."


def _named(folder: Path) -> list[str] | None:
    """The photographs that checks and steps at the bench name; None where that cannot be read."""
    with (
        suppress(sqlite3.Error),
        opened(folder / DATABASE_FILE) as database,
    ):
        names = [name for (name,) in database.execute("SELECT file FROM pours_checkphoto")]
        events = database.execute("SELECT data FROM bench_event WHERE kind = 'photo'")
        return [*names, *(str(json.loads(data).get("file")) for (data,) in events)]
    return None


def remove_unnamed(folder: Path) -> int:
    """Remove the photographs that nothing names and that lie there for an hour; returns how many. None are removed
    where it cannot be read what is named."""
    if (named := _named(folder)) is None:
        return 0
    found = [
        file for file in photos.unnamed(named, folder / "photos") if time.time() - file.stat().st_mtime > SETTLED_S
    ]
    for file in found:
        file.unlink()
    return len(found)
