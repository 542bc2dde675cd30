"""What was seen of a pour, in words: ``{{ check|seen }}``."""

from django import template

from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.grain import MELTING_METHODS
from pours.faults import SIGHTS, SMELLS
from pours.models import Check, WearTest

register = template.Library()
GRADES = (
    ("glide", "drags", "glides"),
    ("grease", "dry", "greasy"),
    ("shine", "matt", "shiny"),
    ("stick", "not sticky", "sticky"),
    ("grit", "smooth", "gritty"),
    ("scent", "faint scent", "strong scent"),
)


@register.filter
def cooling_name(key: str) -> str:
    """The name of a way of cooling, by its key."""
    return COOLING_METHODS[key].name if key in COOLING_METHODS else "in another way"


@register.filter
def melting_name(key: str) -> str:
    """The name of a way of melting, by its key."""
    return MELTING_METHODS[key].name if key in MELTING_METHODS else key


@register.filter
def check_text(check: Check) -> str:
    """What somebody looked for and what was there: ``No grain, some bloom; scent right``."""
    none = [name for name in SIGHTS if getattr(check, name) == Check.Sight.NONE]
    there = [f"{getattr(check, name)} {name}" for name in SIGHTS if getattr(check, name) in ("some", "much")]
    smells = [
        f"{'smell of age' if name == 'age' else name} {getattr(check, f'get_{name}_display')().lower()}"
        for name in SMELLS
        if getattr(check, name)
    ]
    parts = [*there, *([f"no {', '.join(none)}"] if none else []), *smells]
    told = "; ".join(parts)
    return told[:1].upper() + told[1:] + "." if told else ""


@register.filter
def felt(test: WearTest) -> str:
    """What a wearer said of it: ``Glides 4 of 5, greasy 2 of 5, 20 minutes to sink in``."""
    said = []
    for name, low, high in GRADES:
        grade = getattr(test, name)
        if grade is not None:
            said.append(f"{high if grade >= 3 else low} ({grade} of 5)")
    if test.sink_minutes is not None:
        said.append(f"{test.sink_minutes} minutes to sink in")
    if test.lip_colour:
        said.append(f"on lips {test.lip_colour}")
    told = ", ".join(said)
    return told[:1].upper() + told[1:] + "." if told else ""
