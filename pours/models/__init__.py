"""What is kept of pours: how they were poured, what was seen of them since, and on skin."""

from pours.models.check import Check, CheckPhoto, FollowUp
from pours.models.pour import COOLED_IN, Pour, PouredPiece, PourQuerySet, cooled_by, last_tested
from pours.models.saved_filter import SavedFilter
from pours.models.wear import WearTest

__all__ = [
    "COOLED_IN",
    "Check",
    "CheckPhoto",
    "FollowUp",
    "Pour",
    "PourQuerySet",
    "PouredPiece",
    "SavedFilter",
    "WearTest",
    "cooled_by",
    "last_tested",
]
