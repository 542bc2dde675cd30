"""Commands of the core: JSON in, JSON out, no database. See docs/model.md for the fields."""

import argparse
import json
import math
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any, NoReturn, TextIO

from balmcore.advice.safety import Policy, cautions, most_scent_in_all, scent_share
from balmcore.advice.verdict import judge
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition
from balmcore.design.rescue import rescue
from balmcore.design.substitution import SHOWN_C, substitute
from balmcore.design.target import Target, reformulate
from balmcore.design.wishes import read_wishes
from balmcore.errors import Problem
from balmcore.making.portions import Addition, Finish, portioned
from balmcore.making.scaling import Filling, pour_temperature, scale
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.physics.thermal import Body, Place, minutes_to
from balmcore.recipes.reading import read
from balmcore.tables import shipped
from balmcore.units import CELSIUS

Request = Mapping[str, Any]
Answer = dict[str, Any]


class _Parser(argparse.ArgumentParser):
    """Refuses as every command does: by a problem."""

    def error(self, message: str) -> NoReturn:
        raise Problem(f"Name one command: {', '.join(COMMANDS)}.", "command")


def parser() -> argparse.ArgumentParser:
    """The commands with what each is for; their fields are told in docs/model.md."""
    made = _Parser(prog="python -m balmcore", description=__doc__)
    commands = made.add_subparsers(dest="command", required=True, metavar="COMMAND", parser_class=_Parser)
    for name, command in COMMANDS.items():
        commands.add_parser(name, help=command.__doc__, description=command.__doc__)
    return made


def main(arguments: list[str], source: TextIO, target: TextIO) -> int:
    """Run one command. Returns 0, or 2 when the input cannot be used."""
    try:
        command = COMMANDS[parser().parse_args(arguments).command]
        answer, code = command(_request(source.read())), 0
    except Problem as problem:
        answer, code = {"problem": problem.sentence, "where": problem.where}, 2
    json.dump(answer, target, ensure_ascii=False, allow_nan=False)
    target.write("\n")
    return code


def _request(text: str) -> Request:
    try:
        request = json.loads(text)
    except (ValueError, RecursionError):
        raise Problem("Standard input should hold one JSON object.", "input") from None
    if not isinstance(request, dict):
        raise Problem("Standard input should hold one JSON object.", "input")
    return request


def _number(value: object, where: str, low: float = -math.inf, high: float = math.inf) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e15:
        raise Problem(f"{where} should be a number, not {json.dumps(value)[:60]}.", where)
    if not low <= value <= high:
        raise Problem(f"{where} should be between {low:g} and {high:g}, not {value:g}.", where)
    return float(value)


def _composition(request: Request) -> Composition:
    percent = request.get("percent")
    if not isinstance(percent, dict) or not percent:
        raise Problem("percent should be an object of ingredient keys and numbers.", "percent")
    for key, value in percent.items():
        shipped().ingredient(key, f"percent.{key}")
        _number(value, f"percent.{key}", 0)
    composition = Composition.of({key: Decimal(str(value)) / 100 for key, value in percent.items()})
    return composition.require_mass()


def _list(request: Request, name: str) -> list[Any]:
    value = request.get(name)
    if not isinstance(value, list) or not value or len(value) > 10_000:
        raise Problem(f"{name} should be a list of at least one.", name)
    return value


def _predict(request: Request) -> Answer:
    """Firmness, solids and temperatures of a composition."""
    prediction = predict(_composition(request), _number(request.get("overrun", 0), "overrun", 0, 10))
    temps = [_number(t, "temps_c", -60, 200) for t in _list(request, "temps_c")]
    state = prediction.curve(temps)
    return {
        "solid_share": state.solid_share[0].tolist(),
        "structuring": state.structuring[0].tolist(),
        "yield_pa": state.yield_pa[0].tolist(),
        "firmness": state.firmness[0].tolist(),
        "sigma": prediction.sigma,
        "clear_c": prediction.clear_c,
        "set_c": prediction.set_c,
        "hold_c": {"20": prediction.hold_c(20), "45": prediction.hold_c(45)},
        "density_g_ml": prediction.composition.density_g_ml(),
    }


def _filling(item: object, number: int) -> Filling:
    where = f"containers.{number}"
    if not isinstance(item, dict):
        raise Problem(f"{where} should be an object.", where)
    known = shipped().containers.get(str(item.get("key", "")))
    if known is None and "capacity_ml" not in item:
        raise Problem(
            f"There is no container “{str(item.get('key', ''))[:60]}”: give capacity_ml and fill.", f"{where}.key"
        )
    capacity = item.get("capacity_ml", known.capacity_ml if known else None)
    fill = item.get("fill", known.fill if known else 1.0)
    count = _number(item.get("count"), f"{where}.count", 1)
    if count != int(count):
        raise Problem(f"{where}.count should be a whole number.", f"{where}.count")
    return Filling(
        str(item.get("key", number)),
        _number(capacity, f"{where}.capacity_ml", 0),
        _number(fill, f"{where}.fill", 0, 1),
        int(count),
    )


