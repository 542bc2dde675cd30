"""What can go wrong with a pour, and whether it was seen."""

from collections.abc import Iterable

from pours.models import Check

SIGHTS = ("grain", "bloom", "sweating", "sinkholes", "specks")
SMELLS = ("colour", "scent", "age")
FAULTS = ("grain", "sinkholes", "bloom", "sweating")
SEEN = (Check.Sight.SOME, Check.Sight.MUCH)


def faults_seen(checks: Iterable[Check]) -> dict[str, bool]:
    """What was looked for in the checks of a pour, and whether it was there in any."""
    found: dict[str, bool] = {}
    for check in checks:
        for fault in FAULTS:
            if said := getattr(check, fault):
                found[fault] = found.get(fault, False) or said in SEEN
    return found
