"""Commands about what a few cases bear: rates, suspects, press."""

from balmcore.cli.request import Answer, Request, listed_of, number_of, object_of
from balmcore.errors import Problem
from balmcore.trials.press import MOST_PRESSED_G, repeated
from balmcore.trials.rates import Rate
from balmcore.trials.suspects import Wearing, suspects

MOST_CASES = 1_000_000


def _rate_of(request: Request, where: str) -> Rate:
    cases, of = (number_of(request.get(name), f"{where}{name}", 0, MOST_CASES) for name in ("cases", "of"))
    if cases != int(cases) or of != int(of) or cases > of:
        raise Problem(f"{where}cases should be a whole number, and no more than {where}of.", f"{where}cases")
    return Rate(int(cases), int(of))


def answer_rates(request: Request) -> Answer:
    """How sure a rate is, and whether it lies below another enough to go by."""
    own = _rate_of(request, "")
    answer: Answer = {"interval": list(own.interval)}
    if request.get("against") is not None:
        other = _rate_of(object_of(request, "against"), "against.")
        rivals = int(number_of(request.get("rivals", 1), "rivals", 1, 1000))
        answer |= {"chance_below": own.chance_below(other), "is_below": own.is_below(other, rivals)}
    return answer


def answer_suspects(request: Request) -> Answer:
    """What wearers who reacted share, and how often chance makes such a list."""
    wearers = []
    for number, things in enumerate(listed_of(request, "wearers")):
        where = f"wearers.{number}"
        if not isinstance(things, list) or not things:
            raise Problem(f"{where} should be a list of what was worn.", where)
        wearers.append([_worn(one, f"{where}.{n}") for n, one in enumerate(things)])
    found = suspects(wearers)
    ranked = [
        {"key": one.key, "reacted": one.held_by, "without_trouble": one.others_with, "p": one.p} for one in found.ranked
    ]
    return {"suspects": ranked, "reacted": found.reacted, "wearers": found.wearers, "by_chance": found.by_chance}


def _worn(one: object, where: str) -> Wearing:
    holds = one.get("holds") if isinstance(one, dict) else None
    if not isinstance(one, dict) or not isinstance(holds, list) or not all(isinstance(key, str) for key in holds):
        raise Problem(f"{where} should be an object with holds, a list of names, and reacted.", where)
    if not isinstance(one.get("reacted", False), bool):
        raise Problem(f"{where}.reacted should be true or false.", f"{where}.reacted")
    return Wearing(frozenset(holds), one.get("reacted", False))


def answer_press(request: Request) -> Answer:
    """Firmness and its sigma from one or more press readings of a piece."""
    readings = [number_of(each, "grams", 0, MOST_PRESSED_G) for each in listed_of(request, "grams")]
    piece = request.get("piece_mm")
    found = repeated(
        readings,
        number_of(request.get("rod_mm"), "rod_mm", 1, 100),
        number_of(request.get("resolution_g", 0.1), "resolution_g", 1e-6, 1000),
        None if piece is None else number_of(piece, "piece_mm", 1, 10_000),
    )
    return {"firmness": found.measured.firmness, "sigma": found.measured.sigma, "spread": found.spread}
