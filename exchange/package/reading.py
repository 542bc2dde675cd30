"""Reading a ZIP that :mod:`exchange.package.writing` wrote: into an empty workshop as it is, into a full one beside
what is there; all of it or nothing."""

import re
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import IO, Any

from django.db import DatabaseError, connection, transaction

from balmcore.errors import Problem
from exchange.package.agreement import disagreements, require_agreement
from exchange.package.merging import MergePlan
from exchange.package.pictures import PHOTO, Pictures
from exchange.package.rows import read_rows
from exchange.package.tables import APPS, owned_models
from exchange.package.upgrading import upgraded_package
from exchange.package.writing import SCHEMA, SORT, steps
from formulas.models import Formula
from pantry.models import Lot
from workshop.files import limits
from workshop.services import bump_records_revision

TABLE = re.compile(r"tables/([a-z]+)\.[a-z]+\.json")
CSV = re.compile(r"csv/[a-z.]+\.csv")
UNCHANGED = re.compile(r"Nothing (of it was kept|was changed|was brought)")
NOT_WHOLE = (zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, EOFError, RuntimeError, NotImplementedError)


@dataclass(frozen=True)
class Brought:
    """What a ZIP brought: rows by table, how many were here already, and sentences on what stayed as it was here, on
    numbers that changed, and on what was left out."""

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
    """Read a ZIP, all of it or nothing. Raises :class:`Problem` for a file that is none, one of a later version, one
    that holds what it should not, and one that cannot stand beside what is here."""
    try:
        with _refusals(), zipfile.ZipFile(source) as package:
            _require_sane(package)
            with _of_this_version(package) as tables:
                return _read(tables, package)
    except NOT_WHOLE:
        raise Problem(
            "That is no export of Calm Tin, or not the whole of one: it should be the ZIP that it wrote. "
            "Nothing was changed."
        ) from None


@contextmanager
def _refusals() -> Iterator[None]:
    """Every refusal says that nothing was kept."""
    try:
        yield
    except Problem as problem:
        if UNCHANGED.search(problem.sentence):
            raise
        raise Problem(f"Nothing of it was kept: {problem.sentence}") from None
    except DatabaseError as refusal:
        raise Problem(f"Nothing of it was kept: its rows do not stand together ({refusal}).") from None
    except (ArithmeticError, ValueError, TypeError, LookupError) as refusal:
        raise Problem(f"Nothing of it was kept: it holds what cannot be read ({refusal}).") from None
    except OSError as refusal:
        raise Problem(f"Nothing of it was kept: {refusal.strerror or refusal}. Make room on the disk.") from None


def is_empty() -> bool:
    """True for a workshop in which nothing was made or bought yet."""
    return not (Formula.objects.exists() or Lot.objects.exists())


def _require_sane(package: zipfile.ZipFile) -> None:
    limits.require_sane_archive(package)
    names = package.namelist()
    _refuse_strange([name for name in names if not _is_known(name)])
    if len(set(names)) < len(names):
        raise Problem("That file holds something twice: it was not opened. Nothing was changed.")
    if "about.json" not in names:
        raise Problem("That is no export of Calm Tin: it does not say what it is. Nothing was changed.")


def _is_known(name: str) -> bool:
    table = TABLE.fullmatch(name)
    return (
        name == "about.json" or bool(PHOTO.fullmatch(name) or CSV.fullmatch(name)) or bool(table and table[1] in APPS)
    )


@contextmanager
def _of_this_version(package: zipfile.ZipFile) -> Iterator[zipfile.ZipFile]:
    """The tables of a ZIP as this version has them; those of an earlier one are brought up to date on the side."""
    about: Any = None
    if package.getinfo("about.json").file_size <= limits.ROW_BYTES:
        about = limits.read_json(package.read("about.json").decode("utf-8", "replace"))
    if not isinstance(about, dict) or about.get("sort") != SORT:
        raise Problem("That is no export of a workshop of Calm Tin. Nothing was changed.")
    made = about.get("steps")
    if not isinstance(made, list) or not all(isinstance(step, str) for step in made) or not made:
        raise Problem("It does not say how its tables were made.")
    later = sorted(set(made) - set(steps()))
    if later or about.get("schema") != SCHEMA:
        told = ", ".join(later[:3]) or f"schema {str(about.get('schema'))[:20]}"
        raise Problem(
            f"That export is of another version of Calm Tin, a newer one, which knows {told[:120]}: start that one, or "
            "bring this one up to date. Nothing was changed."
        )
    if set(made) == set(steps()):
        _require_tables_here(package)
        yield package
    else:
        with upgraded_package(package, made) as tables:
            yield tables


def _require_tables_here(package: zipfile.ZipFile) -> None:
    known = {f"tables/{model._meta.label_lower}.json" for model in owned_models()}
    _refuse_strange([name for name in package.namelist() if name.startswith("tables/") and name not in known])


def _refuse_strange(names: list[str]) -> None:
    if names:
        raise Problem(f"That file holds what no export does ({names[0][:60]}): it was not opened. Nothing was changed.")


def _read(tables: zipfile.ZipFile, package: zipfile.ZipFile) -> Brought:
    pictures = Pictures(package)
    try:
        with transaction.atomic():
            known = set(disagreements())  # what did not agree here before is no fault of the file's
            found = _into_empty(tables, pictures) if is_empty() else _beside(tables, pictures)
            connection.check_constraints()
            require_agreement(known)
            said = pictures.bring()
    except BaseException:
        pictures.take_back()
        raise
    bump_records_revision()
    return Brought(found.counts, found.already, (*found.said, *said))


def _into_empty(tables: zipfile.ZipFile, pictures: Pictures) -> Brought:
    """Every row by its own number; a new workshop has only what its first page wrote."""
    counts, said = {}, list[str]()
    with connection.constraint_checks_disabled():
        for model in owned_models():
            model._base_manager.all().delete()
            count = 0
            for row in read_rows(tables, model, said):
                pictures.named(row.object)
                row.save(force_insert=True)
                count += 1
            counts[model._meta.label_lower] = count
    return Brought(counts, said=tuple(_replaced(said)))


def _beside(tables: zipfile.ZipFile, pictures: Pictures) -> Brought:
    merge = MergePlan(pictures.named)
    for model in owned_models():
        merge.bring(model, read_rows(tables, model, []))
    merge.finish()
    return Brought(merge.counts, merge.already, tuple(merge.said))


def _replaced(names: list[str]) -> Iterator[str]:
    if names:
        yield f"Settings that could not be are as usual: {', '.join(names)}."
