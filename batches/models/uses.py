"""What a batch occupies while it is made, as it is kept."""

from typing import Any

from balmcore.making.schedule import Use

LONGEST_MIN = 100_000


def uses_of(occupies: Any) -> list[Use]:
    """What a batch occupies as it is kept; what of it cannot be is left out, and ``doctor`` says so."""
    rows = [each for each in occupies if is_use(each)] if isinstance(occupies, list) else []
    return [Use(what, start, end, alone=bool(alone)) for what, start, end, *alone in rows]


def to_row(use: Use) -> list[Any]:
    """A use as it is kept: its name, the minutes from and to, and that nothing else may be there."""
    return [use.what, round(use.start, 2), round(use.end, 2), *([True] if use.alone else [])]


def is_use(value: Any) -> bool:
    """Whether that is a use as it is kept."""
    return (
        isinstance(value, list)
        and len(value) in (3, 4)
        and isinstance(value[0], str)
        and all(type(minute) in (int, float) and abs(minute) < LONGEST_MIN for minute in value[1:3])
        and value[3:] in ([], [True])
    )
