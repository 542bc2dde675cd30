"""What becomes of the rows of a notebook: formulas by name, a version for each change, pours and their tests."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, time
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from balmcore.advice.kind_of import kind_of
from balmcore.advice.shelf_life import keeps
from balmcore.composition import Composition
from balmcore.making.pot import pour_temperature
from balmcore.making.scaling import filled_density
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.recipes.notebook import UNTOLD_G, Entry
from balmcore.tables import Kind, Tables
from batches.models import LADDER_CUP, Batch, BatchContainer, BatchLine
from checks.services import Test, record_check
from formulas.models import Formula, Version
from formulas.services import MOST_NOTE, advance_stage, begin_formula, save_version
from pantry.infusions import with_own_infusions
from pantry.tables import workshop_tables
from pours.models import Check, Pour
from workshop.models import Preferences
from workshop.services import bump_records_revision

FROM = "From a notebook."
Made = tuple[int, frozenset[tuple[str, Decimal]]]  # a formula's number, and the shares of one of its versions


@dataclass
class Brought:
    """How many of each were made."""

    formulas: int = 0
    versions: int = 0
    pours: int = 0
    tests: int = 0

    @property
    def words(self) -> str:
        """``3 formulas, 5 versions, 9 pours, 7 tests``."""
        counts = (("formula", self.formulas), ("version", self.versions), ("pour", self.pours), ("test", self.tests))
        return ", ".join(f"{count} {name}{'' if count == 1 else 's'}" for name, count in counts)


@transaction.atomic
def bring(entries: Iterable[Entry], tables: Tables, prefs: Preferences) -> Brought:
    """Make all of it, the oldest first. No stock is drawn: what is past was used up then."""
    brought = Brought()
    known: dict[str, Formula] = {}
    versions: dict[Made, Version] = {}
    rows = [
        replace(entry, composition=with_own_infusions(entry.composition))
        for entry in entries
        if entry.composition is not None and not entry.problem
    ]
    if any(line.key not in tables.ingredients for row in rows if row.composition for line in row.composition.lines):
        tables = workshop_tables()
    for entry in sorted(rows, key=lambda entry: (entry.day is None, entry.day or timezone.localdate(), entry.number)):
        assert entry.composition is not None
        formula = known.get(entry.name.lower())
        if formula is None:
            kind = _kind(entry, tables)
            formula = begin_formula(_free(entry.name), kind, entry.composition, _note(entry))
            known[entry.name.lower()] = formula
            versions[_made(formula, entry.composition)] = formula.versions.get()
            brought.formulas += 1
            brought.versions += 1
        version = _version(formula, entry, versions, brought)
        if entry.day is not None:
            _pour(version, entry, tables, prefs, brought)
    bump_records_revision()
    return brought


def _kind(entry: Entry, tables: Tables) -> Kind:
    assert entry.composition is not None
    return kind_of(entry.composition, tables, entry.name).kind


def _free(name: str) -> str:
    """The name, told apart from a formula that is here already: what is brought stands beside it."""
    taken = set(Formula.objects.values_list("name", flat=True))
    if name not in taken:
        return name
    numbers = (f"{name[:100]}, notebook{'' if n == 1 else f' {n}'}" for n in range(1, len(taken) + 2))
    return next(each for each in numbers if each not in taken)


def _note(entry: Entry) -> str:
    told = "" if entry.is_pour else entry.notes
    return f"{FROM} {told}".strip()[:MOST_NOTE]


def _made(formula: Formula, composition: Composition) -> Made:
    return formula.pk, frozenset((line.key, line.share) for line in composition.lines)


def _version(formula: Formula, entry: Entry, known: dict[Made, Version], brought: Brought) -> Version:
    """The version with these shares, made where there is none."""
    assert entry.composition is not None
    made = _made(formula, entry.composition)
    if made not in known:
        current = formula.versions.get(is_current=True)
        known[made] = save_version(
            formula, entry.composition, seen=current.pk, made_from=current.number, note=_note(entry)
        )
        brought.versions += 1
    return known[made]


def _pour(version: Version, entry: Entry, tables: Tables, prefs: Preferences, brought: Brought) -> None:
    assert entry.composition is not None
    assert entry.day is not None
    batch = _batch(version, entry.composition, entry, tables, prefs)
    prediction = predict(entry.composition.without_volatiles, batch.overrun)
    kept = keeps(entry.day, entry.composition, {})
    pour = Pour.objects.create(
        batch=batch,
        poured_on=entry.day,
        cooling=entry.cooled or Pour.Cooling.OTHER,
        cooling_note="" if entry.cooled else "not said in the notebook",
        predicted=prediction.firmness_at(WINDOW_C),
        predicted_sigma=prediction.sigma,
        best_before=kept.until if kept else None,
        notes=f"{FROM} {entry.notes}".strip(),
        verdict=entry.verdict,
    )
    brought.pours += 1
    advance_stage(version, Version.Stage.JUDGED if entry.verdict else Version.Stage.POURED)
    if entry.thumb:
        fields = {"checked_on": entry.day, "is_day_known": False, "notes": FROM}
        test = Test(Check.Method.THUMB, thumb=entry.thumb, test_c=entry.test_c)
        record_check(pour, tables, fields, test)
        brought.tests += 1


def _batch(version: Version, composition: Composition, entry: Entry, tables: Tables, prefs: Preferences) -> Batch:
    """A melt of that day, weighed as it was written; its containers are not known."""
    assert entry.day is not None
    total = entry.grams or UNTOLD_G
    batch = Batch.objects.create(
        version=version,
        state=Batch.State.POURED,
        resolution_g=prefs.resolution_g,
        pour_c=round(pour_temperature(composition)),
        overrun=version.formula.to_kind(tables).overrun,
        heating=prefs.heating,
        whipper=prefs.whipper,
    )
    when = timezone.make_aware(datetime.combine(entry.day, time(12)))
    Batch.objects.filter(pk=batch.pk).update(created=when)
    BatchLine.objects.bulk_create(
        BatchLine(
            batch=batch,
            position=n,
            ingredient_key=line.key,
            target_g=round(line.share * total, 6),
            actual_g=round(line.share * total, 6),
        )
        for n, line in enumerate(composition.lines)
    )
    # What it was filled into is not told: one vessel as large as all of it, of which no piece is left.
    density = filled_density(composition, batch.pour_c, batch.overrun)
    BatchContainer.objects.create(
        batch=batch,
        container_key=LADDER_CUP,
        name="not written down",
        capacity_ml=float(total) / density,
        fill=1,
        count=1,
        filled=0,
    )
    return batch
