"""Commands of the core: JSON in, JSON out, no database. See docs/model.md for the fields."""

import argparse
import json
from collections.abc import Callable
from typing import NoReturn, TextIO

from balmcore.cli.evidence import answer_press, answer_rates, answer_suspects
from balmcore.cli.formulas import (
    answer_cautions,
    answer_claims,
    answer_cool,
    answer_judge,
    answer_predict,
    answer_read,
    answer_scale,
    answer_swap,
    answer_target,
)
from balmcore.cli.making import (
    answer_calibrate,
    answer_day,
    answer_declare,
    answer_method,
    answer_portions,
    answer_rescue,
    answer_weight,
)
from balmcore.cli.request import Answer, Request
from balmcore.errors import Problem


class _Parser(argparse.ArgumentParser):
    """Refuses as every command does: by a problem."""

    def error(self, message: str) -> NoReturn:
        raise Problem(f"Name one command: {', '.join(COMMANDS)}.", "command")


def parser() -> argparse.ArgumentParser:
    """The commands with what each is for; their fields are told in docs/model.md."""
    made = _Parser(prog="python -m balmcore", description=__doc__)
    commands = made.add_subparsers(dest="command", required=True, metavar="COMMAND", parser_class=_Parser)
    for name, command in COMMANDS.items():
        commands.add_parser(name, help=command.__doc__, description=command.__doc__)
    return made


def main(arguments: list[str], source: TextIO, target: TextIO) -> int:
    """Run one command. Returns 0, or 2 when the input cannot be used."""
    try:
        command = COMMANDS[parser().parse_args(arguments).command]
        answer, code = command(_request(source.read())), 0
    except Problem as problem:
        answer, code = {"problem": problem.sentence, "where": problem.where}, 2
    json.dump(answer, target, ensure_ascii=False, allow_nan=False)
    target.write("\n")
    return code


def _request(text: str) -> Request:
    try:
        request = json.loads(text)
    except (ValueError, RecursionError):
        raise Problem("Standard input should hold one JSON object.", "input") from None
    if not isinstance(request, dict):
        raise Problem("Standard input should hold one JSON object.", "input")
    return request


COMMANDS: dict[str, Callable[[Request], Answer]] = {
    "predict": answer_predict,
    "scale": answer_scale,
    "target": answer_target,
    "swap": answer_swap,
    "read": answer_read,
    "cool": answer_cool,
    "judge": answer_judge,
    "cautions": answer_cautions,
    "claims": answer_claims,
    "weight": answer_weight,
    "rescue": answer_rescue,
    "calibrate": answer_calibrate,
    "portions": answer_portions,
    "method": answer_method,
    "day": answer_day,
    "declare": answer_declare,
    "rates": answer_rates,
    "suspects": answer_suspects,
    "press": answer_press,
}
