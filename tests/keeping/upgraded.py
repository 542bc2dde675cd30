"""What a workshop of an earlier Calm Tin is after the update, told as JSON; run by :mod:`tests.keeping.test_upgrades` with
``CALM_TIN_DATA`` set to its folder."""

import io
import json
import sys

import django

django.setup()

from django.apps import apps  # noqa: E402
from django.conf import settings  # noqa: E402
from django.core.management import call_command  # noqa: E402
from django.db import connection  # noqa: E402
from django.test import Client  # noqa: E402

from exchange.package import write_export  # noqa: E402
from exchange.startup import bring_up_to_date  # noqa: E402
from pours.models import Pour  # noqa: E402
from tests.support.pages import walk  # noqa: E402

ROWS = ("formulas.formula", "formulas.version", "batches.batch", "pours.pour", "pantry.lot", "pantry.entry")


def main() -> None:
    """Bring it up to date, open its pages, export it."""
    copy = bring_up_to_date(settings.DATA_DIR)
    call_command("collectstatic", interactive=False, verbosity=0)
    connection.check_constraints()
    pages = walk(Client(headers={"host": "127.0.0.1"}), a_view=1)  # five workshops show five of each view
    told = {
        "copied": copy is not None,
        "rows": [apps.get_model(label)._base_manager.count() for label in ROWS],
        "pages": len(pages),
        "tested": [round(pour.tested.measured or 0) for pour in Pour.objects.order_by("pk") if pour.tested],
        "exported": sum(write_export(io.BytesIO()).values()),
    }
    json.dump(told, sys.stdout)


if __name__ == "__main__":
    main()
