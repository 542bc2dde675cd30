"""What this maker's records teach, worked out once for each revision of them."""

from threading import Lock

from balmcore.tables import Tables
from balmcore.trials.experience import NO_EXPERIENCE, Experience
from learning.lessons import corrected_tables, forget_lessons
from learning.pace import bench_pace
from learning.rates import handling_rates, usual_leftover, usual_losses, usual_pieces
from workshop.models import Preferences

_Kept = tuple[int, Tables | None, Experience]
_NOTHING: _Kept = (0, None, NO_EXPERIENCE)
# The revision and the tables that this process worked it out for last; replaced as a whole, as many threads read it.
_kept = _NOTHING
_renewing = Lock()


def experience_of(tables: Tables, prefs: Preferences) -> Experience:
    """What the records teach by now. No query as long as nothing new was written down."""
    if not prefs.records_revision:
        return NO_EXPERIENCE
    return _known(tables.plain, prefs) or _renewed(tables.plain, prefs)


def _known(plain: Tables, prefs: Preferences) -> Experience | None:
    revision, tables, found = _kept
    return found if revision == prefs.records_revision and tables is plain else None


def _renewed(plain: Tables, prefs: Preferences) -> Experience:
    global _kept
    with _renewing:
        if found := _known(plain, prefs):  # another thread was first
            return found
        found = Experience(
            corrected_tables(plain, prefs),
            handling_rates(plain),
            usual_losses(),
            usual_leftover(),
            usual_pieces(),
            bench_pace(plain),
        )
        _kept = (prefs.records_revision, plain, found)
        return found


def forget() -> None:
    """Work everything out anew the next time: what a server does once, when it starts."""
    global _kept
    _kept = _NOTHING
    forget_lessons()
