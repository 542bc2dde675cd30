"""How one melt becomes several finishes: what each takes, what is stirred into it, and the warmth meanwhile."""

from collections.abc import Iterator, Sequence

from balmcore.making.method.heating import ON_A_TRAY
from balmcore.making.method.temperatures import poured_wrong
from balmcore.making.portions import Portion
from balmcore.making.steps import FINISH, Setup, Step, flat
from balmcore.wording import in_sentence, listed

TAKE_MIN = 1.5  # weighing a portion, stirring its additions in


def divided(setup: Setup, piece_min: float, kept_g: Sequence[float]) -> Iterator[Step]:
    """A step for each finish: taken off the base, finished, poured or filled while the rest waits.

    ``piece_min`` are the minutes that one piece takes, ``kept_g`` what of each stays in its jug to top up with.
    """
    melted = not setup.is_whipped and setup.handling.cooling != "cold_whip"
    too_hot, said = poured_wrong(setup)
    for place, number in enumerate(plainest_first(setup)):
        portion, left = setup.portions[number], len(setup.portions) - place - 1
        step = Step(
            f"{FINISH}{number}",
            f"{'Pour' if melted else 'Fill'} “{portion.finish.name}”",
            _text(setup, portion, left, melted, kept_g[number]),
            "The plainest first: what clings to a jug then spoils nothing. Each portion is weighed, so that what is "
            "added is the share that was planned.",
            TAKE_MIN + 0.5 * len(portion.add) + piece_min * portion.finish.count,
            at="stove" if melted and left else "",
            caution=f"{said} {ON_A_TRAY}".strip() if melted else "",
            aim="pour at" if melted else "",
            aim_c=setup.handling.pour_c if melted else 0.0,
            too_hot=too_hot if melted else (),
        )
        yield flat(step, setup.handling.pour_c) if melted else step


def plainest_first(setup: Setup) -> list[int]:
    """The numbers of the finishes in the order in which they are poured: the one with least added first."""
    return sorted(range(len(setup.portions)), key=lambda number: len(setup.portions[number].add))


def glasses(setup: Setup) -> str:
    """What is weighed at the start for one finish alone, in a sentence; empty where nothing is."""
    told = []
    for number in plainest_first(setup):
        finish = setup.portions[number].finish
        own = [in_sentence(one.ingredient.name) for one in finish.add if not one.drops]
        if own:
            told.append(f"{listed(own)} into a glass with “{finish.name}” on it")
    return f"Weigh {'; '.join(told)}." if told else ""


def _text(setup: Setup, portion: Portion, left: int, melted: bool, kept_g: float) -> str:
    jug = "a small warm jug" if melted else "a small bowl"
    count = portion.finish.count
    pieces = f"{count} piece{'' if count == 1 else 's'}"
    text = f"Take {setup.mass(float(portion.base_g))} of the base into {jug}"
    weighed = [
        f"{setup.mass(float(portion.add[one.key]))} {in_sentence(one.ingredient.name)}"
        for one in portion.finish.add
        if not one.drops
    ]
    if weighed:
        text += f", stir its glass in ({listed(weighed)})"
    text += f", {'pour' if melted else 'fill'} {pieces}."
    for one in portion.finish.add:
        if one.drops:
            drops = f"{one.drops} drop{'' if one.drops == 1 else 's'}"
            text += f" {drops} of {in_sentence(one.ingredient.name)} in each, stirred with a stick."
    if kept_g:
        text += (
            f" Pour each a little short: about {setup.mass(kept_g)} stay in its jug {setup.heat.keeps} to top up with."
        )
    if left and melted:
        text += f" The rest of the base stays {setup.heat.keeps} at {setup.temp(setup.handling.pour_c)}."
    return text
