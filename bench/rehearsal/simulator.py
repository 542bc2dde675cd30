"""What a rehearsal does with the stand-in: its pan follows what is put on, its pot the steps."""

from decimal import Decimal

from django.conf import settings

from bench.state import Bench
from instruments import simulator
from instruments.models import SIMULATOR, Instrument

SPEEDS = (1, 5, 20, 60)
# Where the pot stands at a step of the method; elsewhere it stays where it is.
PLACES = {
    "melt": "bath",
    "clear": "bath",
    "test": "bath",
    "powders": "counter",
    "cool_first": "counter",
    "delicate": "counter",
    "cool": "counter",
    "cool_to_pour": "counter",
    "add": "counter",
    "pour": "counter",
    "chill": "refrigerator",
}
# Parts of what is wanted that a hand pours at once, by the word on the button.
HANDS = {"all": Decimal(1), "half": Decimal("0.5"), "little": Decimal("0.1"), "over": Decimal("1.2")}


def begin(speed: int) -> bool:
    """An empty pan and a clock of that speed; False when no stand-in runs."""
    return simulator.order(settings.DATA_DIR, load=0, speed=speed, unplug={"scale": 0, "thermometer": 0}, tare=True)


def act(bench: Bench, hand: str) -> bool:
    """A hand at the pan: pours a part of what is still wanted; False when no stand-in runs."""
    wanted = bench.here.left_g or bench.here.step.target_g or Decimal(0)
    return simulator.order(settings.DATA_DIR, put=float(wanted * HANDS.get(hand, Decimal(0))))


def follow(bench: Bench) -> None:
    """After a step: the pan tared, and the pot as full and where the next step wants it."""
    orders: dict[str, object] = {"tare": True}
    place = PLACES.get(bench.here.step.base_key)
    pot = bench.batch.weighed_in(bench.tables)
    if place and bench.pot_g > 0:
        shares = {line.key: float(line.share) for line in pot.expanded.lines if line.share}
        orders["pot"] = {
            "shares": shares,
            "grams": float(bench.pot_g),
            "room_c": bench.batch.room_c,
            "warm": not bench.here.step.key.startswith("melt"),
        }
        orders["move"] = place
    simulator.order(settings.DATA_DIR, **orders)


def reads_others() -> bool:
    """True when an instrument that is set is a real one, so that a rehearsal is not shown by it."""
    return Instrument.objects.exclude(address=SIMULATOR).exists()
