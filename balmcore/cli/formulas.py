"""Commands about a formula: predict, scale, target, swap, read, cool, judge, cautions."""

from decimal import Decimal

from balmcore.advice.claims import claims
from balmcore.advice.safety import Policy, Wearer, cautions, scent_share
from balmcore.advice.verdict import judge
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.cli.request import (
    Answer,
    Request,
    choice_of,
    composition_of,
    keys_of,
    listed_of,
    names_of,
    number_of,
    object_of,
    percent_of,
)
from balmcore.composition import Composition
from balmcore.design.substitution import SHOWN_C, substitute
from balmcore.design.target import Target, reformulate
from balmcore.design.wishes import read_wishes, wished
from balmcore.display import CELSIUS
from balmcore.errors import Problem
from balmcore.making.pot import pour_temperature
from balmcore.making.scaling import Filling, scale
from balmcore.physics.firmness import predict
from balmcore.physics.thermal import Body, Place, minutes_to
from balmcore.recipes.reading import read
from balmcore.tables import shipped

MOST_LABEL_LETTERS = 5_000  # of a text that is looked through for claims


def answer_predict(request: Request) -> Answer:
    """Firmness, solids and temperatures of a composition."""
    prediction = predict(composition_of(request), number_of(request.get("overrun", 0), "overrun", 0, 10))
    temps = [number_of(t, "temps_c", -60, 200) for t in listed_of(request, "temps_c")]
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
        "density_g_ml": prediction.density_g_ml,
        "ml_per_g": [prediction.ml_per_g(temp) for temp in temps],
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
    count = number_of(item.get("count"), f"{where}.count", 1)
    if count != int(count):
        raise Problem(f"{where}.count should be a whole number.", f"{where}.count")
    return Filling(
        str(item.get("key", number)),
        number_of(capacity, f"{where}.capacity_ml", 0),
        number_of(fill, f"{where}.fill", 0, 1),
        int(count),
    )


