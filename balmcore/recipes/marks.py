"""What became of the words of a text: used, asked about, kept as a note, or left out."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from balmcore.recipes.lines import ReadLine
from balmcore.recipes.words.source import Source
from balmcore.recipes.words.tokens import ASIDE

if TYPE_CHECKING:
    from balmcore.recipes.grammar.sentences import Sentence

USED, ASKED, NOTED, LEFT = "used", "asked", "note", "left"
_PARTING = " \t.,:;|-–—()"
_SAYS_SOMETHING = frozenset({"FILLER", "FORM", "BOUND", "WEIGHT", "VOLUME", "BASED", "EXTRA"})


@dataclass(frozen=True)
class Mark:
    """A stretch of the text, from where to where, what became of it, and the number of the line it was used for."""

    start: int
    end: int
    what: str
    line: int | None = None


def marks_of(source: Source, sentences: "Sequence[Sentence]", lines: Sequence[ReadLine]) -> tuple[Mark, ...]:
    """The marks of a text in order; words beside one another with one fate are one mark."""
    made: list[Mark] = []
    for sentence in sentences:
        for token in sentence.tokens:
            if token.end > token.start:
                start = sentence.start + token.start
                line = next((line for line in lines if line.span[0] <= start < line.span[1]), None)
                what = _fate(token.kind, line)
                number = line.number if line and what in (USED, ASKED) else None
                made = _with(made, Mark(*source.span(start, sentence.start + token.end), what, number), source.text)
    return tuple(made)


def _with(made: list[Mark], mark: Mark, text: str) -> list[Mark]:
    """With one more mark, drawn together with the last where only marks and spaces part them."""
    last = made[-1] if made else None
    if last is None:
        return [mark]
    between = text[last.end : mark.start]
    if (last.what, last.line) == (mark.what, mark.line) and "\n" not in between and not between.strip(_PARTING):
        made[-1] = Mark(last.start, max(mark.end, last.end), mark.what, mark.line)
    elif mark.start >= last.end:
        made.append(mark)
    return made


def _fate(kind: str, line: ReadLine | None) -> str:
    if kind == "NOTE":
        return NOTED
    if line is None or kind in ASIDE - _SAYS_SOMETHING or kind == "HEADING":
        return LEFT
    return ASKED if line.doubts and not line.is_out else LEFT if line.is_out else USED
