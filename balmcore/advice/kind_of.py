"""Which kind of product a composition would be: by its firmness and what it has to hold, and by what it is called."""

import re
from dataclasses import dataclass

from balmcore.advice.verdict import judge
from balmcore.composition import Composition
from balmcore.display import CELSIUS
from balmcore.physics.firmness import predict
from balmcore.tables import Kind, Tables
from balmcore.wording import in_sentence, with_article

_NO_HOLD = 8.0  # points: what too soft in heat counts beside too soft in the tin


@dataclass(frozen=True)
class Proposal:
    """The kind that suits, and why in a sentence."""

    kind: Kind
    why: str


def kind_of(composition: Composition, tables: Tables, text: str = "") -> Proposal:
    """The kind whose window a composition is in, the one that a text names before others; the nearest where it is in
    none. Raises :class:`Problem` for a composition of nothing."""
    composition.require_mass()
    spoken = set(re.findall(r"[a-z]+", text.lower()))
    kinds = list(tables.kinds.values())
    misses = {kind.key: _miss(composition, kind) for kind in kinds}
    named = [kind for kind in kinds if _is_named(kind, spoken)]
    # A jar that is whipped is only proposed where it is called so: nothing else says that it will be.
    usual = [kind for kind in kinds if not kind.overrun or kind in named]
    best = min(usual, key=lambda kind: (misses[kind.key] > 0, kind not in named, misses[kind.key]))
    firmness = round(max(0.0, predict(composition, best.overrun).firmness_at(21)))
    fits = f"At a firmness of {firmness} it would be {with_article(in_sentence(best.name))}"
    if misses[best.key] > 0:
        fits = f"At a firmness of {firmness} it is none of the kinds; {in_sentence(best.name)} is the nearest"
    called = next((kind for kind in named if kind is not best), None)
    if called and misses[called.key] > 0 and best not in named:
        why = judge(predict(composition, called.overrun), called, CELSIUS).headline
        return Proposal(best, f"{fits}. It is called {with_article(in_sentence(called.name))}: {in_sentence(why)}.")
    return Proposal(best, f"{fits}.")


def _is_named(kind: Kind, spoken: set[str]) -> bool:
    """Whether most of a kind's name is spoken: ``lip balm`` for a pot lip balm."""
    words = re.findall(r"[a-z]+", kind.name.lower())
    return sum(word in spoken for word in words) > 0.6 * len(words)


def _miss(composition: Composition, kind: Kind) -> float:
    """Points from the window of a kind, and more where it does not hold."""
    verdict = judge(predict(composition, kind.overrun), kind, CELSIUS)
    shown = round(verdict.firmness)
    outside = max(kind.firm_low - shown, shown - kind.firm_high, 0.0)
    return outside + (0.0 if verdict.fits or outside else _NO_HOLD)
