"""A batch: one version scaled to containers, its grams per line, and what was really weighed."""

from datetime import datetime, timedelta
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import F, Prefetch, Q
from django.urls import reverse

from balmcore.composition import Composition
from balmcore.making.scaling import Filling, in_pot, with_added
from balmcore.making.schedule import Use
from balmcore.making.whippers import HAND, WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS, DEFAULT
from balmcore.physics.grain import HELD, MELTING_METHODS
from balmcore.physics.ways_of_heating import BATH, HEATING_METHODS
from balmcore.tables import Container, Kind, Tables
from batches.models.parts import BatchContainer, BatchFinish
from batches.models.uses import is_use, uses_of
from batches.models.weighed import BatchLine, Draw
from formulas.models import Version
from pantry.models import Lot
from workshop.fields import MassField, MeasureField

DEFAULT_PITCHER = "jug_pouring_500"  # the usual pitcher
LADDER_CUP = "ladder-cup"  # a test cup, which no stock holds
LONGEST_MIN = 100_000


class BatchQuerySet(models.QuerySet["Batch"]):
    """Batches as pages ask for them."""

    def unpoured(self) -> "BatchQuerySet":
        """What is planned or being weighed."""
        return self.filter(state__in=(Batch.State.PLANNED, Batch.State.WEIGHING))

    def called_off(self) -> "BatchQuerySet":
        """What was begun and called off."""
        return self.filter(state=Batch.State.OFF)

    def poured(self) -> "BatchQuerySet":
        """What was poured."""
        return self.filter(state=Batch.State.POURED)

    def on_clock(self) -> "BatchQuerySet":
        """What is still to come and has a time."""
        return self.unpoured().filter(starts_at__isnull=False)

    def by_time(self) -> "BatchQuerySet":
        """Those with a time first, the next one on top, then the newest."""
        return self.order_by(F("starts_at").asc(nulls_last=True), "-pk")

    def for_list(self) -> "BatchQuerySet":
        """With what a line in a list needs."""
        return self.select_related("version__formula").prefetch_related(
            "containers__around", "finishes", "lines", "version__lines"
        )

    def for_page(self) -> "BatchQuerySet":
        """With everything a page needs, in a fixed number of queries."""
        return self.select_related("version__formula").prefetch_related(
            "version__lines",
            "containers__around",
            "finishes",
            "lines",
            Prefetch("lines__draws", Draw.objects.select_related("lot")),
        )


