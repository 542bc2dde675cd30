"""What pages of batches show of the apps above: those register, see :mod:`workshop.points`."""

from batches.models import Batch
from workshop.points import Point

# Where to go on from a batch that is weighed or poured: the address of its pour.
pour_address: Point[[Batch], str] = Point()
