"""What is doubted of a line, what can be answered, and what was answered.

An answer is kept under a key. ``name:shea`` is one for the whole recipe, and may be remembered for the
next; ``amount@1 cup of it`` is one for the line that says so.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

SURE, LIKELY, DOUBTED, UNSURE, LOST = 0.99, 0.7, 0.45, 0.4, 0.1  # how sure a line is: calibrated in docs/model.md
SURE_FROM, LIKELY_FROM = 0.9, 0.6

Answers = Mapping[str, str]


def is_for_always(key: str) -> bool:
    """Whether the answer under a key holds for every recipe, and may be remembered."""
    return ":" in key and "@" not in key


def line_of(key: str) -> str:
    """The line that the answer under a key is about, empty where it is about no single one."""
    return key.partition("@")[2]


class Doubted(StrEnum):
    """What a doubt is about."""

    AMOUNT = "amount"
    NAME = "name"
    FORM = "form"
    ALTERNATIVE = "alternative"
    UNIT = "unit"
    HARM = "harm"
    WATER = "water"
    LEFT_OUT = "left out"


@dataclass(frozen=True)
class Choice:
    """One way to answer: its value, and how it is called."""

    value: str
    label: str


@dataclass(frozen=True)
class Doubt:
    """A question about a line. ``choices`` are its answers, ``taken`` the value of the one that stands until it is
    answered, ``key`` what an answer is kept under, ``own_key`` what a weight of the maker's own is kept under where one
    would settle it."""

    kind: Doubted
    asks: str
    choices: tuple[Choice, ...] = ()
    taken: str = ""
    key: str = ""
    own_key: str = ""

    @property
    def is_of_all(self) -> bool:
        """Whether the answer holds for every line that says so, and is remembered."""
        return ":" in self.key.split("@")[0]

    def __str__(self) -> str:
        return self.asks


@dataclass(frozen=True)
class Settled:
    """A question that has its answer: what was asked, by which key, and how it was answered."""

    key: str
    said: str
    is_remembered: bool = False


@dataclass
class Answering:
    """The answers to a recipe: what was told of this one, and what its maker means always."""

    told: Answers
    always: Answers
    asked: set[str] = field(default_factory=set)

    def of(self, key: str) -> str:
        """The answer under a key, empty for none."""
        return self.told.get(key, "") or self.always.get(key, "")

    def is_remembered(self, key: str) -> bool:
        """Whether the answer is one of before."""
        return not self.told.get(key) and bool(self.always.get(key))


@dataclass
class Asking:
    """The questions about one line while it is read, and how sure it is by them."""

    line: str
    answering: Answering
    sure: float = SURE
    doubts: list[Doubt] = field(default_factory=list)
    settled: list[Settled] = field(default_factory=list)
    told: list[str] = field(default_factory=list)

    def key(self, name: str) -> str:
        """The key of an answer about this line alone."""
        return f"{name}@{self.line}"

    def answer(self, name: str) -> str:
        """What was answered about this line alone, empty for nothing."""
        return self.answering.of(self.key(name))

    def doubt(
        self,
        kind: Doubted,
        asks: str,
        sure: float,
        choices: tuple[Choice, ...] = (),
        taken: str = "",
        key: str = "",
        own_key: str = "",
    ) -> None:
        """Ask something, once, and be no surer than ``sure``. What holds for the recipe is asked at its first line;
        what has no answers of its own can be called right as it stands."""
        if any(doubt.asks == asks for doubt in self.doubts):
            return
        if not key:
            key, choices, taken = self.key("right"), (Choice("yes", "It is right as it stands"),), "yes"
            if self.answer("right"):
                self.settle(key, "it is right as it stands")
                return
        self.sure = min(self.sure, sure)
        made = Doubt(kind, asks, choices, taken, key, own_key)
        if made.is_of_all:
            if key in self.answering.asked:
                self.told.append("Asked above, for all such lines.")
                return
            self.answering.asked.add(key)
        self.doubts.append(made)

    def choose(
        self,
        kind: Doubted,
        key: str,
        asks: str,
        sure: float,
        choices: tuple[Choice, ...],
        taken: str,
        own_key: str = "",
    ) -> str:
        """The choice that was answered, or the one taken, which is asked."""
        labels = {choice.value: choice.label for choice in choices}
        told = self.answering.of(key)
        if told in labels:
            self.settle(key, labels[told])
            return told
        self.doubt(kind, asks, sure, choices, taken, key, own_key)
        return taken

    def settle(self, key: str, said: str) -> None:
        """Say that a question has its answer."""
        if all(one.key != key for one in self.settled):
            self.settled.append(Settled(key, said, self.answering.is_remembered(key)))
