"""Commands about making it: rescue, portions, method, calibrate, declare."""

from datetime import date

from balmcore.cli.request import (
    Answer,
    Request,
    choice_of,
    composition_of,
    decimal_of,
    listed_of,
    mixed,
    number_of,
    object_of,
    percent_of,
)
from balmcore.composition import Composition
from balmcore.design.rescue import rescue
from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.labels.declaration import NAMES, declare
from balmcore.making.day import DayJob, lay_out
from balmcore.making.method import method_for, usual_setup
from balmcore.making.portions import Addition, Finish, portioned
from balmcore.making.scaling import MOST_GRAMS
from balmcore.making.schedule import NAMES as NAMES_OF_PLACES
from balmcore.making.steps import Setup
from balmcore.making.weighing import UNIT_G, weight_question
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.physics.grain import MELTING_METHODS
from balmcore.physics.ways_of_heating import DIRECT, HEATING_METHODS
from balmcore.tables import shipped
from balmcore.trials.calibration import Calibration, FirmnessReading
from balmcore.trials.press import PRESS_SIGMA, THUMB_SIGMA
from balmcore.units import mass_g

SIGMAS = {"press": PRESS_SIGMA, "thumb": THUMB_SIGMA}


def answer_rescue(request: Request) -> Answer:
    """Grams of what to add to a pot that is too soft or too firm."""
    item = shipped().ingredient(str(request.get("add", "")), "add")
    felt = request.get("felt_firmness")
    found = rescue(
        composition_of(request),
        number_of(request.get("mass_g"), "mass_g", 1e-6, 1e6),
        number_of(request.get("want_firmness"), "want_firmness", 0, 150),
        item,
        None if felt is None else number_of(felt, "felt_firmness", 0, 150),
        shift=number_of(request.get("shift", 0), "shift", -150, 150),
    )
    return {
        "add_g": found.add_g,
        "percent": percent_of(found.composition),
        "firmness": found.firmness,
        "shift": found.shift,
        "reason": found.reason,
    }


def answer_portions(request: Request) -> Answer:
    """One melt divided into finishes, exact on the scale's grid."""
    made = portioned(
        composition_of(request),
        [_finish(item, n) for n, item in enumerate(listed_of(request, "finishes"))],
        decimal_of(request.get("resolution_g", 0.1), "resolution_g"),
        decimal_of(request.get("loss_g", 0), "loss_g"),
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
                "percent": percent_of(portion.composition),
                "firmness": predict(portion.composition).firmness_at(WINDOW_C),
            }
            for portion in made.portions
        ],
        "flags": [
            *({"key": flag.key, "problem": flag.sentence} for flag in made.flags),
            *(
                {"finish": portion.finish.name, "key": flag.key, "problem": flag.sentence}
                for portion in made.portions
                for flag in portion.flags
            ),
        ],
    }


METHOD_OF = "pot_salve"  # the kind whose usual containers a melt is poured into, where only its grams are known


def _setup_of(request: Request) -> Setup:
    """So many grams made as is usual, or as the request says."""
    room_c = number_of(request.get("room_c", WINDOW_C), "room_c", -10, 45)
    grams = number_of(request.get("mass_g"), "mass_g", 1, MOST_GRAMS)
    usual = usual_setup(composition_of(request), shipped().kinds[METHOD_OF], grams, shipped().containers, room_c)
    return usual.handled(
        cooling=choice_of(request, "cooling", tuple(COOLING_METHODS), usual.handling.cooling),
        melting=choice_of(request, "melting", tuple(MELTING_METHODS), usual.handling.melting),
        heating=choice_of(request, "heating", (*HEATING_METHODS, DIRECT), usual.handling.heating),
        whipper=choice_of(request, "whipper", tuple(WHIPPERS), usual.handling.whipper),
    )


def answer_day(request: Request) -> Answer:
    """Several batches of one day, laid out so that the last is done as early as can be."""
    asked = object_of(request, "room") if "room" in request else {}
    room = {name: int(number_of(asked.get(name, 1), f"room.{name}", 1, 20)) for name in NAMES_OF_PLACES}
    jobs = []
    for number, item in enumerate(listed_of(request, "batches")):
        if not isinstance(item, dict):
            raise Problem(f"batches.{number} should be an object.", f"batches.{number}")
        jobs.append(DayJob.of(str(item.get("name") or number), _setup_of(item)))
    if len({job.name for job in jobs}) < len(jobs):
        raise Problem("Each batch needs a name of its own.", "batches")
    found = lay_out(jobs, number_of(request.get("begins_min", 540), "begins_min", 0, 1e6), (), room)
    return {
        "batches": [
            {
                "name": slot.name,
                "start_min": slot.start,
                "end_min": slot.end,
                "uses": [{"what": use.what, "from_min": use.start, "to_min": use.end} for use in slot.uses],
            }
            for slot in found.slots
        ],
        "end_min": found.end,
        "one_after_another_min": sum(job.first.length for job in jobs),
    }


