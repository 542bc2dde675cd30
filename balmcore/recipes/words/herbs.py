"""The herbs that a name says: what steeps in the jar is mostly written on it."""

from functools import cache

from balmcore.recipes.words.names import clean
from balmcore.tables.herbs import herb_name, herbs

# Other names of the same plants, common and botanical.
_ALSO = {
    "arnica_oil": ("leopards bane",),
    "comfrey_oil": ("symphytum", "knitbone"),
    "st_johns_wort_oil": ("hypericum", "st john wort", "saint johns wort", "saint john wort"),
    "calendula_oil": ("marigold",),
    "plantain_oil": ("plantago", "ribwort"),
    "alkanet_oil": ("alkanna", "ratanjot"),
    "annatto_oil": ("bixa", "achiote"),
    "turmeric_oil": ("curcuma",),
}


def herbs_named(text: str) -> tuple[str, ...]:
    """The keys of all herbs whose names stand in a text: ``Comfrey and marigold``."""
    words = f" {clean(text)} "
    return tuple(key for key, names in _names().items() if any(f" {name} " in words for name in names))


@cache
def _names() -> dict[str, tuple[str, ...]]:
    return {key: (clean(herb_name(key)), *_ALSO.get(key, ())) for key in herbs()}
