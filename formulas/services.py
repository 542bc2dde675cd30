"""What can be done to formulas: begin one, save a version, restore one, note how far it came."""

from django.db import transaction

from balmcore.composition import Formula as Composition
from balmcore.composition import normalise, percent_text
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.recipes.reading import Reading, composition
from balmcore.tables import Kind, School, library
from formulas.models import Formula, Line, Version

MOST_NOTE = 500


class Moved(Problem):
    """Somebody saved in between; ``current`` is the version they made."""

    def __init__(self, current: Version) -> None:
        super().__init__(
            f"Version {current.number} was saved in another tab while you worked on this page. "
            "Nothing of yours is lost."
        )
        self.current = current


def kind(key: str) -> Kind:
    """The kind of that key. Raises :class:`Problem`."""
    found = library().kinds.get(key)
    if found is None:
        raise Problem(f"There is no kind “{key[:40]}”.", "kind")
    return found


def starting_point(chosen: Kind | School) -> Composition:
    """The composition a new formula of a kind or of a school begins with."""
    return Composition.of({key: round(percent / 100, 6) for key, percent in chosen.start})


@transaction.atomic
def begin(name: str, kind_key: str, composition: Composition | None = None, note: str = "") -> Formula:
    """A new formula with its first version: the composition given, or the kind's starting point."""
    chosen = kind(kind_key)
    formula = Formula.objects.create(name=name, kind_key=kind_key, area=chosen.area)
    note = note or f"The starting point for a {chosen.name.lower()}."
    _store(formula, composition or starting_point(chosen), None, note)
    return formula


def begin_as(name: str, choice: str) -> Formula:
    """A new formula from a kind, or from a school's starting point. Raises :class:`Problem`."""
    school = library().schools.get(choice)
    if school is None:
        return begin(name, choice)
    return begin(name, school.kind, starting_point(school), f"{school.name}: {school.reason}")


def from_recipe(name: str, kind_key: str, reading: Reading) -> Formula:
    """A new formula from a recipe that was read; its doubts are kept in the version's note.

    Raises :class:`Problem` when no line was understood.
    """
    grams = composition(reading)
    if not grams:
        raise Problem("No line was understood with its amount: nothing can be made of it yet.", "text")
    doubts = [f"{line.text}: {doubt}" for line in reading.lines for doubt in line.doubts]
    note = " ".join(["From a recipe.", *reading.doubts, *doubts])
    mixed = normalise(Composition.of({key: round(amount, 6) for key, amount in grams.items()}))
    return begin(name, kind_key, mixed, note if len(note) <= MOST_NOTE else note[: MOST_NOTE - 1] + "…")


@transaction.atomic
def save_version(
    formula: Formula, composition: Composition, *, seen: int, made_from: int, note: str, keep_both: bool = False
) -> Version:
    """The next version of a formula.

    ``seen`` is the version that was current when the page was opened. When another has been
    saved since, :class:`Moved` is raised, unless ``keep_both`` says to save beside it. Raises
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
        raise Moved(current)
    source = formula.versions.filter(pk=made_from).first() or current
    formula.save(update_fields=("audience", "area"))
    return _store(formula, composition, source, note)


@transaction.atomic
def restore(formula: Formula, number: int) -> Version:
    """An earlier version again, as the newest one."""
    old = formula.versions.filter(number=number).first()
    if old is None:
        raise Problem(f"There is no version {number} of {formula.name}.")
    return _store(formula, old.core, old, f"Version {number} again.")


@transaction.atomic
def branch(version: Version) -> Formula:
    """A new formula that begins where a version is, for the same wearer."""
    source = version.formula
    name = f"{source.name} from v{version.number}"
    limit = Formula._meta.get_field("name").max_length or len(name)
    twin = begin(name[:limit], source.kind_key, version.core, f"Branched from {version}.")
    twin.audience, twin.area = source.audience, source.area
    twin.save(update_fields=("audience", "area"))
    return twin


@transaction.atomic
def beside(version: Version, composition: Composition, note: str) -> Version:
    """A trial beside a version: kept in the history, without taking the place of the current one."""
    return _store(version.formula, composition, version, note, current=False)


def mark(version: Version, stage: Version.Stage) -> None:
    """Note how far a version has come; it never goes back."""
    Version.objects.filter(pk=version.pk, stage__lt=stage).update(stage=stage)


def _store(
    formula: Formula, composition: Composition, source: Version | None, note: str, current: bool = True
) -> Version:
    last = formula.versions.order_by("-number").first()
    if current:
        formula.versions.filter(is_current=True).update(is_current=False)
    version = Version.objects.create(
        formula=formula,
        number=last.number + 1 if last else 1,
        made_from=source,
        is_current=current,
        note=note,
        firmness=predict(composition, formula.kind.overrun).firmness_at(WINDOW_C),
    )
    Line.objects.bulk_create(
        Line(version=version, position=n, ingredient_key=line.key, share=line.share, locked=line.locked)
        for n, line in enumerate(composition.lines)
    )
    return version
