"""Two to six pours side by side: what is in them, how they were handled, what came of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Q, TextChoices

from balmcore.display import Display, near_day_words
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables
from balmcore.trials.comparison import (
    FEWEST,
    MOST,
    Handled,
    HandlingRow,
    Made,
    ShareRow,
    Shown,
    handling_rows,
    share_rows,
    shown_by,
    told_apart,
)
from balmcore.trials.press import PRESS_SIGMA
from balmcore.wording import in_sentence
from pours.faults import faults_seen
from pours.models import Check, Pour
from pours.queries import Card, card
from workshop.pictures.graph import Graph, graph

COOLED = {
    "rest_then_cold": "refrigerated when a skin had formed",
    "cold": "refrigerated at once",
    "counter": "on the counter",
    "freezer": "in the freezer",
}
ROOM_K, POUR_K = 4.0, 4.0  # nearer temperatures count as alike
SIZE = (640.0, 250.0)
FROM_C, TO_C = 10.0, 40.0
LETTERS = "ABCDEF"
ORDER: dict[str, type[TextChoices]] = {"colour": Check.Colour, "scent": Check.Scent, "age": Check.Age}
MOST_ALIKE, MOST_SHOWN = 24, 3


@dataclass(frozen=True)
class Column:
    """One pour of a comparison: its letter, its card, its checks the oldest first, its photographs."""

    letter: str
    card: Card
    checks: tuple[Check, ...]
    photos: tuple[str, ...]


@dataclass(frozen=True)
class OutcomeRow:
    """One outcome in words for each pour; ``differs`` where it is not the same of all that were looked at."""

    name: str
    told: tuple[str, ...]
    differs: bool


@dataclass(frozen=True)
class Comparison:
    """Columns, rows of what is in them, how they were handled and what came of it; what they show; their curves."""

    columns: tuple[Column, ...]
    shares: tuple[ShareRow, ...]
    handling: tuple[HandlingRow, ...]
    outcomes: tuple[OutcomeRow, ...]
    shown: tuple[Shown, ...]
    picture: Graph


def chosen(numbers: Sequence[int]) -> list[Pour]:
    """The pours of a comparison, in the order asked for. Raises :class:`Problem` for fewer than two that are
    there, and for more than six."""
    wanted = list(dict.fromkeys(numbers))
    if len(wanted) > MOST:
        raise Problem(f"Six pours fit side by side: {len(wanted)} were chosen. Take the ones that say most.")
    known = Pour.objects.filter(pk__in=wanted).for_page().in_bulk()
    found = [known[pk] for pk in wanted if pk in known]
    if len(found) < FEWEST:
        raise Problem("Choose two pours at least to lay side by side.")
    return found


def comparison(pours: Sequence[Pour], tables: Tables, show: Display) -> Comparison:
    """The pours laid side by side."""
    made = [made_of(pour, letter, tables, show) for pour, letter in zip(pours, LETTERS, strict=False)]
    columns = tuple(
        Column(
            one.name,
            card(pour, tables),
            tuple(pour.standing),
            tuple(photo.file for check in pour.standing for photo in check.photos.all()),
        )
        for pour, one in zip(pours, made, strict=True)
    )
    return Comparison(
        columns,
        share_rows(made),
        handling_rows(made),
        tuple(_outcomes(pours, made, show)),
        shown_by(made),
        _curves(pours, made, show),
    )


def made_of(pour: Pour, name: str, tables: Tables, show: Display) -> Made:
    """A pour as the core compares it."""
    batch = pour.batch
    cooled = COOLED.get(pour.cooled_by) or pour.cooling_note or pour.get_cooling_display()
    handling = (
        Handled("Cooling", in_sentence(cooled), pour.cooled_by or cooled),
        Handled("Melting", in_sentence(batch.get_melting_display()), batch.melting),
        Handled("Room", "not known" if pour.room_c is None else show.temp_text(pour.room_c), pour.room_c, ROOM_K),
        Handled("Poured at", show.temp_text(batch.pour_c), batch.pour_c, POUR_K),
        Handled("Whipped", f"{batch.overrun * 100:.0f} %" if batch.overrun else "no", batch.overrun, 0.1),
        Handled("Filled into", ", ".join(str(row) for row in pour.containers), None, counts=False),
    )
    tested = pour.tested
    return Made(
        name,
        pour.to_composition(tables),
        handling,
        tested.firmness if tested else None,
        faults_seen(pour.standing),
        tested.measured_sigma if tested and tested.measured_sigma else PRESS_SIGMA,
    )


def alike(pour: Pour, tables: Tables, show: Display) -> tuple[Shown, ...]:
    """What this pour and those of its formula that were poured next to it show that differ in one thing alone."""
    others = Pour.objects.filter(batch__version__formula=pour.batch.version.formula_id)
    is_before = Q(poured_on__lt=pour.poured_on) | Q(poured_on=pour.poured_on, pk__lte=pour.pk)
    before = others.filter(is_before).order_by("-poured_on", "-pk").values_list("pk", flat=True)[: MOST_ALIKE // 2 + 1]
    after = others.exclude(is_before).order_by("poured_on", "pk").values_list("pk", flat=True)[: MOST_ALIKE // 2]
    near = Pour.objects.filter(pk__in=[*before, *after]).for_list().order_by("-poured_on", "-pk")
    made = [made_of(each, f"{each.title} of {near_day_words(each.poured_on)}", tables, show) for each in near]
    own = f"{pour.title} of {near_day_words(pour.poured_on)}"
    said = [shown for shown in shown_by(made, own) if own in shown.names]
    return tuple({shown.sentence: shown for shown in said}.values())[:MOST_SHOWN]


def _outcomes(pours: Sequence[Pour], made: Sequence[Made], show: Display) -> list[OutcomeRow]:
    firm = [one.firmness for one in made]
    rows = [
        OutcomeRow(
            f"Firmness at {show.temp_text(WINDOW_C)}, by the last test",
            tuple("not tested" if each is None else f"{each:.0f}" for each in firm),
            told_apart(made),
        )
    ]
    for fault in ("grain", "sinkholes", "bloom", "sweating", "specks", "colour", "scent", "age"):
        worst = [_worst(pour, fault) for pour in pours]
        looked = {each[0] for each in worst if each}
        if looked:
            name = "Smell of age" if fault == "age" else fault.capitalize()
            rows.append(OutcomeRow(name, tuple(_told(each) for each in worst), len(looked) > 1))
    judged = tuple(pour.get_verdict_display() for pour in pours)
    rows.append(OutcomeRow("Verdict", judged, len(set(judged)) > 1))
    return sorted(rows, key=lambda row: not row.differs)


def _worst(pour: Pour, name: str) -> tuple[str, int] | None:
    """The furthest that was seen of something, and the days after the pour; None where nobody looked."""
    order = [value for value, _ in ORDER.get(name, Check.Sight).choices]
    seen = [(order.index(value), check) for check in pour.standing if (value := getattr(check, name))]
    if not seen:
        return None
    _, check = max(seen, key=lambda each: (each[0], -each[1].days))
    return str(getattr(check, f"get_{name}_display")()).lower(), check.days


def _told(worst: tuple[str, int] | None) -> str:
    """``some after 15 days``."""
    if worst is None:
        return "not looked"
    return f"{worst[0]} after {worst[1]} day{'' if worst[1] == 1 else 's'}"


def _curves(pours: Sequence[Pour], made: Sequence[Made], show: Display) -> Graph:
    """Firmness over temperature of each, with the points that were measured."""
    steps = [FROM_C + n for n in range(int(TO_C - FROM_C) + 1)]
    curves = [
        predict(one.composition, pour.batch.overrun).curve(steps).firmness[0]
        for pour, one in zip(pours, made, strict=True)
    ]
    tests = [
        (check.test_c or WINDOW_C, check.measured, letter, f"{letter}, measured {check.measured:.0f}")
        for pour, letter in zip(pours, LETTERS, strict=False)
        for check in pour.standing
        if check.measured is not None
    ]
    top = max([*(float(curve.max()) for curve in curves), *(test[1] for test in tests)]) + 6
    return graph(
        [list(zip(steps, curve.tolist(), strict=True)) for curve in curves],
        (FROM_C, TO_C),
        (0.0, top),
        [(float(at), show.temp_text(at)) for at in range(int(FROM_C), int(TO_C) + 1, 5)],
        [(float(at), str(at)) for at in range(0, int(top), 20)],
        "Firmness by temperature of each pour, with the tests that were made.",
        size=SIZE,
        dots=[
            (at, firmness, f"of-{letter.lower()}", name) for at, firmness, letter, name in tests if FROM_C <= at <= TO_C
        ],
    )
