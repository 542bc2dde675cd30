"""What can be done to formulas: begin one, save a version, restore one, note how far it came."""

from collections.abc import Iterable

from django.db import transaction
from django.utils import timezone

from balmcore.composition import Composition, percent_text
from balmcore.design.meant import Meant
from balmcore.errors import Problem
from balmcore.tables import Kind, Starter, Tables
from balmcore.wording import in_sentence
from formulas.models import Formula, Line, Version
from workshop.kinds import WINDOW, require_window

MOST_NOTE = 500


class StaleVersion(Problem):
    """Somebody saved in between; ``current`` is the version they made."""

    def __init__(self, current: Version) -> None:
        super().__init__(
            f"Version {current.number} was saved in another tab while you worked on this page. "
            "Nothing of yours is lost."
        )
        self.current = current


def starting_point(chosen: Kind | Starter, tables: Tables) -> Composition:
    """The composition a new formula of a kind or by a starter begins with."""
    return Composition.of({key: round(percent / 100, 6) for key, percent in chosen.start}, tables)


@transaction.atomic
def begin_formula(name: str, kind: Kind, composition: Composition, note: str, meant: Meant | None = None) -> Formula:
    """A new formula of a kind with its first version."""
    formula = Formula.objects.create(name=name, kind_key=kind.key, area=kind.area)
    _store(formula, composition, None, note, meant=meant)
    return formula


def begin_from(name: str, choice: str, tables: Tables) -> Formula:
    """A new formula from a kind's or a starter's starting point. Raises :class:`Problem`."""
    starter = tables.starters.get(choice)
    if starter is not None:
        note = f"{starter.name}: {starter.reason}"
        return begin_formula(name, tables.kind(starter.kind), starting_point(starter, tables), note)
    kind = tables.kind(choice)
    note = f"The starting point for a {in_sentence(kind.name)}."
    return begin_formula(name, kind, starting_point(kind, tables), note)


@transaction.atomic
def save_version(
    formula: Formula,
    composition: Composition,
    *,
    seen: int,
    made_from: int,
    note: str,
    keep_both: bool = False,
    held: Iterable[str] = (),
    meant: Meant | None = None,
    percent_of: str = "",
) -> Version:
    """The next version of a formula; with no ``meant`` or ``percent_of`` of its own it is meant for what the one is
    that it came from. Where nothing but the note is new, that is noted with the current version.

    Lines at nothing leave it. ``seen`` is the version that was current when the page was opened. When another has been
    saved since, :class:`StaleVersion` is raised, unless ``keep_both`` says to save beside it; ``made_from`` is the
    number of the version it came from. Raises
    :class:`Problem` for a composition that does not add to exactly one hundred percent.
    """
    composition.require_mass()
    if not composition.is_whole:
        raise Problem(
            f"A version adds to exactly 100 %; this is {percent_text(composition.total, 2)} %. "
            "Bring it to 100, or change a line.",
            "total",
        )
    current = formula.versions.get(is_current=True)
    if current.pk != seen and not keep_both:
        raise StaleVersion(current)
    source = formula.versions.filter(number=made_from).first() or current
    formula.save(update_fields=("audience", "area"))
    # A line at nothing was only there to be tried.
    used = Composition(tuple(line for line in composition.lines if line.share))
    meant, percent_of = meant or source.meant, percent_of or source.percent_of
    if note and current == source and _is_as(current, used, held, meant, percent_of):
        current.note = note
        current.save(update_fields=("note",))
        return current
    return _store(formula, used, source, note, held=held, meant=meant, percent_of=percent_of)


def _is_as(version: Version, composition: Composition, held: Iterable[str], meant: Meant, percent_of: str) -> bool:
    """Whether a version is what would be saved."""
    lines = [(line.key, line.share, line.locked) for line in composition.lines]
    return (
        [(line.ingredient_key, line.share, line.locked) for line in version.lines.all()] == lines
        and version.held == ",".join(held)
        and (version.meant, version.percent_of) == (meant, percent_of)
    )


def note_why(version: Version, why: str) -> None:
    """Write why a version was made, also after it was saved."""
    version.note = why.strip()[:MOST_NOTE]
    version.save(update_fields=("note",))


def set_window(formula: Formula, window: tuple[float, float, float | None, float | None] | None) -> None:
    """Give a formula a window of its own (low, high, hold and its temperature), or with None its kind's
    again. Raises :class:`Problem` for one that is none."""
    if window is not None:
        require_window(*window)
    formula.firm_low, formula.firm_high, formula.hold_firmness, formula.hold_temp_c = window or (None,) * 4
    formula.save(update_fields=WINDOW)


def put_away(formula: Formula, is_away: bool) -> None:
    """Put a formula that is no longer made away, or bring it back; nothing of it is lost."""
    formula.put_away = timezone.localdate() if is_away else None
    formula.save(update_fields=("put_away",))


@transaction.atomic
def restore_version(formula: Formula, number: int, tables: Tables) -> Version:
    """An earlier version again, as the newest one."""
    old = formula.versions.filter(number=number).first()
    if old is None:
        raise Problem(f"There is no version {number} of {formula.name}.")
    note = f"Version {number} again."
    return _store(formula, old.to_composition(tables), old, note, held=old.held_groups)


@transaction.atomic
def branch_formula(version: Version, tables: Tables) -> Formula:
    """A new formula that begins where a version is, for the same wearer."""
    source = version.formula
    name = f"{source.name} from v{version.number}"
    limit = Formula._meta.get_field("name").max_length or len(name)
    note = f"Branched from {version}."
    kind, composition = source.to_kind(tables), version.to_composition(tables)
    twin = begin_formula(name[:limit], kind, composition, note, version.meant)
    for field in ("audience", "area", *WINDOW):
        setattr(twin, field, getattr(source, field))
    twin.save(update_fields=("audience", "area", *WINDOW))
    return twin


@transaction.atomic
def save_trial(version: Version, composition: Composition, note: str) -> Version:
    """A trial beside a version: kept in the history, without taking the place of the current one."""
    return _store(version.formula, composition, version, note, current=False)


def advance_stage(version: Version, stage: Version.Stage) -> None:
    """Note how far a version has come; it never goes back."""
    Version.objects.filter(pk=version.pk, stage__lt=stage).update(stage=stage)


def _store(
    formula: Formula,
    composition: Composition,
    source: Version | None,
    note: str,
    current: bool = True,
    held: Iterable[str] = (),
    meant: Meant | None = None,
    percent_of: str = "",
) -> Version:
    meant = meant or (source.meant if source else Meant())
    composition.require_mass()  # a version of nothing has no firmness
    last = formula.versions.order_by("-number").first()
    if current:
        formula.versions.filter(is_current=True).update(is_current=False)
    version = Version.objects.create(
        formula=formula,
        number=last.number + 1 if last else 1,
        made_from=source,
        is_current=current,
        note=note,
        held=",".join(held),
        percent_of=percent_of or (source.percent_of if source else "whole"),
        vegan=meant.vegan,
        without=list(meant.without),
        stock_only=meant.stock_only,
        skin=meant.skin,
        season=meant.season,
    )
    Line.objects.bulk_create(
        Line(version=version, position=n, ingredient_key=line.key, share=line.share, locked=line.locked)
        for n, line in enumerate(composition.lines)
    )
    return version
