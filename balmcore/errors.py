"""The one way the core refuses: a sentence for the person, a place for the program."""


class Problem(ValueError):
    """Something typed or stored that cannot be used.

    ``sentence`` says in plain words what to do; ``where`` names the field, such as
    ``percent.olive_oil``, and is empty when the whole is meant.
    """

    def __init__(self, sentence: str, where: str = "") -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.where = where


class TableProblem(Problem):
    """A row of a reference table that cannot be used; names the file and the line."""

    def __init__(self, file: str, line: int, sentence: str) -> None:
        super().__init__(f"{file}, line {line}: {sentence}", f"{file}:{line}")
        self.file = file
        self.line = line
