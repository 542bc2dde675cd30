"""Writing down checks and wear tests. Nothing is written over: a check can only be set aside, with a reason."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, transaction
from django.db.models import F

from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables, shipped
from balmcore.trials.press import Measured, at_window, repeated, sensible_temp, thumb
from formulas.models import Version
from formulas.services import advance_stage
from pours.models import Check, CheckPhoto, FollowUp, Pour, WearTest
from workshop.files import photos
from workshop.services import bump_records_revision

MOST_PHOTOS = 12


@dataclass(frozen=True)
class Test:
    """A firmness test as read from a form: ``method`` is "", "press" or "thumb"; ``readings`` in grams."""

    method: str
    rod_mm: int | None = None
    readings: tuple[float, ...] = ()
    thumb: str = ""
    test_c: float | None = None


def widest_mm(pour: Pour) -> float | None:
    """Width of the widest piece, in which one would test; None when any is not known."""
    known, rows = shipped().containers, pour.containers
    widths = [known[row.container_key].diameter_mm for row in rows if row.container_key in known]
    return max(widths) if widths and len(widths) == len(rows) else None


def measure(test: Test, resolution_g: float, piece_mm: float | None) -> Measured | None:
    """The measured firmness, None without a test. Raises :class:`Problem` for an unfit one."""
    if not test.method:
        return None
    if test.test_c is None:
        raise Problem("How warm was the piece? Firmness means little without it.", "test_c")
    sensible_temp(test.test_c)
    if test.method == Check.Method.THUMB:
        return thumb(test.thumb)
    if test.rod_mm is None or not test.readings:
        raise Problem("A press test needs the rod and the peak reading.", "readings")
    return repeated(test.readings, test.rod_mm, resolution_g, piece_mm).measured


@transaction.atomic
def record_check(
    pour: Pour,
    tables: Tables,
    fields: Mapping[str, Any],
    test: Test,
    files: Sequence[UploadedFile] = (),
    follow_up: FollowUp | None = None,
) -> Check:
    """Add a check with the prediction that stands now, and its photographs; it answers ``follow_up`` and what
    was due before it. Raises :class:`Problem` for an unfit test, and for photographs that cannot be kept."""
    if len(files) > MOST_PHOTOS:
        raise Problem(f"A check keeps up to {MOST_PHOTOS} photographs: choose the ones that show something.", "photos")
    measured = measure(test, float(pour.batch.resolution_g), widest_mm(pour))
    prediction = predict(pour.to_composition(tables), pour.batch.overrun)
    at = WINDOW_C if test.test_c is None else test.test_c
    check = Check(pour=pour, **fields)
    check.method, check.test_c = test.method, test.test_c
    if test.method == Check.Method.PRESS:
        check.rod_mm, check.readings = test.rod_mm, list(test.readings)
    elif test.method:
        check.thumb = test.thumb
    check.predicted, check.predicted_sigma = prediction.firmness_at(at), prediction.sigma
    if measured is not None:
        check.measured, check.measured_sigma = measured.firmness, measured.sigma
        check.firmness_21 = at_window(measured.firmness, at, prediction)
    # The files come last: a refused one leaves neither a check nor another's file behind.
    names = photos.keep_all(files)
    check.save()
    CheckPhoto.objects.bulk_create(CheckPhoto(check_of=check, file=name) for name in names)
    _answer(check, follow_up)
    bump_records_revision()
    return check


def _answer(check: Check, follow_up: FollowUp | None) -> None:
    """Link a check to the day it was due on, or to the last one due by then."""
    due = FollowUp.objects.filter(pour=check.pour, answer=None, due_on__lte=check.checked_on).last()
    asked = follow_up if follow_up is not None and follow_up.answer_id is None else due
    if asked is not None:
        asked.answer = check
        asked.save(update_fields=("answer",))


@transaction.atomic
def exclude_check(check: Check, how: str, why: str, revision: int) -> None:
    """Let a check count again, or no more, with the reason. Raises :class:`Problem` without one, and when
    another tab changed it."""
    if how and not why:
        raise Problem("Say why: in a year nobody will know.", "exclusion_reason")
    changed = Check.objects.filter(pk=check.pk, revision=revision).update(
        exclusion=how, exclusion_reason=why if how else "", revision=revision + 1
    )
    if not changed:
        raise Problem("Another tab changed this check meanwhile: look at it, then do it again.")
    bump_records_revision()


def add_follow_up(pour: Pour, due_on: date, words: str) -> FollowUp:
    """A day of one's own on which to look at a pour. Raises :class:`Problem` for one before it was poured, and
    for a day that is there already."""
    if due_on <= pour.poured_on:
        raise Problem("Choose a day after it was poured.", "due_on")
    try:
        with transaction.atomic():
            return FollowUp.objects.create(pour=pour, due_on=due_on, words=words or "a day of its own")
    except IntegrityError:
        raise Problem("That day is there already.", "due_on") from None


@transaction.atomic
def judge(pour: Pour, verdict: str) -> None:
    """Keep, change or drop, at a word from a check."""
    pour.verdict = verdict
    Pour.objects.filter(pk=pour.pk).update(verdict=verdict, revision=F("revision") + 1)
    if verdict:
        advance_stage(pour.batch.version, Version.Stage.JUDGED)


def record_wear(pour: Pour, fields: Mapping[str, Any]) -> WearTest:
    """Add what a wearer said."""
    return WearTest.objects.create(pour=pour, **fields)
