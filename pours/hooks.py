"""What pages of pours show of the apps above: those register, see :mod:`workshop.hooks`."""

from pours.models import Pour
from workshop.hooks import Hook

# Where to go on from a pour: what to call it, and its address.
ways_of_pour: Hook[[Pour], tuple[str, str]] = Hook()
# How many pieces of a pour went somewhere: fewer than that cannot have been filled.
pieces_gone: Hook[[Pour], int] = Hook()
