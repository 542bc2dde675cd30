"""One thing to know of a composition: how grave it is, the line that decides, and the reasons behind it."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from balmcore.composition import percent_text
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence


class Level(StrEnum):
    """How grave a caution is: over a limit or unfit, to think about, to print. The gravest first."""

    STOP = "stop"
    CARE = "care"
    NOTE = "note"


Remedy = tuple[tuple[Ingredient, Decimal], ...]


@dataclass(frozen=True)
class Caution:
    """One thing to know: its level, the ``line`` that decides, the ``text`` with the reasons, and the
    ingredients it is about (none for the whole). ``remedy`` are shares that end it, where arithmetic can.
    ``is_open`` is a question to the maker, which no label prints; ``is_fact`` tells what it is and warns of
    nothing."""

    level: Level
    line: str
    text: str
    about: tuple[Ingredient, ...] = ()
    remedy: Remedy = ()
    is_open: bool = False
    is_fact: bool = False

    @property
    def offer(self) -> str:
        """What the remedy does, for a button; empty when arithmetic cannot help."""
        if not self.remedy:
            return ""
        if len(self.remedy) > 1:
            total = sum((share for _, share in self.remedy), Decimal(0))
            return f"Bring them down to {percent_text(total)} % together" if total else "Take them out"
        item, share = self.remedy[0]
        name = in_sentence(item.name)
        return f"Bring {name} to {percent_text(share)} %" if share else f"Take {name} out"


def by_gravity(found: Iterable[Caution]) -> list[Caution]:
    """The gravest first; those of one level stay in their order."""
    levels = list(Level)
    return sorted(found, key=lambda caution: levels.index(caution.level))
