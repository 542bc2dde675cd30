"""The planning form: containers and counts as typed, and what they come to."""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from balmcore.making.pot import pour_temperature
from balmcore.making.scaling import (
    MOST_GRAMS,
    MOST_PIECES,
    by_suit,
    film_g,
)
from balmcore.making.stock import counts_from
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS, DEFAULT, WHIPPED
from balmcore.physics.grain import HELD
from balmcore.tables import Kind
from balmcore.trials.experience import Experience
from batches.forms.again import fields_of, finishes_of, rows_of
from batches.forms.computing import Context, PlanForm, computed
from batches.forms.containers import ContainerForm, fill_text
from batches.forms.finishes import FinishForm
from batches.forms.finishes import read as read_finishes
from batches.forms.plan_fields import MOST_LETTERS, MOST_REASON, PlanFields
from batches.forms.sizing import fitting, pieces_of
from batches.models import DEFAULT_PITCHER, Batch
from workshop.models import Preferences
from workshop.web import Fields

MOST_ROWS = 12
USUAL_LOSS_G = 3.0
ON_THE_SPATULA_G = 1.5


def fresh(about: Context, cooling: str = "", size_g: Decimal | None = None) -> PlanForm:
    """The form for a version: four of a container that suits its kind, the loss and the way of cooling that are
    usual or, where the maker's own pours speak, by them. ``cooling`` is one asked for; ``size_g`` how much its recipe
    makes, where it says so."""
    kind = about.kind
    usual = _usual(about) | _learned(about)
    if cooling in COOLING_METHODS:
        usual["cooling"] = cooling
    suited = by_suit(kind, about.containers)
    first = (
        suited[0]
        if size_g is None
        else fitting(size_g, [c for c in suited if set(c.suits) & set(kind.suits)] or suited[:1])
    )
    rows = (about.row(first.key, "4", fill_text(first)),)
    form = computed(PlanForm(rows, PlanFields(usual, kind, about.prefs)), about)
    return form if size_g is None else _of_size(form, size_g, about)


def _usual(about: Context) -> dict[str, str]:
    """The fields as they are usual on this bench."""
    kind, prefs, show = about.kind, about.prefs, about.prefs.show
    return {
        "resolution": show.step_text(prefs.resolution_g),
        "loss": _loss_text(USUAL_LOSS_G, prefs),
        "pour": show.temp_text(pour_temperature(about.composition, room_c=prefs.cool_room_c)),
        "whip": _air_text(kind, prefs.whipper, about.experience) if kind.overrun else "",
        "room": show.temp_text(prefs.cool_room_c),
        "cooling": WHIPPED if kind.overrun else DEFAULT,
        "melting": HELD,
        "heating": prefs.heating,
        "whipper": prefs.whipper,
    }


def again(about: Context, batch: Batch, is_asked: bool = True) -> PlanForm:
    """The form as a batch was planned, for a version as it is now; rows whose container is gone say so. Where nobody
    asked for just that batch, what the maker's own pours teach of loss and cooling stands before it."""
    words = {**_usual(about), **fields_of(batch, about.prefs)}
    if not is_asked:
        words |= _learned(about) | {"room": about.prefs.show.temp_text(about.prefs.cool_room_c)}
    rows = tuple(about.row(*cells) for cells in rows_of(batch, about.prefs)[:MOST_ROWS])
    finishes = finishes_of(batch, about.tables, about.prefs)
    ticked = frozenset(key for keys in batch.around.values() for key in keys)
    typed = PlanFields(words, about.kind, about.prefs)
    offered = frozenset(about.goes_with)
    found = computed(PlanForm(rows, typed, finishes, ticked=ticked, offered=offered), about)
    if found.plan is None or found.plan.pitcher.key == batch.pitcher_key:
        return found  # the smallest that fits, and so it stays with another size
    return computed(replace(found, typed=found.typed.changed(pitcher=batch.pitcher_key)), about)


