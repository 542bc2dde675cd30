"""Which tables are handed over: what balms are, and nothing of who gets in.

No users, sessions, devices, sharing, instruments' addresses, sent forms, content types or permissions: an import writes
these tables alone, and what leaves holds these alone.
"""

from functools import cache

from django.apps import apps
from django.db import models

APPS = ("workshop", "pantry", "formulas", "batches", "bench", "pours", "learning", "labels", "pieces")
# Those first that others point at.
TABLES = (
    "workshop.preferences",
    "workshop.ownkind",
    "pantry.owncontainer",
    "pantry.goeswith",
    "pantry.owningredient",
    "pantry.leftover",
    "pantry.leftoverline",
    "pantry.lot",
    "pantry.entry",
    "pantry.order",
    "pantry.preparation",
    "formulas.formula",
    "formulas.version",
    "formulas.line",
    "formulas.recipe",
    "formulas.question",
    "formulas.meaning",
    "batches.batch",
    "batches.batchfinish",
    "batches.batchcontainer",
    "batches.batcharound",
    "batches.batchline",
    "batches.draw",
    "batches.rest",
    "bench.benchrun",
    "bench.event",
    "pours.pour",
    "pours.pouredpiece",
    "pours.check",
    "pours.checkphoto",
    "pours.followup",
    "learning.laddertest",
    "learning.laddercup",
    "learning.supplyanswer",
    "pours.savedfilter",
    "pours.weartest",
    "labels.maker",
    "labels.labeltext",
    "labels.sheet",
    "pieces.person",
    "pieces.price",
    "pieces.market",
    "pieces.handout",
)


@cache
def owned_models() -> list[type[models.Model]]:
    """The models whose rows are the maker's, in the order of :data:`TABLES`."""
    return [apps.get_model(label) for label in TABLES]
