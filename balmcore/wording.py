"""How things are said in a sentence: names, lists of names, and how long something takes."""

import math
from collections.abc import Iterable, Mapping, Sequence

from balmcore.display import figure

PROPER = {"St", "Java", "Roman", "German", "Atlas", "Virginia", "Texas", "Himalayan", "Peru"}


def in_sentence(name: str) -> str:
    """A name in the middle of a sentence, where proper names and codes keep their capitals.

    >>> in_sentence("Vitamin E"), in_sentence("St John's wort oil"), in_sentence("RW 2190")
    ('vitamin E', "St John's wort oil", 'RW 2190')
    """
    first = name.partition(" ")[0]
    return name if first in PROPER or not (first[1:].islower() or len(first) < 2) else name[:1].lower() + name[1:]


def with_article(name: str) -> str:
    """A name with its article: ``a salve``, ``an oil``."""
    return f"{'an' if name[:1].lower() in 'aeio' else 'a'} {name}"


def listed(names: Sequence[str]) -> str:
    """Names in a sentence: ``vitamin E and lavender``."""
    small = [in_sentence(name) for name in names]
    return small[0] if len(small) == 1 else ", ".join(small[:-1]) + " and " + small[-1]


def called(title: str, names: Mapping[str, Iterable[str]]) -> str:
    """Which of some things a title begins like, by the words that people call them; empty for none."""
    low = title.lower().strip()
    return next((key for key, words in names.items() if low.startswith(tuple(words))), "")


def minutes_text(minutes: float) -> str:
    """Minutes as people say them.

    >>> minutes_text(0.01), minutes_text(0.6), minutes_text(16.2), minutes_text(150)
    ('1 second', '36 seconds', '16 minutes', '2.5 hours')
    """
    if minutes < 1.5:
        return counted(f"{max(minutes * 60, 1):.0f}", "second")
    if minutes < 100:
        return counted(f"{minutes:.0f}", "minute")
    return f"{figure(minutes / 60, 1)} hours"


def counted(number: int | str, noun: str) -> str:
    """A number with its noun.

    >>> counted(1, "minute"), counted("1.5", "minute")
    ('1 minute', '1.5 minutes')
    """
    return f"{number} {noun}{'' if str(number) == '1' else 's'}"


def minutes_and_hours(minutes: float) -> str:
    """Whole minutes, rounded up, for a plan.

    >>> minutes_and_hours(49.2), minutes_and_hours(125)
    ('50 minutes', '2 h 05')
    """
    whole = math.ceil(minutes - 1e-9)
    return counted(whole, "minute") if whole < 90 else f"{whole // 60} h {whole % 60:02d}"


def as_sentence(text: str) -> str:
    """A text with a capital at its beginning, and every other letter as it was: codes keep theirs.

    >>> as_sentence("lot 3 (RW 2190) is recalled.")
    'Lot 3 (RW 2190) is recalled.'
    """
    return text[:1].upper() + text[1:]
