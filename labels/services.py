"""Keeping what labels say and the sheets they are printed on."""

from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction

from balmcore.errors import Problem
from formulas.models import Formula
from labels.forms import LENGTHS
from labels.models import LabelText, Maker, Sheet

MOST_SHEETS = 60


def maker() -> Maker:
    """Who makes it; empty, unsaved, until it is first said."""
    return Maker.objects.filter(pk=1).first() or Maker(pk=1)


def text_of(formula: Formula) -> LabelText:
    """What the labels of a formula say; what is usual, unsaved, until it is first said."""
    return LabelText.objects.filter(formula=formula).first() or LabelText(formula=formula)


def texts_of(formulas: Iterable[int]) -> dict[int, LabelText]:
    """What was said for the labels of some formulas, by formula. One query."""
    return {text.formula_id: text for text in LabelText.objects.filter(formula__in=formulas)}


@transaction.atomic
def keep(formula: Formula, data: Mapping[str, Any]) -> None:
    """Keep who makes it, how it is used, by which names and why its words may be said."""
    names = {"name": data["maker"], "address": data["address"]}
    Maker.objects.update_or_create(pk=1, defaults=names)
    said = {name: data[name] for name in ("use", "names", "dates", "has_code", "claims_why")}
    LabelText.objects.update_or_create(formula=formula, defaults=said)


def keep_sheet(name: str, data: Mapping[str, Any]) -> Sheet:
    """Keep a sheet by its name; one of the same name moves. Raises :class:`Problem`."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 60:
        raise Problem("Give the sheet a name of up to 60 letters.", "sheet_name")
    if not Sheet.objects.filter(name=name).exists() and Sheet.objects.count() >= MOST_SHEETS:
        raise Problem(f"{MOST_SHEETS} sheets are kept: that is enough.", "sheet_name")
    lengths = {f"{each}_mm": data[each] for each in LENGTHS}
    plain = {each: data[each] for each in ("paper", "columns", "rows")}
    return Sheet.objects.update_or_create(name=name, defaults={**plain, **lengths})[0]
