"""Words on a label that promise what a balm may not: to treat, prevent, protect from sun or keep insects off.

Claims are recognised by kind: ailments and hurts, microbes, pests and sun by their names; a word of treating beside any
of these or a part of the body; and phrases that label rules name. Local rules decide what may be sold and said. A word
is marked with why, and a neutral one is offered; whoever knows that their rules allow it says so.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache


class ClaimKind(StrEnum):
    """What a claim promises."""

    TREATS = "treats"
    PREVENTS = "prevents"
    SUN = "sun"
    PESTS = "pests"
    OTHER = "other"


# What is named only to be treated.
AILMENTS = r"""
eczema\w*|psoria\w+|dermatit\w+|acne|rosacea|spots? and pimples|pimples?|blemish\w*|blackheads?|breakouts?|
arthrit\w+|rheumat\w+|gout|sciatica|bursitis|tend[io]n[io]tis|fibromyalgia|neuropath\w+|carpal tunnel|shingles|
herpes|cold[- ]?sores?|chicken ?pox|athlete'?s foot|ringworm|thrush|candida|warts?|verruca\w*|ha?emorrhoids?|
piles(?! of)|varicose|spider veins|cellulite|boils and|abscess\w*|cysts?|impetigo|scabies|hives|urticaria|asthma\w*|
bronchi\w+|sinus\w*|coughs?|colds|colds? and flu|head cold|common cold|flu|influenza|congest\w+|hay ?fever|
allerg\w+|migraines?|(?:head|tooth|back|ear|stomach|belly|heart|muscle)?[- ]?aches?|achy|aching|insomnia\w*|anxiety|
depress\w+|adhd|cancer\w*|diabet\w+|ulcers?|bed ?sores?|sprains?|strained|strains|bruis(?:e|es|ed|ing)|frostbite|
burns|sunburn\w*|(?:razor|wind|kitchen|minor|diaper) ?burns?|burn (?:salve|relief|cream|balm|care)|scalds?|scars?|
scarring|stretch ?marks?|wrinkl\w+|fine lines|cradle cap|(?:nappy|diaper|heat|sweat|skin)[- ]?rash(?:es)?|
rash(?:es)?|chilblains?|corns|bunions?|ingrown|splinters?|cuts and|cuts|grazes?|scrapes?|blisters?|wounds?|
menstrual|period (?:pains?|cramps?)|pms|menopaus\w+|hot flushes|cramps?|spasms?|teething|colic|swelling|swollen|
o?edema|inflam\w+|infect\w+|fevers?|itch\w*|pains?|painful|sores?|soreness|numb\w*|nausea|sickness|vertigo|
poison ivy|nettle rash|dandruff|alopecia|hair loss|baldness|age spots|pigmentation|high blood pressure|toxins?|
snor\w+|restless legs|panic|stings|bee stings?|bites and stings|(?:insect|bug|midge|mosquito|tick|gnat|flea|spider|
horsefly)s?[- ]?bites?|bites
"""
TREATING = r"""
heal|heals|healed|healing|healer|cure|cures|cured|curative|treatments?|treating|remed(?:y|ies)|therap(?:y|ies|
eutic)|medicin(?:e|es|al)|medicated|medication|pharmac\w+|reliev\w+|relief|analges\w+|an(?:a)?esthetic|painkill\w+|
decongest\w+|antihistamin\w+|anti[- ]?spasm\w+|expectorant|styptic|vulnerary|detox\w*|regenerat\w+|rejuvenat\w+|
first[- ]aid|antidote|numbing|healthier? joints|immun\w+|circulation|metabolism|lymph\w*|hormon\w+|diuretic|
sedative|anti[- ]?(?:depress\w+|redness|pain|cramp|scar)|de[- ]?stress\w*|stress[- ](?:free|buster)|anti[- ]?stress
"""
# Beside these a milder word promises the same.
MILD = r"""
sooth(?:e|es|ed|ing)|calm(?:s|ed|ing)?|eas(?:e|es|ed|ing)|repair(?:s|ed|ing)?|restor(?:e|es|ed|ing)|mend(?:s|ed|
ing)?|fight(?:s|ing)?|combat(?:s|ing)?|banish(?:es)?|clear(?:s|ed|ing)?|fad(?:e|es|ing)|shrink(?:s|ing)?|reduc(?:e|
es|ing)|stop(?:s|ped|ping)?|draw(?:s|ing)?|treats?|help(?:s|ing)?|support(?:s|ing)?|strengthen\w*|boost(?:s|ing)?|
improv(?:e|es|ing)|open(?:s|ing)?|loosen(?:s|ing)?|warm(?:s|ing)? up|target(?:s|ing)?|correct(?:s|ing)?|reviv(?:e|
es|ing)|grow(?:s|ing)?|regrow(?:s|ing)?|thicken(?:s|ing)?|lift(?:s|ing)?|tighten(?:s|ing)?|plump(?:s|ing)?|
nourish(?:es|ing)?|good for|great for
"""
BODY = r"""
muscles?|muscular|joints?|nerves?|knees?|backs?|spine|throats?|chests?|lungs?|airways?|gums?|teeth|tendons?|
ligaments?|bones?|veins?|blood|liver|kidneys?|gut|stomach|tummy|bladder|womb|uterus|heart|brain|glands?|tissue|
skin cells|skin barrier|cells|collagen|breathing|sleep|digestion|nose|noses|ears?|headaches?|hair growth|lashes|
eyelashes|eyebrows|follicles?|complaints?|conditions?|disorders?|disease\w*|ailments?|illness\w*|problem skin|
damaged skin|broken skin|cracked skin|irritat\w+|redness|flare[- ]?ups?
"""
MICROBES = r"""
anti[- ]?(?:bacteria\w*|septic\w*|fung\w+|viral\w*|virus\w*|microb\w+|biotic\w*|parasit\w+|yeast)|disinfect\w*|
sterili[sz]\w+|saniti[sz]\w+|(?<!wheat )germs?(?! oil)|bacteri\w+|fung(?:us|al|i)\w*|vir(?:us|uc)\w*|microb\w+|
pathogens?|kills?|parasites?|mites|lice|nits|worms
"""
PESTS = r"""
repel\w*|mosquito\w*|mozzies?|midges?|gnats?|ticks|insects?|fleas?|flies off|(?:tick|bug|fly|moth)s?[- ](?:off|away|
proof|free|be gone|begone|stop|shield|guard|barrier|spray|balm|salve|stick)|(?:keeps?|wards?|deters?|drives?|
no more|anti)[- ](?:off |away )?(?:the )?(?:bugs?|flies|ticks?|moths?)|bugs? (?:stay|keep)s? (?:off|away)|bug off
"""
SUN = r"""
spf ?\d*|(?:sun )?(?:protection )?factor ?\d+|sun ?(?:screens?|blocks?|block|protect\w*|shield|guard|care|safe|
proof|cream|lotion|defen[cs]e|filter)|suns?[- ](?:shield|guard|care|safe|proof)|uv[ab]?|uv[- ]?[ab]?\b|ultraviolet|
after[- ]?sun|sun ?tan\w*|tanning|tan (?:faster|deeper|longer|accelerator|enhancer|booster)|self[- ]?tan\w*|
bronz(?:e|es) skin|broad[- ]spectrum|(?:protect|shield|guard|screen|block|defend|safe)\w*\b[^.;!?]{0,40}\b(?:sun|
sun's|sunlight|sunshine|rays)
"""
PREVENTS = r"""
prevent\w*|prophyla\w+|(?:protects?|protecting|protection|guards?|shields?|defends?)(?: \w+){0,3} (?:against|
from)(?: \w+){0,3}(?: )(?:infections?|germs?|bacteria|illness|disease|viruses|colds|flu|bites|insects|damage|ageing|
aging)|keeps? \w+ (?:healthy|infection[- ]free)
"""
OTHER = r"""
hypo[- ]?allergenic|non[- ]?allergenic|allergen[- ]free|anti[- ]?age?ing|age[- ]defying|ageless|botox\w*|nipples?|
nappy|diapers?|drawing (?:salves?|balms?|ointments?|creams?|sticks?)|draws out|vapou?r (?:rubs?|balms?)|
chest (?:rubs?|balms?)|clinical\w*|dermatolog\w+|doctor[- ]\w+|medical[- ]grade|hospital|scientifically|(?:lash|
hair|brow|beard) growth|slimming|fat[- ]burning|weight loss|sleep aid|better sleep|deeper sleep|
helps? (?:you )?(?:to )?sleep|breathe easy|non[- ]?comedogenic|(?:muscle|joint|nerve)s? (?:rubs?|balms?|salves?|
sticks?|ease)|safe for (?:babies|newborns|pregnancy)|non[- ]?toxic|chemical[- ]free|breast[- ]?feeding
"""
# Words that only look like a claim.
HARMLESS = re.compile(
    r"\b(?:cabin|spring|gold|disco|night|island) fever|pain (?:au|perdu)|salt[- ]cured|burns night|wheat ?germ|"
    r"a treat\b|heart[- ]?strings|open (?:sea|sky|air|water|fire)|clear (?:sky|skies|water|night|morning)|"
    r"calm (?:sea|water|tide|bay|morning|evening|harbou?r)\w*",
    re.IGNORECASE,
)
_WHY = {
    ClaimKind.TREATS: ("promises to treat", "for dry, rough skin"),
    ClaimKind.PREVENTS: ("promises to prevent", "keeps supple"),
    ClaimKind.SUN: ("promises protection from sun", "leave it out, as a sun filter has to be tested"),
    ClaimKind.PESTS: ("promises to keep insects off", "leave it out, as a repellent has to be registered"),
    ClaimKind.OTHER: ("promises more than a balm may", "leave it out"),
}


def _pattern(*words: str) -> str:
    return "|".join("".join(line for line in text.strip().split("\n")) for text in words)


def _whole(pattern: str) -> re.Pattern[str]:
    return re.compile(rf"(?<!\w)(?:{pattern})(?!\w)", re.IGNORECASE)


_NAMED = (
    (ClaimKind.SUN, _whole(_pattern(SUN))),
    (ClaimKind.PESTS, _whole(_pattern(PESTS))),
    (ClaimKind.PREVENTS, _whole(_pattern(PREVENTS))),
    (ClaimKind.TREATS, _whole(_pattern(TREATING, AILMENTS, MICROBES))),
    (ClaimKind.OTHER, _whole(_pattern(OTHER))),
)
_MILD, _BODY = _whole(_pattern(MILD)), _whole(_pattern(BODY))
_CLAUSE = re.compile(r"[^.;!?\n]+")


@dataclass(frozen=True)
class Claim:
    """Words that promise too much: the words, what kind of promise, why, and what could stand instead."""

    words: str
    kind: ClaimKind

    @property
    def sentence(self) -> str:
        """``“heals” promises to treat. Instead: for dry, rough skin.``."""
        why, instead = _WHY[self.kind]
        return f"“{self.words}” {why}. Instead: {instead}."


@lru_cache(maxsize=256)  # a studio looks at the same name and note at every key
def claims(text: str) -> tuple[Claim, ...]:
    """The claims in a text, in their order, each once.

    >>> [(claim.words, claim.kind.value) for claim in claims("Heals eczema, SPF 20; a treat for the nose")]
    [('Heals', 'treats'), ('eczema', 'treats'), ('SPF 20', 'sun')]
    """
    plain = HARMLESS.sub(lambda match: " " * len(match.group()), text.replace("’", "'"))
    found: dict[str, tuple[int, Claim]] = {}
    for start, claim in _found(plain):
        found.setdefault(claim.words.lower(), (start, claim))
    return tuple(claim for _, claim in sorted(found.values(), key=lambda each: each[0]))


def _found(text: str) -> Iterator[tuple[int, Claim]]:
    taken: list[tuple[int, int]] = []
    for kind, pattern in _NAMED:
        for match in pattern.finditer(text):
            if not any(start < match.end() and match.start() < end for start, end in taken):
                taken.append(match.span())
                yield match.start(), Claim(match.group().strip(), kind)
    for clause in _CLAUSE.finditer(text):
        mild, body = _MILD.search(clause.group()), _BODY.search(clause.group())
        if mild and body:
            first, last = min(mild.start(), body.start()), max(mild.end(), body.end())
            yield clause.start() + first, Claim(clause.group()[first:last], ClaimKind.TREATS)