def _scale(request: Request) -> Answer:
    """Grams for containers on the scale's grid."""
    composition = _composition(request)
    overrun = _number(request.get("overrun", 0), "overrun", 0, 10)
    set_c = predict(composition).set_c
    pour = request.get("pour_c")
    pour_c = _number(pour, "pour_c", -40, 150) if pour is not None else pour_temperature(set_c)
    result = scale(
        composition,
        [_filling(item, n) for n, item in enumerate(_list(request, "containers"))],
        pour_c,
        Decimal(str(_number(request.get("resolution_g", 0.1), "resolution_g"))),
        Decimal(str(_number(request.get("loss_g", 0), "loss_g"))),
        overrun,
    )
    return {
        "product_g": result.product_g,
        "total_g": float(result.total_g),
        "driven_off_g": float(result.driven_off_g),
        "lines": {key: float(grams) for key, grams in result.lines.items()},
        "pieces": [{"key": p.key, "count": p.count, "net_g": p.net_g} for p in result.pieces],
        "flags": [{"key": flag.key, "problem": flag.sentence} for flag in result.flags],
    }


def _percent(composition: Composition) -> dict[str, float]:
    return {line.key: float(line.share * 100) for line in composition.lines}


def _names(request: Request, name: str) -> tuple[str, ...]:
    """A list of names; empty when it is not given."""
    value = request.get(name, [])
    if not isinstance(value, list) or not all(isinstance(word, str) for word in value) or len(value) > 200:
        raise Problem(f"{name} should be a list of names.", name)
    return tuple(value)


def _keys(request: Request, name: str) -> tuple[str, ...]:
    """A list of ingredient keys; empty when it is not given."""
    return tuple(shipped().ingredient(word, name).key for word in _names(request, name))


def _object(request: Request, name: str) -> Request:
    value = request.get(name) or {}
    if not isinstance(value, dict):
        raise Problem(f"{name} should be an object.", name)
    return value


def _target(request: Request) -> Answer:
    """Percentages that meet a firmness, a hold and wishes."""
    composition = _composition(request)
    window = _list(request, "firmness")
    if len(window) != 2:
        raise Problem("firmness should be a list of two numbers, low and high.", "firmness")
    low, high = (_number(value, "firmness", 0, 150) for value in window)
    hold, wished, locked = _object(request, "hold"), _object(request, "wishes"), _keys(request, "locked")
    lines = tuple(
        line._replace(share=line.share / composition.total, locked=line.key in locked) for line in composition.lines
    )
    only = _keys(wished, "only") if "only" in wished else None
    ended = reformulate(
        Composition(lines),
        Target(
            low,
            high,
            _number(hold.get("firmness"), "hold.firmness", 0, 150) if hold else None,
            _number(hold.get("temp_c"), "hold.temp_c", -20, 100) if hold else None,
            wishes=read_wishes(shipped(), wished.get("vegan") is True, _names(wished, "without"), only),
        ),
    )
    return {
        "met": ended.success,
        "percent": _percent(ended.composition),
        "firmness": ended.firmness,
        "hold_firmness": ended.hold_firmness,
        "reason": ended.message,
    }


def _swap(request: Request) -> Answer:
    """One ingredient for another, one for one and matched."""
    names = ("out", "in", "filler")
    out, into, filler = (shipped().ingredient(str(request.get(name, "")), name) for name in names)
    found = substitute(_composition(request), out.key, into, filler)

    def told(composition: Composition) -> Answer:
        firmness = predict(composition).curve(SHOWN_C).firmness[0]
        return {
            "percent": _percent(composition),
            "firmness": {f"{temp:g}": float(f) for temp, f in zip(SHOWN_C, firmness, strict=True)},
        }

    return {
        "one_for_one": told(found.one_for_one),
        "matched": told(found.matched),
        "weight_ratio": found.weight_ratio,
    }


def _read(request: Request) -> Answer:
    """A recipe as people write it, with its doubts."""
    text = request.get("text")
    if not isinstance(text, str):
        raise Problem("text should hold the recipe.", "text")
    found = read(text, str(request.get("kitchen", "metric")))
    return {
        "lines": [
            {
                "text": line.text,
                "ingredient": line.ingredient.key if line.ingredient else None,
                "grams": line.grams,
                "percent": line.percent,
                "sure": line.sure,
                "doubts": list(line.doubts),
            }
            for line in found.lines
        ],
        "doubts": [
            *found.doubts,
            *(f"Left out, as no ingredient with its amount: “{text}”." for text in found.left_out),
        ],
    }


