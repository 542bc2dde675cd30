"""What something put into a pot brings that has to be minded."""

from balmcore.advice.caution import Caution
from balmcore.advice.safety import Wearer, cautions
from balmcore.composition import Composition


def brought(before: Composition, after: Composition, wearer: Wearer) -> tuple[Caution, ...]:
    """What is to be minded of a composition and was not before something went into it: limits, allergens, vegan no
    more."""
    known = cautions(before, wearer)
    lines = {caution.line for caution in known}
    subjects = {(caution.level, caution.about) for caution in known}
    return tuple(
        caution
        for caution in cautions(after, wearer)
        if caution.line not in lines and (caution.level, caution.about) not in subjects and caution.about
    )