def _learned(about: Context) -> dict[str, str]:
    """Loss and cooling by the maker's own pours, as far as these say anything."""
    kind, prefs = about.kind, about.prefs
    loss = about.experience.usual_loss(DEFAULT_PITCHER, kind.key, prefs.whipper if kind.overrun else "")
    best = about.experience.best_cooling(about.composition)
    found = {"loss": _loss_text(loss.median, prefs)} if loss else {}
    return found | ({"cooling": best} if best and not kind.overrun else {})


def _of_size(form: PlanForm, size_g: Decimal, about: Context) -> PlanForm:
    """The form with as many pieces as so much fills, and what they leave in the jug, so that just that is weighed."""
    if form.plan is None or form.scaled is None:
        return form
    stays = about.composition.without_volatiles.total / about.composition.total
    count, each = pieces_of(size_g * stays, form.plan.loss_g, form.scaled.pieces[0].net_g)
    row = form.rows[0].changed(count=str(count), fill=about.prefs.show.mass_text(each))
    jug, step = form.plan.loss_g, form.plan.resolution_g
    wanted = (size_g / step).quantize(Decimal(1)) * step  # what the scale can show of it
    for _ in range(4):
        sized = computed(PlanForm((row,), form.typed.changed(loss=_exact_loss(jug, about.prefs))), about)
        if sized.scaled is None:
            return form
        if not (missing := wanted - sized.scaled.total_g):
            break
        jug = max(Decimal(0), jug + missing * stays)
    return sized


def _exact_loss(grams: Decimal, prefs: Preferences) -> str:
    """A loss in the maker's own measure, exactly enough that the sum comes out."""
    show = prefs.show
    return f"{show.figure(show.in_mass(float(grams)), 2 if show.mass == 'g' else 4)} {show.mass}"


def _air_text(kind: Kind, whipper: str, experience: Experience) -> str:
    """What a whipper gains in percent: by the maker's own full cups, or its part of what is usual for the kind."""
    learned = experience.bench.overrun.get(whipper)
    return f"{(learned.median if learned else kind.overrun * WHIPPERS[whipper].gains) * 100:.0f}"


def _loss_text(grams: float, prefs: Preferences) -> str:
    show = prefs.show
    return f"{show.figure(show.in_mass(grams), 1 if show.mass == 'g' else 2)} {show.mass}"


def read(data: Fields, about: Context) -> PlanForm:
    """The form as posted, with one action carried out: ``add_row``, ``drop_row``, ``fit`` or none."""
    columns = (data.texts("container"), data.texts("count"), data.texts("fill"))
    which = data.texts("finish")
    rows = [about.row(*(cell[:80] for cell in cells)) for cells in list(zip(*columns, strict=False))[:MOST_ROWS]]
    rows = [row.changed(finish=which[n]) if n < len(which) else row for n, row in enumerate(rows)]
    finishes = read_finishes(data, about.tables, about.prefs)
    for n, row in enumerate(rows):
        # Another container chosen: its usual fill comes with it.
        if data.whole("chosen") == n and row.text("key") in about.containers:
            rows[n] = row.changed(fill=fill_text(about.containers[row.text("key")]))
    if (drop := data.whole("drop_row")) is not None and drop < len(rows):
        del rows[drop]
    if data.text("add_row") and len(rows) < MOST_ROWS:
        taken = {row.text("key") for row in rows}
        extra = next(c for c in by_suit(about.kind, about.containers) if c.key not in taken)
        rows.append(about.row(extra.key, "1", fill_text(extra)))
    typed = PlanFields(_words(data), about.kind, about.prefs)
    rows = sorted(_for_finishes(rows, finishes, data, about), key=lambda row: row.finish_number)
    if data.text("chosen_whipper") and (whipper := typed.text("whipper")) in WHIPPERS:
        typed = typed.changed(whip=_air_text(about.kind, whipper, about.experience))
    ticked, offered = frozenset(data.texts("around")), frozenset(data.texts("offered"))
    found = computed(PlanForm(tuple(rows), typed, finishes, ticked=ticked, offered=offered), about)
    if found.plan and found.scaled and data.text("chosen_pitcher"):
        loss = _loss_text(_stays(found), about.prefs)
        found = computed(replace(found, typed=typed.changed(loss=loss)), about)
    # The list of lots keeps what was chosen in it; only choosing fits the counts anew.
    if fit := data.text("use_up", 40) if data.text("chosen_lot") else data.text("fit", 40):
        found = _fitted(found, fit, about)
    return found