def answer_scale(request: Request) -> Answer:
    """Grams for containers on the scale's grid."""
    composition = composition_of(request)
    overrun = number_of(request.get("overrun", 0), "overrun", 0, 10)
    pour = request.get("pour_c")
    pour_c = number_of(pour, "pour_c", -40, 150) if pour is not None else pour_temperature(composition)
    result = scale(
        composition,
        [_filling(item, n) for n, item in enumerate(listed_of(request, "containers"))],
        pour_c,
        Decimal(str(number_of(request.get("resolution_g", 0.1), "resolution_g"))),
        Decimal(str(number_of(request.get("loss_g", 0), "loss_g"))),
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


def answer_target(request: Request) -> Answer:
    """Percentages that meet a firmness, a hold and wishes."""
    composition = composition_of(request)
    window = listed_of(request, "firmness")
    if len(window) != 2:
        raise Problem("firmness should be a list of two numbers, low and high.", "firmness")
    low, high = (number_of(value, "firmness", 0, 150) for value in window)
    hold, wished, locked = object_of(request, "hold"), object_of(request, "wishes"), keys_of(request, "locked")
    lines = tuple(
        line._replace(share=line.share / composition.total, locked=line.key in locked) for line in composition.lines
    )
    only = keys_of(wished, "only") if "only" in wished else None
    ended = reformulate(
        Composition(lines),
        Target(
            low,
            high,
            number_of(hold.get("firmness"), "hold.firmness", 0, 150) if hold else None,
            number_of(hold.get("temp_c"), "hold.temp_c", -20, 100) if hold else None,
            wishes=read_wishes(shipped(), wished.get("vegan") is True, names_of(wished, "without"), only),
        ),
    )
    return {
        "met": ended.success,
        "percent": percent_of(ended.composition),
        "firmness": ended.firmness,
        "hold_firmness": ended.hold_firmness,
        "reason": ended.message,
    }


def answer_swap(request: Request) -> Answer:
    """One ingredient for another, one for one and matched."""
    names = ("out", "in", "filler")
    out, into, filler = (shipped().ingredient(str(request.get(name, "")), name) for name in names)
    found = substitute(composition_of(request), out.key, into, filler)

    def told(composition: Composition) -> Answer:
        firmness = predict(composition).curve(SHOWN_C).firmness[0]
        return {
            "percent": percent_of(composition),
            "firmness": {f"{temp:g}": float(f) for temp, f in zip(SHOWN_C, firmness, strict=True)},
        }

    return {
        "one_for_one": told(found.one_for_one),
        "matched": told(found.matched),
        "weight_ratio": found.weight_ratio,
    }


def answer_read(request: Request) -> Answer:
    """A recipe as people write it, with its doubts."""
    text = request.get("text")
    if not isinstance(text, str):
        raise Problem("text should hold the recipe.", "text")
    found = read(text, str(request.get("kitchen", "metric")))
    wishes = wished(found.wishes, shipped())
    return {
        "lines": [
            {
                "text": line.text,
                "ingredient": line.ingredient.key if line.ingredient else None,
                "grams": line.grams,
                "percent": line.percent,
                "sure": line.sure,
                "doubts": [
                    {"asks": doubt.asks, "kind": doubt.kind, "choices": [choice.value for choice in doubt.choices]}
                    for doubt in line.doubts
                ],
                **({"refused": line.refused} if line.refused else {}),
            }
            for line in found.lines
        ],
        "doubts": [
            *found.doubts,
            *(f"Left out, as no ingredient with its amount: “{text}”." for text in found.left_out),
        ],
        "notes": list(found.notes),
        "wishes": {"vegan": wishes.vegan, "without": list(wishes.words)},
        "total_g": found.total_g,
    }


def answer_cool(request: Request) -> Answer:
    """Minutes until a thermometer shows each temperature."""
    body = Body(*(number_of(request.get(name), name, 1e-9, 1e9) for name in ("mass_g", "area_m2", "volume_m3")))
    stirred = request.get("stirred", False)
    if not isinstance(stirred, bool):
        raise Problem("stirred should be true or false.", "stirred")
    place = Place(
        "here",
        "Here",
        number_of(request.get("h_w_m2_k"), "h_w_m2_k", 0.01, 1e5),
        number_of(request.get("room_c"), "room_c", -40, 150),
    )
    asked = [number_of(temp, "to_c", -60, 200) for temp in listed_of(request, "to_c")]
    start = number_of(request.get("start_c"), "start_c", -40, 150)
    composition = composition_of(request)
    found = minutes_to(composition, body, start, place, asked, stirred)
    return {
        "minutes_to": {f"{temp:g}": minutes for temp, minutes in zip(asked, found, strict=True)},
        "set_c": predict(composition).set_c,
    }


def answer_judge(request: Request) -> Answer:
    """Whether a composition is what a kind asks for, and why not."""
    kind = shipped().kind(str(request.get("kind", "")))
    prediction = predict(composition_of(request), kind.overrun)
    verdict = judge(prediction, kind, CELSIUS)
    return {
        "fits": verdict.fits,
        "firmness": verdict.firmness,
        "hold_firmness": None if kind.hold_temp_c is None else prediction.firmness_at(kind.hold_temp_c),
        "window": [kind.firm_low, kind.firm_high],
        "reason": f"{verdict.headline}. {verdict.hold}",
    }


def answer_claims(request: Request) -> Answer:
    """The words of a text that a label may not say."""
    text = request.get("text")
    if not isinstance(text, str) or len(text) > MOST_LABEL_LETTERS:
        raise Problem(f"text should hold up to {MOST_LABEL_LETTERS} letters of a label.", "text")
    return {"marked": [{"words": claim.words, "kind": claim.kind} for claim in claims(text)]}


def answer_cautions(request: Request) -> Answer:
    """What to mind in a composition, by who wears it and where."""
    wearer = Wearer(
        choice_of(request, "audience", tuple(AUDIENCES), "adult"),
        choice_of(request, "area", tuple(AREAS), "body"),
        choice_of(request, "policy", tuple(Policy), Policy.CAUTIOUS),
    )
    composition = composition_of(request)
    return {
        "cautions": [
            {"level": c.level, "about": [item.key for item in c.about], "line": c.line, "text": c.text}
            for c in cautions(composition, wearer)
        ],
        "total_aromatics": float(scent_share(composition, wearer) * 100),
        "most": float(wearer.most * 100),
    }
