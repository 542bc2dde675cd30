"""What is kept of pours: how they were poured, what was seen of them since, and on skin."""

from pours.models.check import Check, CheckPhoto, FollowUp
from pours.models.ladder import LadderCup, LadderTest
from pours.models.look import Look
from pours.models.pour import COOLED_IN, Pour, PouredPiece, PourQuerySet, cooled_by
from pours.models.wear import WearTest

__all__ = [
    "COOLED_IN",
    "Check",
    "CheckPhoto",
    "FollowUp",
    "LadderCup",
    "LadderTest",
    "Look",
    "Pour",
    "PourQuerySet",
    "PouredPiece",
    "WearTest",
    "cooled_by",
]
