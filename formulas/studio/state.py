"""The studio's working state: what stands in the form, one action on it, and what follows.

The state travels in the form itself, so that nothing is stored before the maker saves. Three
compositions are told apart: ``typed`` (the fields as they are), ``shown`` (what the server
drew last) and ``basis`` (what stood there before the line being edited was touched, so that a
percentage typed digit by digit moves the others as if it had been typed at once).
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from decimal import Decimal, InvalidOperation
from functools import cached_property

from balmcore import units
from balmcore.advice.safety import Wearer
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import (
    Composition,
    Line,
    base_share,
    hold_groups,
    normalise,
    pack,
    percent_text,
    set_group,
    set_of_base,
    set_parts,
    set_shares,
)
from balmcore.design.meant import SEASONS, SKINS, Meant
from balmcore.design.triangle import Place, moved, place_of
from balmcore.errors import Problem
from balmcore.tables import ROLES, Ingredient, Tables
from formulas.studio import wishing
from formulas.studio.wishing import WishForm
from workshop.web import Fields

MOST_LINES = 40
MOST_MEMORY = 4000  # characters of a hidden field


@dataclass(frozen=True)
class LineInput:
    """A line as it stands in the form: the text typed, empty where it is drawn from the share,
    and what is wrong with it."""

    line: Line
    text: str = ""
    problem: str = ""

    @property
    def ingredient(self) -> Ingredient:
        """The ingredient of the line."""
        return self.line.ingredient


@dataclass(frozen=True)
class State:
    """The whole form. ``seen`` is the version that was current when the page was opened, ``made_from`` the number
    of the one it shows; ``problem`` is about the formula as a whole; ``focus`` a line to go to; ``held`` are the
    groups whose totals stay."""

    lines: tuple[LineInput, ...]
    audience: str
    area: str
    follow: bool
    tables: Tables = field(repr=False)
    note: str = ""
    seen: int = 0
    made_from: int = 0
    editing: str = ""
    basis: tuple[tuple[str, Decimal], ...] = field(default=())
    problem: str = ""
    focus: str = ""
    tool: str = ""
    why_at: str = ""
    of: str = "whole"
    held: tuple[str, ...] = ()
    wish: WishForm = wishing.NOTHING
    skin: str = ""
    season: str = ""

    @cached_property
    def composition(self) -> Composition:
        """The composition to compute with: the last good share of every line."""
        return Composition(tuple(typed.line for typed in self.lines))

    def to_wearer(self, policy: str) -> Wearer:
        """Who wears it and where, by a policy of caution."""
        return Wearer(self.audience, self.area, policy)

    @property
    def meant(self) -> Meant:
        """What it is meant for."""
        return self.wish.meant(self.skin, self.season)

    def free(self, composition: Composition, moving: str = "") -> Composition:
        """A composition in which what the held groups keep is locked; see ``hold_groups``."""
        return hold_groups(composition, self.held, moving) if self.held else composition

    @cached_property
    def base(self) -> Decimal:
        """What the percentages are of: 1 for the whole, or the share of the base."""
        share = base_share(self.composition) if self.of == "base" else Decimal(1)
        return share if share > 0 else Decimal(1)

    def text_of(self, typed: LineInput) -> str:
        """What stands in the field of a line: as it was typed, or its share of what is shown."""
        return typed.text if typed.text or typed.problem else share_text(typed.line.share, self.base)

    @property
    def problems(self) -> list[str]:
        """Every sentence that stands in the form."""
        return [typed.problem for typed in self.lines if typed.problem] + [
            said for said in (self.problem, self.wish.problem) if said
        ]

    @property
    def shown_text(self) -> str:
        """The composition, to be posted back as what was shown."""
        return pack((typed.line.key, typed.line.share) for typed in self.lines)

    @property
    def basis_text(self) -> str:
        """The composition before the present edit."""
        return pack(self.basis)


def share_text(share: Decimal, base: Decimal) -> str:
    """A share as percent of ``base``, as it stands in a field: 24.00."""
    return percent_text(share if base == 1 else round(share / base, 4), 2)


def unpack(text: str) -> dict[str, Decimal]:
    """The shares of a hidden field; what is damaged is left out, as it is only a memory."""
    found = {}
    for word in text.split(";")[:MOST_LINES]:
        key, _, number = word.partition(":")
        try:
            found[key] = min(max(Decimal(number), Decimal(0)), Decimal(1))
        except InvalidOperation:
            continue
    return found


def opened(
    composition: Composition,
    tables: Tables,
    audience: str,
    area: str,
    seen: int,
    made_from: int,
    held: Iterable[str] = (),
    meant: Meant | None = None,
    of: str = "whole",
) -> State:
    """The state of a freshly opened version."""
    lines, meant = tuple(LineInput(line) for line in composition.lines), meant or Meant()
    return State(
        lines,
        audience,
        area,
        True,
        tables,
        seen=seen,
        made_from=made_from,
        held=tuple(held),
        of=of,
        wish=wishing.kept(meant, tables),
        skin=meant.skin,
        season=meant.season,
    )


def read(data: Fields, tables: Tables) -> State:
    """The state as it was posted. Lines that cannot be read keep their text, their last good
    share and a sentence. Raises :class:`Problem` for an unknown ingredient or too many lines."""
    keys = data.texts("key")
    if len(keys) > MOST_LINES:
        raise Problem(f"A formula has at most {MOST_LINES} lines.")
    shown = unpack(data.text("shown", MOST_MEMORY))
    known = tables.ingredients
    drawn = Composition(tuple(Line(known[key], share) for key, share in shown.items() if key in known))
    base = base_share(drawn) if data.text("drawn_of") == "base" and base_share(drawn) > 0 else Decimal(1)
    lines: list[LineInput] = []
    twice = ""
    for key in keys:
        item = tables.ingredient(key)
        if any(typed.line.key == key for typed in lines):
            twice = f"{item.name} stands here twice: put both into one line."
            continue
        text = data.text(f"percent-{key}", 200)
        share, problem = shown.get(key, Decimal(0)), ""
        try:
            # A figure that was not touched is what was shown, to its last hidden digit.
            if text == share_text(share, base) and key in shown:
                text = ""
            else:
                share = min(round(units.share(text) * base, 6), Decimal(1))
        except Problem as refusal:
            problem = refusal.sentence if text.strip() else "A percentage is missing: 0 leaves it out."
        lines.append(LineInput(Line(item, share, bool(data.text(f"locked-{key}"))), text, problem))
    audience, area = data.text("audience"), data.text("area")
    return State(
        tuple(lines),
        audience if audience in AUDIENCES else "adult",
        area if area in AREAS else "body",
        data.text("follow") != "keep",
        tables,
        note=data.text("note"),
        seen=data.whole("seen") or 0,
        made_from=data.whole("made_from") or 0,
        editing=data.text("editing"),
        basis=tuple(unpack(data.text("basis", MOST_MEMORY)).items()),
        problem=twice,
        tool=data.text("tool"),
        why_at=data.text("why_at"),
        of="base" if data.text("of") == "base" else "whole",
        held=tuple(role for role in ROLES if data.text(f"held-{role}")),
        wish=wishing.read(data, tables),
        skin=skin if (skin := data.text("skin")) in SKINS else "",
        season=season if (season := data.text("season")) in SEASONS else "",
    )


def settled(data: Fields, tables: Tables) -> State:
    """The posted state with every change in it carried out, as a save needs it."""
    return _caught_up(read(data, tables), unpack(data.text("shown", MOST_MEMORY)), but="")


def respond(data: Fields, tables: Tables) -> State:
    """The state after the one action that was posted; see ``_ACTIONS`` for their names."""
    key, shown = data.text("edited"), unpack(data.text("shown", MOST_MEMORY))
    state = _caught_up(read(data, tables), shown, but=key)
    if data.text("drawn_of") != state.of and not key:
        # The switch between base and whole writes every good line anew.
        state = replace(state, lines=tuple(t if t.problem else LineInput(t.line) for t in state.lines))
    try:
        if key:
            return _edit(state, key, shown, data.text("nudge"))
        state = replace(state, editing="", basis=())
        if group := data.text("grouped"):
            return _group(state, group, data.text(f"group-{group}", 200))
        for name, action in _ACTIONS.items():
            if value := data.text(name, MOST_MEMORY):
                return action(state, value)
    except Problem as problem:
        return with_error(state, problem.sentence)
    return state


def with_error(state: State, sentence: str) -> State:
    """The state with a sentence about the whole."""
    return replace(state, problem=sentence)


def _caught_up(state: State, shown: dict[str, Decimal], but: str) -> State:
    """Carry out what was typed in other lines than ``but`` and never answered: a hand can be
    faster than the server, and a form can be saved without it."""
    typed = {t.line.key: t.line.share for t in state.lines if t.line.key != but and not t.problem}
    late = {key: share for key, share in typed.items() if shown.get(key, share) != share}
    if not late:
        return state
    edited = next((t for t in state.lines if t.line.key == but), None)
    before = {but: shown[but]} if edited and but in shown else {}
    try:
        composition = set_shares(state.composition, before, follow=False)
        if state.of == "whole":
            composition = set_shares(state.free(composition, _role(state, late)), late, state.follow)
        else:
            composition = set_shares(composition, {key: shown[key] for key in late}, follow=False)
            texts = {t.line.key: t.text for t in state.lines}
            for key in late:
                composition = set_of_base(composition, key, units.share(texts[key]), state.follow)
    except Problem as problem:
        return with_error(state, problem.sentence)
    return replace(_redrawn(state, composition, keep=edited), editing="", basis=())


def _edit(state: State, key: str, shown: dict[str, Decimal], nudge: str) -> State:
    """One line typed or nudged; with ``follow`` the others move from where they stood before."""
    typed = next((typed for typed in state.lines if typed.line.key == key), None)
    if typed is None:
        raise Problem("That line is no longer here.")
    last = {t.line.key: t.line.share for t in state.lines} | {key: shown.get(key, typed.line.share)}
    basis = dict(state.basis) if state.editing == key and state.basis else last
    if nudge:
        share = round(shown.get(key, Decimal(0)) / state.base, 4) + units.number(nudge) / 100
        typed = LineInput(typed.line, percent_text(min(max(share, Decimal(0)), Decimal(1)), 2))
    before = Composition(tuple(t.line._replace(share=basis.get(t.line.key, t.line.share)) for t in state.lines))
    state = replace(state, editing=key, basis=tuple(basis.items()))
    if not typed.problem:
        try:
            share = units.share(state.text_of(typed))
            free = state.free(before, typed.ingredient.role)
            if state.of == "base":
                return _redrawn(state, set_of_base(free, key, share, state.follow), keep=typed)
            return _redrawn(state, set_shares(free, {key: share}, state.follow), keep=typed)
        except Problem as problem:
            typed = replace(typed, problem=problem.sentence)
    # What cannot be used stays as it was typed; the rest stands as before it was.
    return _redrawn(state, before, keep=typed)


def _role(state: State, keys: Iterable[str]) -> str:
    """The group of some lines, where it is one."""
    roles = {typed.ingredient.role for typed in state.lines if typed.line.key in set(keys)}
    return roles.pop() if len(roles) == 1 else ""


def _add(state: State, key: str) -> State:
    item = state.tables.ingredient(key)
    if any(typed.line.key == key for typed in state.lines):
        return replace(state, problem=f"{item.name} is in the formula already.", focus=key)
    if len(state.lines) >= MOST_LINES:
        raise Problem(f"A formula has at most {MOST_LINES} lines.")
    # The first ingredient of an empty formula is all of it; any other starts at nothing.
    new = Line(item, Decimal(0) if state.lines else Decimal(1))
    return replace(state, lines=(*state.lines, LineInput(new)), focus=key)


def _remove(state: State, key: str) -> State:
    left = replace(state, lines=tuple(typed for typed in state.lines if typed.line.key != key))
    if not state.follow or not left.lines:
        return left
    try:
        return _redrawn(left, normalise(left.free(left.composition)))
    except Problem:
        return left  # everything else is locked: the gap is shown in the total


def _place(text: str) -> Place:
    """``wax;butter`` of a place in the triangle; what lies outside is brought to its border."""
    parts = [float(units.number(part)) for part in text.split(";")[:2]]
    if len(parts) != 2:
        raise Problem("That is no place in the triangle.")
    wax, butter = (min(max(part, 0.0), 1.0) for part in parts)
    return wax, butter, max(1 - wax - butter, 0.0)


_STEPS: dict[str, tuple[int, int, float]] = {
    "up": (0, -1, 0.01), "down": (0, -1, -0.01), "left": (1, 2, 0.01), "right": (1, 2, -0.01),
}  # fmt: skip


def _stepped(place: Place, step: str) -> Place:
    """One percent more wax (up) or less (down), the others in proportion; from oil to butter
    (left) or back (right)."""
    if step not in _STEPS:
        raise Problem("The dot moves up, down, left or right.")
    which, other, by = _STEPS[step]
    parts = list(place)
    by = max(-parts[which], min(by, 1 - parts[which] if other < 0 else parts[other]))
    if other < 0:
        rest = parts[1] + parts[2]
        parts[1:] = [part - by * (part / rest if rest else 0.5) for part in parts[1:]]
    else:
        parts[other] -= by
    parts[which] += by
    return parts[0], parts[1], parts[2]


def _accept(state: State, packed: str) -> State:
    """The lines of an offer in the place of the present ones; locks stay."""
    locked = {typed.line.key for typed in state.lines if typed.line.locked}
    offered = unpack(packed)
    items = {key: state.tables.ingredient(key) for key in offered}
    lines = Composition(tuple(Line(items[key], share, key in locked) for key, share in offered.items())).lines
    return replace(state, lines=tuple(LineInput(line) for line in lines), tool="")


def _redrawn(state: State, composition: Composition, keep: LineInput | None = None) -> State:
    """The state with the lines of a composition; the text of ``keep`` and of bad lines stays."""
    old = {typed.line.key: typed for typed in state.lines}
    lines = []
    for line in composition.lines:
        line = line._replace(locked=old[line.key].line.locked)
        if keep is not None and line.key == keep.line.key:
            lines.append(replace(keep, line=line))
        elif old[line.key].problem:
            lines.append(replace(old[line.key], line=line))
        else:
            lines.append(LineInput(line))
    return replace(state, lines=tuple(lines))


def _open(state: State, tool: str) -> State:
    return replace(state, tool="" if tool == "none" else tool)


def _group(state: State, role: str, text: str) -> State:
    """The total of a group typed as one number."""
    return _redrawn(state, set_group(_but(state, role), role, units.share(text)))


def _but(state: State, role: str) -> Composition:
    """The composition with every held group locked but one, whose total is being typed."""
    return hold_groups(state.composition, [each for each in state.held if each != role])


def _parts(state: State, text: str) -> State:
    """``3 : 2 : 5`` for the lines, or for wax, butter and oil."""
    parts = [units.number(part) for part in text.replace("/", ":").split(":")]
    return _redrawn(state, set_parts(state.composition, parts))


_ACTIONS: dict[str, Callable[[State, str], State]] = {
    "add": _add,
    "remove": _remove,
    "open": _open,
    "accept": _accept,
    "remedy": lambda state, packed: _redrawn(
        state, set_shares(state.free(state.composition), unpack(packed), follow=True)
    ),
    "parts": _parts,
    "place": lambda state, where: _redrawn(state, moved(state.free(state.composition), _place(where))),
    "move": lambda state, step: _redrawn(
        state, moved(state.free(state.composition), _stepped(place_of(state.composition), step))
    ),
    "normalise": lambda state, _: _redrawn(state, normalise(state.free(state.composition))),
}
