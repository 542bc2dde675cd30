"""What the buttons of the bench do, and what each step came to in a few words."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal

from balmcore import units
from balmcore.errors import Problem
from balmcore.making.bench.live import doubt
from balmcore.making.bench.steps import Task, still_wet
from balmcore.making.weighing import WeightQuestion, weight_question
from balmcore.recipes.words.picking import picked
from balmcore.tables import Ingredient
from balmcore.trials.press import RODS_MM, THUMB_WORDS
from balmcore.wording import in_sentence
from batches.models import BatchLine
from batches.supply.sources import Source, available_g, lots_for, source_of
from bench import services
from bench.doing import growing, into_log, undoing
from bench.models import Event
from bench.services import StepCommand
from bench.state import Bench, StepView
from bench.steps import forms, rescuing
from bench.weights.draws import choose_lot
from pantry.queries import in_stock
from workshop.web import Fields

THUMBS, RODS = THUMB_WORDS, RODS_MM


def act(name: str, command: StepCommand, data: Fields) -> str:
    """Do what a button says; returns the key of the step to show next, empty for the next open one.

    Raises :class:`Problem`.
    """
    if (action := _ACTIONS.get(name)) is None:
        raise Problem("Choose what was done.")
    return action(command, data) or ""


def _item(bench: Bench) -> Ingredient | None:
    """The ingredient weighed at the step shown, None for a base."""
    line = bench.batch.line_of(bench.here.step.slot)
    return bench.tables.ingredient(line.ingredient_key) if line else None


class UnlikelyWeight(Problem):
    """A weight that is probably not what was meant: ``question`` is asked before it is written."""

    def __init__(self, question: WeightQuestion) -> None:
        super().__init__(question.text, "grams")
        self.question = question


def _typed_g(command: StepCommand, data: Fields, wanted_g: Decimal, item: Ingredient | None = None) -> Decimal:
    """Grams typed at the step shown. Raises :class:`UnlikelyWeight` where they are probably not what was meant and
    nobody said so; what a scale showed is no slip of the hand."""
    bench, text = command.bench, data.text("grams", 80)
    grams = forms.grams(text, bench, item)
    is_stale = bench.batch.is_over or command.after != bench.run.revision  # which is said instead
    if is_stale or data.text("weighing", 200) or data.text("sure", 80) == text:
        return grams
    line = None if bench.run.is_rehearsal or item is None else bench.batch.line_of(bench.here.step.slot)
    held = available_g(line, lots_for(bench.batch, [line.ingredient_key])) if line else None
    if held is not None and line is not None and data.text("do", 20) != "correct":
        held -= line.actual_g or Decimal(0)
    asked = weight_question(text, grams, wanted_g, bench.batch.resolution_g, held, bench.prefs.show)
    if asked:
        raise UnlikelyWeight(asked)
    return grams


def _weigh(command: StepCommand, data: Fields) -> str | None:
    view = command.bench.here
    line = services.line_of(command.batch, view.step.slot)
    if "lot" in data and not command.bench.run.is_rehearsal:
        line.lot_id = choose_lot(line, data.whole("lot"))
    grams = _typed_g(command, data, view.left_g or Decimal(0), _item(command.bench))
    services.weigh(command, grams)
    weighed = (view.weighed_g or Decimal(0)) + grams
    # Over: stay, so that it can be said what is to be done about it.
    return view.step.key if weighed - line.target_g > allowed_g(command.bench, line) else None


def _correct(command: StepCommand, data: Fields) -> None:
    """A weight put right where it stands; it is what there is of it in all."""
    view, wanted = command.bench.here, command.bench.here.step.target_g or Decimal(0)
    if view.step.task is Task.TAKE:
        services.take(command, _typed_g(command, data, wanted))
    else:
        services.correct(command, _typed_g(command, data, wanted, _item(command.bench)))


def _count(command: StepCommand, data: Fields) -> None:
    step = command.bench.here.step
    services.weigh(command, step.target_g or Decimal(0))


def _take(command: StepCommand, data: Fields) -> None:
    services.take(command, _typed_g(command, data, command.bench.here.step.target_g or Decimal(0)))


PROBE_OUT = "The thermometer was out of the pot."


class Doubtful(Problem):
    """Something is said to be there that an instrument says otherwise of: it is asked before it is believed."""


def _done(command: StepCommand, data: Fields) -> None:
    """The step is done, unless the thermometer says otherwise and nobody says why."""
    bench, why = command.bench, data.text("why", 200)
    if data.text("probe_out", 5):
        command, why = replace(command, temp_c=None), PROBE_OUT
    elif not data.text("sure", 5) and (asked := doubt(bench.setup, bench.here.step, command.temp_c)):
        raise Doubtful(asked)
    services.close(command, why=why)


def _dry(command: StepCommand, data: Fields) -> None:
    """The pot weighed again; that its weight no longer falls is believed where its maker says so."""
    bench, text = command.bench, data.text("lighter", 80)
    lighter = forms.grams(text, bench) if text.strip() else None
    wet = still_wet(bench.here.step.target_g or Decimal(0), lighter, bench.batch.resolution_g, bench.prefs.show)
    if wet and not data.text("settled", 5):
        raise Problem(wet)
    services.dry(command, lighter, "Its weight no longer fell." if wet else "")


def _skip(command: StepCommand, data: Fields) -> None:
    services.close(command, is_skipped=True, why=data.text("why", 200))


def _measure(command: StepCommand, data: Fields) -> None:
    cup = units.volume_ml(data.text("cup", 40), "ml", command.bench.prefs.kitchen)
    services.measure_overrun(command, forms.grams(data.text("grams", 80), command.bench), cup)


def _fill(command: StepCommand, data: Fields) -> None:
    bench = command.bench
    filled = forms.pieces(forms.rows(bench, bench.here, data), bench)
    stayed = data.text("stayed", 40).strip()
    services.fill(
        command,
        filled,
        forms.grams(stayed, bench) if stayed else None,
        bool(data.text("keep")),
        data.text("note", 500),
    )


def _add(command: StepCommand, data: Fields) -> str:
    bench = command.bench
    typed = data.text("item", 120).strip()
    item = bench.tables.ingredients[picked(typed, bench.tables)] if typed else None
    if item is None:
        raise Problem("Choose what went in.")
    grams, why = forms.grams(data.text("grams", 80), bench, item), data.text("why", 200)
    if not data.text("trouble", 10):
        services.add(command, item, grams, why)
        return bench.here.step.key
    said = rescuing.read(data, bench)
    want = float(units.number(said.want)) if said.trouble in rescuing.ROLES and not said.problems else None
    finish = rescuing.finish_at(bench) if said.trouble == rescuing.FAINT else None
    services.add(command, item, grams, why, finish, services.Felt(said.shift, want))
    return bench.here.step.key


def _rescale(command: StepCommand, data: Fields) -> None:
    services.rescale(command, command.bench.here.step.slot)


def _note(command: StepCommand, data: Fields) -> str:
    services.note(command, data.text("text"))
    return command.bench.here.step.key


def _pieces(command: StepCommand, data: Fields) -> str:
    return services.add_pieces(command, data.whole("container") or 0, data.whole("count") or 0).step


def _rewarm(command: StepCommand, data: Fields) -> str:
    return services.rewarm(command).step


def _timer(command: StepCommand, data: Fields) -> str:
    services.set_timer(command, data.text("label", 80), units.number(data.text("minutes", 20)))
    return command.bench.here.step.key


def _stop(command: StepCommand, data: Fields) -> str:
    services.stop_timer(command.bench, data.whole("timer") or 0)
    return command.bench.here.step.key


def _undo(command: StepCommand, data: Fields) -> str:
    return undoing.undo(command).step


def _log(command: StepCommand, data: Fields) -> None:
    into_log.log(command)


_ACTIONS: dict[str, Callable[[StepCommand, Fields], str | None]] = {
    "weigh": _weigh,
    "correct": _correct,
    "count": _count,
    "take": _take,
    "done": _done,
    "dry": _dry,
    "skip": _skip,
    "measure": _measure,
    "fill": _fill,
    "add": _add,
    "rescale": _rescale,
    "note": _note,
    "timer": _timer,
    "rewarm": _rewarm,
    "pieces": _pieces,
    "stop": _stop,
    "undo": _undo,
    "log": _log,
}


# What leaves the bench in memory as it is in the database: it need not be read again.
CARRIED_ON = (
    "weigh",
    "correct",
    "count",
    "take",
    "done",
    "dry",
    "skip",
    "measure",
    "fill",
    "note",
    "timer",
    "rewarm",
    "log",
)
# After these the next weighing begins at what stands on the scale then.
WEIGHED = ("weigh", "take", "measure")
# What goes on with the making: not before what is unfit in it is known.
MAKING = ("weigh", "count", "take", "add", "fill", "log")


def allowed_g(bench: Bench, line: BatchLine) -> Decimal:
    """How much over its target a line may be without a word: a twentieth, or two steps of the scale."""
    return max(line.target_g / 20, bench.batch.resolution_g * 2)


@dataclass(frozen=True)
class OverPoured:
    """A line of which more went in than was planned: what it makes of the firmness, and what keeping the
    percentages would take."""

    name: str
    over_g: Decimal
    firmness: float
    moved: int
    more_g: Decimal
    short: tuple[str, ...]


def over_poured(bench: Bench) -> OverPoured | None:
    """The line of the step shown where it is over; None where it is not, or was dealt with."""
    view = bench.here
    line = bench.batch.line_of(view.step.slot)
    if view.step.task is not Task.WEIGH or line is None or line.actual_g is None or bench.is_logged:
        return None
    over = line.actual_g - line.target_g
    if over <= allowed_g(bench, line) or (bench.standing[-1:] and bench.standing[-1].slot != line.slot):
        return None
    plan = growing.rescaled_targets(bench.batch, line, bench.tables)
    lines = list(bench.batch.lines.all())
    more = {other: plan[other.slot] - other.mass_g for other in lines if plan[other.slot] > other.mass_g}
    held = in_stock([other.ingredient_key for other in more])
    short = [
        f"{in_sentence(bench.tables.ingredient(other.ingredient_key).name)}, "
        f"{bench.prefs.show.mass_text(needed - held[other.ingredient_key])} short"
        for other, needed in ((o, plan[o.slot] - (o.actual_g or 0)) for o in more)
        if other.ingredient_key in held and needed > held[other.ingredient_key]
    ]
    base = [other for other in lines if other.finish_id is None]
    grown = sum((plan[other.slot] - other.target_g for other in base), Decimal(0))
    return OverPoured(view.step.title, over, bench.verdict.firmness, bench.moved, grown, tuple(short))


def source_here(bench: Bench) -> Source | None:
    """Where what is weighed at the step shown comes from; None where no lots are kept, or nothing is drawn."""
    line = bench.batch.line_of(bench.here.step.slot) if bench.here.step.task is Task.WEIGH else None
    if line is None or bench.run.is_rehearsal or bench.batch.is_over:
        return None
    tracked = lots_for(bench.batch, [line.ingredient_key])
    return source_of(line, tracked, bench.prefs) if line.ingredient_key in tracked else None


def weighed_g(bench: Bench) -> Decimal | None:
    """What was weighed, counted or taken at the step shown and can be put right; None for nothing."""
    view = bench.here
    if view.step.task is Task.TAKE:
        finish = bench.finish_of(view.step.finish)
        return finish.taken_g if finish else None
    return view.weighed_g or None


def results(bench: Bench) -> list[tuple[StepView, str]]:
    """Every step with what it came to in a few words."""
    return [(view, _result(bench, view)) for view in bench.steps]


def _result(bench: Bench, view: StepView) -> str:
    event, show = view.event, bench.prefs.show
    if view.is_skipped:
        return "passed over"
    if view.step.task in (Task.WEIGH, Task.TAKE, Task.COUNT):
        grams = view.weighed_g if view.step.slot else event.grams if event else None
        if view.is_open and grams:
            return f"{show.mass_text(grams)}, {show.mass_text(view.left_g or 0)} more"
        return show.mass_text(grams) if grams is not None and not view.is_open else ""
    if event is None:
        return ""
    if view.step.task is Task.DRY and event.grams is not None:
        return f"{show.mass_text(event.grams)} lighter"
    if event.kind == Event.Kind.MEASURED:
        return f"{event.data['overrun'] * 100:.0f} % more room"
    if event.kind == Event.Kind.FILLED:
        return _filled(bench, view, event)
    return show.temp_text(event.temp_c) if event.temp_c is not None and view.step.task is Task.WARM else "done"


def _filled(bench: Bench, view: StepView, event: Event) -> str:
    pieces = event.pieces
    net = {row.container.name: row.net_g for row in forms.rows(bench, view)}
    light = forms.light_ones(pieces, net, float(bench.batch.resolution_g), bench.prefs.show)
    told = f"{len(pieces)} filled"
    return f"{told}, {len(light)} light: {', '.join(light)}" if light else told
