"""What beats the air into a chilled butter: schools too. Minutes, and what part of the usual air each of them gains,
are usual figures; a maker's own full cups correct them, each by itself."""

from dataclasses import dataclass

from balmcore.errors import Problem

STAND, HAND, STICK = "stand", "hand", "stick"


@dataclass(frozen=True)
class Whipper:
    """One of them: its name, minutes to soft peaks, the part of the usual air that it gains, and its word of advice."""

    key: str
    name: str
    minutes: float
    gains: float
    advice: str


WHIPPERS = {
    whipper.key: whipper
    for whipper in (
        Whipper(
            HAND,
            "Hand mixer",
            15.0,
            1.0,
            "Start slow, scrape down, ten to twenty minutes, until soft peaks stand",
        ),
        Whipper(
            STAND,
            "Stand mixer",
            12.0,
            1.1,
            "Whisk, start slow, scrape bowl and whisk down twice, about twelve minutes, until soft peaks stand",
        ),
        Whipper(
            STICK,
            "Stick blender",
            6.0,
            0.4,
            "In short runs, the blade held high so that it draws air, scraped down between, until it is pale and even: "
            "a blade creams more than it whips",
        ),
    )
}


def whipper_of(key: str) -> Whipper:
    """The one of that key. Raises :class:`Problem`."""
    if key not in WHIPPERS:
        raise Problem("Choose what whips it.", "whipper")
    return WHIPPERS[key]
