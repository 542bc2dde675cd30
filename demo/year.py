"""What happened to pours since: checks, photographs, what wearers said, ladders. Read from the demo's data."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from balmcore.design.ladder import ladder
from balmcore.tables import shipped
from checks.services import Test, exclude_check, judge, record_check, record_wear
from demo.drawings import tin_photo
from formulas.models import Version
from learning import ladders
from pieces.accounts import hand_out
from pours.models import Check, FollowUp, Pour

SIGHTS = ("grain", "bloom", "sweating", "sinkholes", "specks", "colour", "scent", "age", "notes")


def look(pour: Pour, entry: dict[str, Any], now: date) -> None:
    """A check so many days after the pour, answering the day that was due by then."""
    day = pour.poured_on + timedelta(days=entry["days"])
    if day > now:
        return
    fields = {name: entry[name] for name in SIGHTS if name in entry} | {"checked_on": day}
    files = []
    if photo := entry.get("photo"):
        name = f"{photo}-{pour.pk}.jpg"
        files.append(SimpleUploadedFile(name, tin_photo(photo, pour.pk), "image/jpeg"))
    due = FollowUp.objects.filter(pour=pour, answer=None, due_on__lte=day).last()
    check = record_check(pour, shipped(), fields, test_of(entry), files, due)
    if why := entry.get("untaught"):
        exclude_check(check, Check.Exclusion.UNTAUGHT, why, check.revision)


def test_of(entry: dict[str, Any]) -> Test:
    """The firmness test of a check, none where there was none."""
    if press := entry.get("press"):
        grams = press["grams"] if isinstance(press["grams"], list) else [press["grams"]]
        return Test("press", press["rod_mm"], tuple(float(each) for each in grams), test_c=float(press["at_c"]))
    if thumb := entry.get("thumb"):
        return Test("thumb", thumb=thumb["word"], test_c=float(thumb["at_c"]))
    return Test("")


def wear(pour: Pour, entry: dict[str, Any]) -> None:
    """What a wearer said so many days after the pour."""
    fields = {name: value for name, value in entry.items() if name != "days"}
    day = pour.poured_on + timedelta(days=entry["days"])
    record_wear(pour, {"reaction": "none", **fields, "worn_on": day})


def ladder_test(version: Version, entry: dict[str, Any]) -> None:
    """A ladder of a version with the cups as they were pressed."""
    step, cup = Decimal("0.1"), Decimal(entry["cup_g"])
    low, high = (Decimal(str(percent)) / 100 for percent in entry["between"])
    made = ladder(version.to_composition(shipped()), entry["of"], (low, high), len(entry["grams"]), cup, step)
    test = ladders.begin_ladder(version, made, cup)
    rows = [
        ladders.CupRow(rung, "", "", "", "", "", (float(grams),), entry["rod_mm"], float(entry["at_c"]))
        for rung, grams in zip(made.rungs, entry["grams"], strict=True)
    ]
    ladders.record_cups(test, made, rows, float(step))


def since(pour: Pour, entry: dict[str, Any], now: date) -> None:
    """Everything that happened to a pour after it was poured."""
    if "press" in entry or "thumb" in entry:
        look(pour, {"days": 1, **{name: entry[name] for name in ("press", "thumb") if name in entry}}, now)
    for each in entry.get("check", ()):
        look(pour, each, now)
    for each in entry.get("wear", ()):
        wear(pour, each)
    for each in entry.get("went", ()):
        day = min(now, pour.poured_on + timedelta(days=each["days"]))
        hand_out(pour, each["how"], each["count"], each.get("to", ""), each.get("contact", ""), day)
    if verdict := entry.get("verdict"):
        judge(pour, verdict)
