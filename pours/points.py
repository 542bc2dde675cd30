"""What pages of pours show of the apps above: those register, see :mod:`workshop.points`."""

from pours.models import Pour
from workshop.points import Point

# Where to go on from a pour: what to call it, and its address.
ways_of_pour: Point[[Pour], tuple[str, str]] = Point()
