"""What many tests begin with: a formula, a batch of it, weights written down."""

import tempfile
from pathlib import Path
from unittest import TestCase

from django.db import transaction
from django.test import override_settings

from balmcore.composition import Composition
from balmcore.tables import Tables, shipped
from batches.models import Batch
from bench.weights.recording import record_weights, run_of
from formulas.models import Formula
from formulas.services import begin_formula, begin_from


def begin(name: str, kind: str, composition: Composition | None = None, tables: Tables | None = None) -> Formula:
    """A formula of a kind: from its starting point, or with a composition of its own."""
    known = tables or shipped()
    if composition is None:
        return begin_from(name, kind, known)
    return begin_formula(name, known.kind(kind), composition, "A test.")


@transaction.atomic
def weigh_to_target(batch: Batch) -> Batch:
    """Every line weighed just as it was planned."""
    found = Batch.objects.for_page().get(pk=batch.pk)
    actual = {line.slot: line.target_g for line in found.lines.all()}
    record_weights(found, actual, run_of(found).revision)
    return found


def own_folder(test: TestCase) -> Path:
    """A data folder of this test's own, as tests run side by side."""
    folder = tempfile.TemporaryDirectory()
    test.addCleanup(folder.cleanup)
    changed = override_settings(DATA_DIR=Path(folder.name))
    changed.enable()
    test.addCleanup(changed.disable)
    return Path(folder.name)