class Batch(models.Model):
    """A planned melt.

    ``starts_at`` is empty until it has a place on the clock; ``length_min`` and ``occupies``, the
    things it keeps busy in minutes from its start, are kept as they were worked out then, and so is whether an earlier
    batch of its day has the bench ``is_made_ready`` for it.
    ``override_reason`` is what its maker said to a limit that it is over, ``known_unfit`` what of lots in it that
    are not good they said that they know. ``drop_shift`` are the points that a drop of its pot was firmer than the
    model, 0 until one was felt. ``driven_off_g`` is by how much its pot was lighter once its water had left, None
    where it was not weighed. ``off_why`` is what became of one that was begun and called off.
    """

    class State(models.TextChoices):
        PLANNED = "planned", "Planned"
        WEIGHING = "weighing", "Weighing"
        POURED = "poured", "Poured"
        OFF = "off", "Called off"

    class When(models.TextChoices):
        OPEN = "", "No time yet"
        START = "start", "Start at"
        READY = "ready", "Ready by"

    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="batches")
    state = models.CharField(max_length=8, choices=State, default=State.PLANNED, db_index=True)
    resolution_g = MassField()
    loss_g = MassField(default=Decimal(0))
    pour_c = MeasureField(low=-40, high=200)
    overrun = MeasureField(low=0, high=4, default=0)
    pitcher_key = models.CharField(max_length=60, default=DEFAULT_PITCHER)
    room_c = MeasureField(low=-40, high=90, default=20)
    cooling = models.CharField(
        max_length=20, default=DEFAULT, choices=[(method.key, method.name) for method in COOLING_METHODS.values()]
    )
    melting = models.CharField(
        max_length=6, default=HELD, choices=[(method.key, method.name) for method in MELTING_METHODS.values()]
    )
    heating = models.CharField(
        max_length=10, default=BATH, choices=[(method.key, method.name) for method in HEATING_METHODS.values()]
    )
    whipper = models.CharField(
        max_length=5, default=HAND, choices=[(whipper.key, whipper.name) for whipper in WHIPPERS.values()]
    )
    override_reason = models.CharField(max_length=300, blank=True)
    known_unfit = models.CharField(max_length=400, blank=True, default="")
    driven_off_g = MassField(null=True, blank=True)
    off_why = models.CharField(max_length=120, blank=True, default="")
    drop_shift = MeasureField(low=-150, high=150, default=0)
    starts_at = models.DateTimeField(null=True, blank=True, db_index=True)
    length_min = MeasureField(low=0, high=LONGEST_MIN, default=0)
    occupies = models.JSONField(default=list, blank=True)
    is_made_ready = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    objects = BatchQuerySet.as_manager()

    class Meta:
        ordering = ("-pk",)
        verbose_name_plural = "batches"
        constraints = [
            models.CheckConstraint(condition=Q(resolution_g__gt=0), name="batch_scale_step_above_nothing"),
            models.CheckConstraint(condition=Q(loss_g__gte=0), name="loss_not_negative"),
            models.CheckConstraint(condition=Q(overrun__gte=0), name="overrun_not_negative"),
        ]

    def __str__(self) -> str:
        return f"Batch {self.pk} of {self.version}"

    def clean(self) -> None:
        """What it occupies are names with a beginning and an end in minutes."""
        if not isinstance(self.occupies, list) or not all(map(is_use, self.occupies)):
            raise ValidationError({"occupies": "should be a list of names, each with its minutes from and to."})

    def get_absolute_url(self) -> str:
        """Its sheet."""
        return reverse("batches:sheet", args=[self.pk])

    @property
    def is_poured(self) -> bool:
        """True once its pour was recorded."""
        return self.state == self.State.POURED

    @property
    def is_over(self) -> bool:
        """True once it was poured, or called off after it was begun: its record stays as it is."""
        return self.state in (self.State.POURED, self.State.OFF)

    @property
    def fillings(self) -> list[Filling]:
        """The containers as the core knows them."""
        return [row.filling for row in self.containers.all()]

    @property
    def containers_by_key(self) -> dict[str, Container]:
        """Its containers by key, as they were when it was planned."""
        return {row.container_key: row.vessel for row in self.containers.all()}

    @property
    def around(self) -> dict[str, tuple[str, ...]]:
        """What goes around each piece, by the key of its container."""
        return {row.container_key: row.around_keys for row in self.containers.all() if row.around_keys}

    @property
    def ready_at(self) -> datetime | None:
        """When the last label is on, None without a time."""
        return self.starts_at and self.starts_at + timedelta(minutes=self.length_min)

    @property
    def uses(self) -> list[Use]:
        """What it occupies, counted from its start."""
        return uses_of(self.occupies)

    def to_kind(self, tables: Tables) -> Kind:
        """The kind it is made as."""
        return self.version.formula.to_kind(tables)

    def line_of(self, slot: str) -> BatchLine | None:
        """The line in that slot, None where there is none."""
        return next((line for line in self.lines.all() if line.slot == slot), None)

    def containers_of(self, finish: BatchFinish | None) -> list[BatchContainer]:
        """What one finish is filled into; of a batch without finishes, everything."""
        number = finish.pk if finish else None
        return [row for row in self.containers.all() if row.finish_id == number]

    @property
    def pieces_text(self) -> str:
        """Its pieces in words: those that were filled, or are to be, by finish where there are several."""
        rows = [row for row in self.containers.all() if row.made]
        if not any(row.finish_id for row in rows):
            return ", ".join(map(str, rows))
        told = {finish.name: [row for row in rows if row.finish_id == finish.pk] for finish in self.finishes.all()}
        return "; ".join(f"{name}: {', '.join(map(str, own))}" for name, own in told.items() if own)

    @property
    def base_lines(self) -> list[BatchLine]:
        """What goes into the pot; what is added to one finish alone stands at that finish."""
        return [line for line in self.lines.all() if line.finish_id is None]

    def to_planned(self, tables: Tables) -> Composition:
        """The composition of the pot's targets, water and spirit driven off."""
        return Composition.of(
            {line.ingredient_key: line.target_g for line in self.base_lines}, tables
        ).without_volatiles

    def weighed_in(self, tables: Tables) -> Composition:
        """What goes into the pot: weighed where it was weighed, else the target."""
        return in_pot(
            (tables.ingredient(line.ingredient_key), line.actual_g, line.target_g) for line in self.base_lines
        )

    def to_fill_g(self, tables: Tables) -> Decimal:
        """Grams of the melt that there are to fill: what was weighed in less what boiled away, by the pot weighed again
        or else by the table."""
        whole = self.weighed_in(tables)
        return whole.without_volatiles.total if self.driven_off_g is None else whole.total - self.driven_off_g

    def to_composition(self, tables: Tables, finish: BatchFinish | None = None) -> Composition:
        """What is in the pot when it is poured: of what was weighed in, what did not boil away; or what
        one finish of it holds, with what was added to that."""
        base = self.weighed_in(tables).without_volatiles
        if finish is None:
            return base
        own = [line for line in self.lines.all() if line.finish_id == finish.pk]
        return with_added(base, finish.mass_g, ((tables.ingredient(line.ingredient_key), line.mass_g) for line in own))

    def compositions(self, tables: Tables) -> dict[str, Composition]:
        """What is in its pieces, by finish; one without a name where it has no finishes."""
        finishes = self.finishes.all()
        return {finish.name: self.to_composition(tables, finish) for finish in finishes} or {
            "": self.to_composition(tables)
        }

    @property
    def has_draws(self) -> bool:
        """True when it was read with :meth:`BatchQuerySet.for_page`, and its draws need not be read again."""
        lines = vars(self).get("_prefetched_objects_cache", {}).get("lines")
        return lines is not None and all("draws" in vars(line).get("_prefetched_objects_cache", {}) for line in lines)

    @property
    def lots_in_it(self) -> set[Lot]:
        """The lots that gave to it, and did not get all of it back."""
        given: dict[Lot, Decimal] = {}
        for line in (line for line in self.lines.all() if line.pk):
            for draw in line.draws.all():
                given[draw.lot] = given.get(draw.lot, Decimal(0)) + draw.grams
        return {lot for lot, grams in given.items() if grams > 0}

    @property
    def is_weighed(self) -> bool:
        """True when every line of the pot has its actual weight."""
        return all(line.actual_g is not None for line in self.base_lines)
