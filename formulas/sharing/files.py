"""A formula as a file, and reading one: what is new here, what differs, what is not known.

The file is JSON; docs/formula-file.md says what stands in it. A rest of an earlier melt is handed on as what it was
made of; an ingredient of the workshop's own with its description.
"""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from decimal import Decimal
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition, normalise, percent_text
from balmcore.design.meant import SEASONS, SKINS, Meant
from balmcore.display import CELSIUS
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Tables
from formulas.models import Formula, Version
from formulas.queries import firmness_of
from formulas.services import begin_formula
from pantry.models import PAPERS, OwnIngredient
from pantry.tables import workshop_tables
from workshop.files import limits

MOST_WISHES = 12
SORT, SCHEMA = "calm-tin-formula", 1
MOST_BYTES, MOST_LINES = 200_000, 60
OWN = ("name", "role", "like_key", "scent", "melt_low_c", "melt_high_c", "herb_keys", *PAPERS, "note")
WHOLE = Decimal(1)


def to_file(version: Version, tables: Tables) -> dict[str, Any]:
    """A version as the file that hands it on."""
    formula = version.formula
    composition = version.to_composition(tables).expanded
    own = {row.key: row for row in OwnIngredient.objects.all()}
    return {
        "sort": SORT,
        "schema": SCHEMA,
        "name": formula.name,
        "version": version.number,
        "kind": formula.to_kind(tables).name,
        "kind_key": formula.kind_key,
        "audience": formula.audience,
        "area": formula.area,
        "note": version.note,
        "meant": asdict(version.meant),
        "firmness_21_c": round(firmness_of(version, tables.plain), 1),
        "lines": [
            {
                "ingredient": line.key if line.key not in own else own[line.key].name,
                "name": line.ingredient.name,
                "inci": line.ingredient.inci,
                "percent": percent_text(line.share, 2, CELSIUS),
            }
            for line in composition.lines
        ],
        "own_ingredients": [
            {name: getattr(own[line.key], name) for name in OWN} for line in composition.lines if line.key in own
        ],
    }


@dataclass(frozen=True)
class FileLine:
    """A line of a file: its name there, what it is here (None where it is not known), and its share."""

    name: str
    item: Ingredient | None
    share: Decimal
    is_new: bool


@dataclass(frozen=True)
class FilePreview:
    """What a file would bring: the formula, its lines, own ingredients that are new here, and sentences on what
    differs."""

    name: str
    kind_key: str
    audience: str
    area: str
    note: str
    lines: tuple[FileLine, ...]
    new: tuple[Mapping[str, Any], ...]
    said: tuple[str, ...]
    meant: Meant

    @property
    def unknown(self) -> tuple[str, ...]:
        """Names of lines that nothing here is."""
        return tuple(line.name for line in self.lines if line.item is None and not line.is_new)


def read_file(text: str, tables: Tables) -> FilePreview:
    """Look at a file before anything is made of it. Raises :class:`Problem` for one that is none, of a later schema,
    or whose lines cannot be read."""
    if len(text.encode("utf-8", "replace")) > MOST_BYTES:
        raise Problem("That is larger than any formula: choose the file of one formula.", "file")
    try:
        found = limits.read_json(text)
    except Problem as problem:
        sentence = f"That is no file of a formula: it should be JSON that Calm Tin wrote. {problem.sentence}"
        raise Problem(sentence, "file") from None
    if not isinstance(found, dict) or found.get("sort") != SORT:
        raise Problem("That is no file of a formula of Calm Tin.", "file")
    if found.get("schema") != SCHEMA:
        raise Problem(
            f"That file is of schema {str(found.get('schema'))[:20]}, and this Calm Tin reads {SCHEMA}: it was written "
            "by a newer one.",
            "file",
        )
    lines, new, said = _lines(found, tables)
    kind = str(found.get("kind_key", ""))
    if kind not in tables.kinds:
        said.append(f"The kind {str(found.get('kind', kind))[:60]} is not known here: it becomes a pot salve.")
        kind = "pot_salve"
    name = " ".join(str(found.get("name", "")).split())[:120] or "Without a name"
    if Formula.objects.filter(name=name).exists():
        said.append(f"There is a {name} here already: this one stands beside it.")
    audience, area = (
        value if (value := str(found.get(field, ""))) in dict(known) else usual
        for field, known, usual in (("audience", AUDIENCES, "adult"), ("area", AREAS, "body"))
    )
    return FilePreview(
        name, kind, audience, area, str(found.get("note", ""))[:500], lines, new, tuple(said), _meant(found)
    )