def _cool(request: Request) -> Answer:
    """Minutes until a thermometer shows each temperature."""
    body = Body(*(_number(request.get(name), name, 1e-9, 1e9) for name in ("mass_g", "area_m2", "volume_m3")))
    stirred = request.get("stirred", False)
    if not isinstance(stirred, bool):
        raise Problem("stirred should be true or false.", "stirred")
    place = Place(
        "here",
        "Here",
        _number(request.get("h_w_m2_k"), "h_w_m2_k", 0.01, 1e5),
        _number(request.get("room_c"), "room_c", -40, 150),
    )
    asked = [_number(temp, "to_c", -60, 200) for temp in _list(request, "to_c")]
    start = _number(request.get("start_c"), "start_c", -40, 150)
    found = minutes_to(_composition(request), body, start, place, asked, stirred)
    return {"minutes_to": {f"{temp:g}": minutes for temp, minutes in zip(asked, found, strict=True)}}


def _judge(request: Request) -> Answer:
    """Whether a composition is what a kind asks for, and why not."""
    kind = shipped().kind(str(request.get("kind", "")))
    prediction = predict(_composition(request), kind.overrun)
    verdict = judge(prediction, kind, CELSIUS)
    return {
        "fits": verdict.fits,
        "firmness": verdict.firmness,
        "hold_firmness": None if kind.hold_temp_c is None else prediction.firmness_at(kind.hold_temp_c),
        "window": [kind.firm_low, kind.firm_high],
        "reason": f"{verdict.headline}. {verdict.hold}",
    }


def _cautions(request: Request) -> Answer:
    """What to mind in a composition, by who wears it and where."""
    wearer = {
        name: _choice(request, name, allowed, usual)
        for name, allowed, usual in (
            ("audience", tuple(AUDIENCES), "adult"),
            ("area", tuple(AREAS), "body"),
            ("policy", tuple(Policy), Policy.CAUTIOUS),
        )
    }
    composition = _composition(request)
    return {
        "cautions": [
            {"level": c.level, "about": [item.key for item in c.about], "line": c.line, "text": c.text}
            for c in cautions(composition, **wearer)
        ],
        "total_aromatics": float(scent_share(composition) * 100),
        "most": float(most_scent_in_all(**wearer) * 100),
    }


def _rescue(request: Request) -> Answer:
    """Grams of what to add to a pot that is too soft or too firm."""
    item = shipped().ingredient(str(request.get("add", "")), "add")
    felt = request.get("felt_firmness")
    found = rescue(
        _composition(request),
        _number(request.get("mass_g"), "mass_g", 1e-6, 1e6),
        _number(request.get("want_firmness"), "want_firmness", 0, 150),
        item,
        None if felt is None else _number(felt, "felt_firmness", 0, 150),
    )
    return {
        "add_g": found.add_g,
        "percent": _percent(found.composition),
        "firmness": found.firmness,
        "reason": found.reason,
    }


def _portions(request: Request) -> Answer:
    """One melt divided into finishes, exact on the scale's grid."""
    made = portioned(
        _composition(request),
        [_finish(item, n) for n, item in enumerate(_list(request, "finishes"))],
        _decimal(request.get("resolution_g", 0.1), "resolution_g"),
        _decimal(request.get("loss_g", 0), "loss_g"),
    )
    return {
        "base": {
            "total_g": float(made.total_g),
            "lines": {key: float(grams) for key, grams in made.lines.items()},
            "loss_g": float(made.loss_g),
            "driven_off_g": float(made.driven_off_g),
        },
        "finishes": [
            {
                "name": portion.finish.name,
                "base_g": float(portion.base_g),
                "add": {key: float(grams) for key, grams in portion.add.items()},
                "total_g": float(portion.total_g),
                "percent": _percent(portion.composition),
                "firmness": predict(portion.composition).firmness_at(WINDOW_C),
            }
            for portion in made.portions
        ],
        "flags": [{"key": flag.key, "problem": flag.sentence} for flag in made.flags],
    }


def _finish(item: object, number: int) -> Finish:
    where = f"finishes.{number}"
    if not isinstance(item, dict):
        raise Problem(f"{where} should be an object.", where)
    add = tuple(
        Addition(shipped().ingredient(key, f"{where}.add.{key}"), _decimal(value, f"{where}.add.{key}", 0, 100) / 100)
        for key, value in _object(item, "add").items()
    )
    name = str(item.get("name") or f"Finish {number + 1}")
    return Finish(name, _decimal(item.get("product_g"), f"{where}.product_g"), add)


def _decimal(value: object, where: str, low: float = -math.inf, high: float = math.inf) -> Decimal:
    return Decimal(str(_number(value, where, low, high)))


def _choice(request: Request, name: str, allowed: Sequence[str], usual: str) -> str:
    value = request.get(name, usual)
    if value not in allowed:
        raise Problem(f"{name} should be one of {', '.join(allowed)}.", name)
    return str(value)


COMMANDS: dict[str, Callable[[Request], Answer]] = {
    "predict": _predict,
    "scale": _scale,
    "target": _target,
    "swap": _swap,
    "read": _read,
    "cool": _cool,
    "judge": _judge,
    "cautions": _cautions,
    "rescue": _rescue,
    "portions": _portions,
}