def _words(data: Fields) -> dict[str, str]:
    """What was typed outside the rows."""
    names = (
        "resolution",
        "loss",
        "pour",
        "whip",
        "pitcher",
        "room",
        "cooling",
        "melting",
        "heating",
        "whipper",
        "when",
        "moment",
    )
    return {name: data.text(name, MOST_LETTERS) for name in names} | {
        "override_reason": data.text("override_reason", MOST_REASON)
    }


def _for_finishes(
    rows: list[ContainerForm], finishes: Sequence[FinishForm], data: Fields, about: Context
) -> list[ContainerForm]:
    """The rows as the finishes changed: a new one gets a container, those of one taken away go to the first."""
    if data.text("add_finish") and rows and len(rows) < MOST_ROWS:
        key, fill = rows[0].text("key"), rows[0].text("fill")
        usual = fill_text(about.containers[key]) if key in about.containers else fill
        rows = [*rows, about.row(key, "1", usual, str(len(finishes) - 1))]
    gone, last = data.whole("drop_finish"), len(finishes) - 1

    def moved(number: int) -> int:
        if gone is not None:
            number = 0 if number == gone else number - (number > gone)
        return number if number <= last else 0

    return [row.changed(finish=str(moved(row.finish_number))) for row in rows]


def _stays(form: PlanForm) -> float:
    """Grams that stay in the pitcher chosen and on the spatula."""
    assert form.plan is not None
    assert form.scaled is not None
    density = form.scaled.density_g_ml * (1 + form.plan.overrun)
    return film_g(density, form.scaled.product_g / density, form.plan.pitcher.diameter_mm or 70) + ON_THE_SPATULA_G


def _fitted(form: PlanForm, fit: str, about: Context) -> PlanForm:
    """The form with its counts fitted to the stock, or to using up one lot (``fit`` is its number)."""
    if form.plan is None or form.scaled is None:
        return form
    plan, lot = form.plan, None
    stays = about.composition.without_volatiles.total / about.composition.total
    if fit == "stock":
        if form.supply is None or form.supply.most is None:
            return replace(form, problems={"fit": "No lot of any of these is written down: nothing to fit to."})
        total = form.supply.most.total_g
    else:
        lot = next((lot for lot, _ in form.lots if str(lot.pk) == fit), None)
        if lot is None:
            return replace(form, problems={"fit": "That lot is not one of this formula's: choose another."})
        total = lot.left / about.composition.share_of(lot.item_key) * about.composition.total
    total = min(total, Decimal(MOST_GRAMS) - plan.resolution_g)  # more is refused
    total *= stays  # what boils away fills nothing
    counts = counts_from(total, plan.loss_g, form.scaled.pieces, plan.resolution_g)
    if not any(counts):
        return replace(form, problems={"fit": "That is not enough for a single piece."})
    rows = [row.changed(count=str(min(n, MOST_PIECES))) for row, n in zip(form.rows, counts, strict=True) if n]
    if fit == "stock":
        found = computed(replace(form, rows=tuple(rows)), about)
        # A pitcher that would be filled too often gives way to the usual one.
        usual = found.typed.changed(pitcher="")
        return computed(replace(found, typed=usual), about) if "pitcher" in found.problems else found
    # What does not fill a whole piece stays in the jug, so that the lot is really used up; and not more than it.
    assert lot is not None
    stays_g = float(total) - sum(piece.net_g * n for piece, n in zip(form.scaled.pieces, counts, strict=True))
    while True:
        typed = form.typed.changed(loss=_loss_text(stays_g, about.prefs))
        found = computed(replace(form, rows=tuple(rows), typed=typed), about)
        if found.scaled is None or found.scaled.lines[lot.item_key] <= lot.left or stays_g <= 0:
            return found
        stays_g = max(0.0, stays_g - float(plan.resolution_g))