def _meant(found: Mapping[str, Any]) -> Meant:
    """What a file says its formula is meant for; what cannot be read of it is nothing."""
    row = found.get("meant")
    row = row if isinstance(row, dict) else {}
    words = row.get("without")
    return Meant(
        vegan=row.get("vegan") is True,
        without=tuple(str(word)[:40] for word in words[:MOST_WISHES]) if isinstance(words, list) else (),
        skin=skin if (skin := row.get("skin")) in SKINS else "",
        season=season if (season := row.get("season")) in SEASONS else "",
    )


def _lines(
    found: Mapping[str, Any], tables: Tables
) -> tuple[tuple[FileLine, ...], tuple[Mapping[str, Any], ...], list[str]]:
    rows = found.get("lines")
    if not isinstance(rows, list) or not 1 <= len(rows) <= MOST_LINES or not all(isinstance(row, dict) for row in rows):
        raise Problem(f"The file has no lines that can be read: 1 to {MOST_LINES} of them.", "file")
    own_rows = found.get("own_ingredients") or []
    if not isinstance(own_rows, list):
        raise Problem("Its own ingredients are no list.", "file")
    described = {str(row.get("name")): row for row in own_rows if isinstance(row, dict)}
    own = {row.name: row for row in OwnIngredient.objects.all()}
    lines, new, said = [], [], []
    for row in rows:
        key = str(row.get("ingredient", ""))[:80]
        item, is_new = tables.ingredients.get(key), False
        if item is None and key in own:
            item = tables.ingredients.get(own[key].key)
            if key in described and (differs := _differs(own[key], described[key])):
                said.append(f"{key} is described otherwise here ({', '.join(differs)}): yours is kept.")
        elif item is None and key in described:
            new.append(_described(described[key]))
            is_new = True
        lines.append(FileLine(str(row.get("name") or key)[:120], item, _share(row), is_new))
    return tuple(lines), tuple(new), said


def _share(row: Mapping[str, Any]) -> Decimal:
    try:
        share = Decimal(str(row.get("percent"))) / 100
    except ArithmeticError:
        share = Decimal(-1)
    if not share.is_finite() or not 0 <= share <= WHOLE:
        raise Problem(f"{str(row.get('name'))[:60]} has no percentage that can be read.", "file")
    return round(share, 6)


def _differs(here: OwnIngredient, there: Mapping[str, Any]) -> list[str]:
    """What is told otherwise; files of earlier versions say less."""
    return [name.replace("_", " ") for name in OWN[1:-1] if name in there and getattr(here, name) != there[name]]


def _described(row: Mapping[str, Any]) -> Mapping[str, Any]:
    """An own ingredient of a file. Raises :class:`Problem` for one that cannot be."""
    found = {name: row.get(name) for name in OWN}
    name = " ".join(str(found["name"]).split())
    temps = [found["melt_low_c"], found["melt_high_c"]]
    if not all(temp is None or (isinstance(temp, int | float) and -60 <= temp <= 200) for temp in temps):
        raise Problem(f"{name[:60]} is described in a way that cannot be read.", "file")
    said = {name: row[name] for name in ("herb_keys", *PAPERS) if name in row}
    own = OwnIngredient(
        **{"role": found["role"], "scent": found["scent"], "melt_low_c": temps[0], "melt_high_c": temps[1], **said},
        name=name,
        like_key=str(found["like_key"] or "")[:60],
        note=str(found["note"] or "")[:300],
    )
    try:
        own.clean_fields()
    except (ValidationError, TypeError, AttributeError) as problem:
        raise Problem(f"{name[:60]} is described in a way that cannot be read.", "file") from problem
    return {field: getattr(own, field) for field in OWN}


@transaction.atomic
def make_of_file(seen: FilePreview) -> Formula:
    """The formula of a file, with the own ingredients that are new here. All or nothing: raises :class:`Problem`
    where a line is not known, or where it does not add up."""
    if seen.unknown:
        raise Problem(
            f"Not known here: {', '.join(seen.unknown[:6])}. Make them in the pantry first, then read it again."
        )
    made = {}
    for row in seen.new:
        own = OwnIngredient(**row)
        own.to_ingredient()
        own.save()
        made[own.name] = own.key
    tables = workshop_tables()
    shares: dict[str, Decimal] = {}
    for line in seen.lines:
        key = line.item.key if line.item else made[line.name]
        shares[key] = shares.get(key, Decimal(0)) + line.share
    composition = Composition.of(shares, tables).require_mass()
    if not composition.is_whole:
        composition = normalise(composition)
    note = " ".join(part for part in ("From a file.", seen.note) if part)[:500]
    formula = begin_formula(seen.name, tables.kind(seen.kind_key), composition, note, seen.meant)
    formula.audience, formula.area = seen.audience, seen.area
    formula.save(update_fields=("audience", "area"))
    return formula
