"""Words on a label that promise what a balm may not: healing, treating, preventing, killing germs, guarding from sun.

Local rules decide what may be sold and said. A word is marked with why, and a neutral one is offered; whoever knows
that their rules allow it says so.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

CLAIMS: tuple[tuple[str, str, str], ...] = (
    (r"heal(s|ing|ed|er)?", "promises to heal", "for dry, chapped skin"),
    (r"cure(s|d)?|curative", "promises to cure", "cares for the skin"),
    (r"treat(s|ing|ment|ments)?", "promises to treat", "cares for"),
    (r"remed(y|ies)|therap(y|eutic|ies)|medicin(e|al)|medicated", "speaks of medicine", "balm"),
    (r"relie(f|ve|ves|ved|ving)|detox\w*", "promises what a body does, not a balm", "leaves skin soft"),
    (r"anti[- ]?age?ing|wrinkle[- ]?(reducing|free)", "promises to turn back age", "leaves skin supple"),
    (r"(repel|repels|repellent|repelling)|(insect|midge|mosquito|tick|bug)s?[- ](proof|away|free)",
     "promises to keep insects off", "leave it out: a repellent has to be registered"),
    (r"prevent(s|ing|ion)?", "promises to prevent", "keeps supple"),
    (r"eczema|psoriasis|dermatitis|acne|arthritis|rheumatism|infection(s)?|wound(s)?|(sun)?burn(s|t|ed)?|"
     r"(nappy|diaper)[- ]rash|rash(es)?|scars?|scarring|cold[- ]?sores?|bruise[sd]?|chilblains?",
     "names an illness or a hurt", "dry, rough or tired skin"),
    (r"pain(s|ful)?|inflammation|anti[- ]?inflammatory", "speaks of pain or inflammation", "warms and comforts"),
    (r"anti[- ]?(bacterial|septic|fungal|viral|microbial)|disinfect\w*|steril\w*|germ(s)?|bacteria|"
     r"fung(us|al|i)|kills", "promises to kill germs",
     "leave it out"),
    (r"spf ?\d*|sun ?(screen|block|protection)|uv[- ]?(a|b)?[- ]?(protection|filter|block)|after[- ]?sun|"
     r"(protect|shield|guard|screen|block|defend)\w*\b[^.;!?]{0,40}\b(sun|sun's|sunlight|sunshine|uv|uva|uvb|rays)|"
     r"(sun|uv)[- ](shield|guard|care|safe|proof)", "promises protection from sun",
     "leave it out: a sun filter has to be tested"),
)  # fmt: skip
_KNOWN = tuple((re.compile(rf"\b(?:{pattern})\b", re.IGNORECASE), why, instead) for pattern, why, instead in CLAIMS)


@dataclass(frozen=True)
class Claim:
    """A word that promises too much: the word, why, and what could stand instead."""

    word: str
    why: str
    instead: str

    @property
    def sentence(self) -> str:
        """``“heals” promises to heal: say “for dry, chapped skin” instead``."""
        return f"“{self.word}” {self.why}. Instead: {self.instead}."


@lru_cache(maxsize=256)  # a studio looks at the same name and note at every key
def claims(text: str) -> tuple[Claim, ...]:
    """The claims in a text, in their order, each word once.

    >>> [claim.word for claim in claims("Heals eczema, SPF 20; a treat for the nose")]
    ['Heals', 'eczema', 'SPF 20', 'treat']
    """
    found = [(match.start(), Claim(match.group(), why, instead)) for pattern, why, instead in _KNOWN
             for match in pattern.finditer(text)]  # fmt: skip
    by_word: dict[str, Claim] = {}
    for _, claim in sorted(found, key=lambda each: each[0]):
        by_word.setdefault(claim.word.lower(), claim)
    return tuple(by_word.values())