def answer_weight(request: Request) -> Answer:
    """What to ask about a weight that was typed."""
    show = Display(choice_of(request, "unit", tuple(UNIT_G), "g"))
    typed = str(request.get("typed", ""))[:80]
    grams = mass_g(typed, show.mass)
    held = request.get("available_g")
    asked = weight_question(
        typed,
        grams,
        decimal_of(request.get("wanted_g"), "wanted_g"),
        decimal_of(request.get("resolution_g", 0.1), "resolution_g"),
        None if held is None else decimal_of(held, "available_g"),
        show,
    )
    suggest = asked.suggest_g if asked else None
    return {
        "grams": float(grams),
        "asks": asked is not None,
        "suggest_g": None if suggest is None else float(suggest),
        "text": asked.text if asked else "",
    }


def answer_method(request: Request) -> Answer:
    """The steps in which so many grams are made."""
    setup = _setup_of(request)
    return {
        "steps": [
            {
                "title": step.title,
                "temp_c": step.aim_c if step.aim and step.asks else None,
                "minutes": step.length,
                "adds": list(step.adds),
                "too_hot": list(step.too_hot),
                "flash_c": step.flash_c,
                "text": " ".join(filter(None, (step.text, step.caution))),
            }
            for step in method_for(setup).steps
        ],
        "clear_c": setup.prediction.clear_c,
        "set_c": setup.prediction.set_c,
    }


def _finish(item: object, number: int) -> Finish:
    where = f"finishes.{number}"
    if not isinstance(item, dict):
        raise Problem(f"{where} should be an object.", where)
    add = tuple(
        Addition(shipped().ingredient(key, f"{where}.add.{key}"), decimal_of(value, f"{where}.add.{key}", 0, 100) / 100)
        for key, value in object_of(item, "add").items()
    )
    name = str(item.get("name") or f"Finish {number + 1}")
    return Finish(name, decimal_of(item.get("product_g"), f"{where}.product_g"), add)


def answer_declare(request: Request) -> Answer:
    """The list of ingredients of what was weighed, its scent allergens and allergens in plain words."""
    grams = {key: decimal_of(value, f"grams.{key}", 0) for key, value in object_of(request, "grams").items()}
    if not grams:
        raise Problem("grams should be an object of ingredient keys and grams.", "grams")
    found = declare(mixed(grams, "grams"), choice_of(request, "names", NAMES, "inci"))
    return {
        "ingredients": [
            {"key": each.ingredient.key, "name": each.name, "percent": each.share * 100} for each in found.ingredients
        ],
        "allergens": [
            {"name": each.name, "percent": each.share * 100, "known": each.is_known} for each in found.allergens
        ],
        "plain": list(found.plain),
    }


def answer_calibrate(request: Request) -> Answer:
    """What a maker's own tests teach, and firmness as corrected by it."""
    pours = [_reading(item, n) for n, item in enumerate(request.get("pours") or [])]
    known = Calibration(pours)
    asked = []
    for number, item in enumerate(listed_of(request, "predict")):
        composition, temp = _tested(item, f"predict.{number}")
        found = known.predict(composition, temp)
        asked.append({"firmness": found.firmness, "sigma": found.sigma, "plain_firmness": found.plain})
    learned = [
        {"group": one.group, "points": one.points, "sigma": one.sigma, "pours": one.pours} for one in known.learned
    ]
    step = known.step
    told = step and {
        "day": step.day.isoformat(),
        "group": step.group,
        "points": step.points,
        "sigma": step.sigma,
        "pours": step.pours,
    }
    return {"predict": asked, "learned": learned, "weights": known.weights.tolist(), "step": told}


def _tested(item: object, where: str) -> tuple[Composition, float]:
    if not isinstance(item, dict):
        raise Problem(f"{where} should be an object.", where)
    return composition_of(item), number_of(item.get("temp_c"), f"{where}.temp_c", -20, 80)


def _reading(item: object, number: int) -> FirmnessReading:
    where = f"pours.{number}"
    composition, temp = _tested(item, where)
    assert isinstance(item, dict)
    method = choice_of(item, "method", tuple(SIGMAS), "press")
    pour, day = item.get("pour"), item.get("day")
    if pour is not None and not isinstance(pour, str | int):
        raise Problem(f"{where}.pour should be a name or a number.", f"{where}.pour")
    try:
        poured = None if day is None else date.fromisoformat(str(day))
    except ValueError:
        raise Problem(f"{where}.day should be a day such as 2026-05-03.", f"{where}.day") from None
    firmness = number_of(item.get("firmness"), f"{where}.firmness", 0, 150)
    return FirmnessReading(composition, temp, firmness, SIGMAS[method], pour=pour, day=poured)
