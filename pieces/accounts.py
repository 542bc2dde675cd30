"""Where the pieces of a pour went: made, kept back, given, sold, spoiled, left; and who has them."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from django.core.paginator import Page, Paginator
from django.db import transaction
from django.db.models import Count, F, OuterRef, Q, QuerySet, Subquery, Sum
from django.db.models.functions import Coalesce

from balmcore.display import day_words
from balmcore.errors import Problem
from balmcore.tables import Tables
from balmcore.wording import in_sentence
from batches.models import BatchContainer
from pantry.models import Lot
from pieces.models import Handout, Person
from pours.models import Pour
from pours.models.pour import PourQuerySet
from pours.tracing import trace
from workshop.words import all_in

MOST_NAME, MOST_CONTACT, PER_PAGE = 80, 200, 50


@dataclass(frozen=True)
class Pieces:
    """The account of a pour's pieces. ``by_how`` counts those that went, ``left`` are still here."""

    pour: Pour
    made: int
    by_how: Mapping[str, int]
    handouts: tuple[Handout, ...]

    @property
    def left(self) -> int:
        """How many are still here."""
        return self.made - sum(self.by_how.values())

    @property
    def wants_sample(self) -> bool:
        """True where none was kept back, and one could be."""
        return self.left > 0 and not self.by_how.get(Handout.How.KEPT)


def pieces(pour: Pour) -> Pieces:
    """The account of one pour. One query."""
    return _account(pour, pour.handouts.select_related("person", "market"))


def _account(pour: Pour, handouts: Iterable[Handout]) -> Pieces:
    rows = tuple(handouts)
    counts: Counter[str] = Counter()
    for row in rows:
        counts[row.how] += row.count
    return Pieces(pour, pour.pieces_made, counts, rows)


def sizes_left(pour: Pour, handouts: Iterable[Handout]) -> tuple[dict[str, int], int]:
    """How many pieces of each size are left of a pour, by the name of the container, and how many of those went of
    which nobody said what size they were."""
    left: dict[str, int] = {}
    for row in pour.containers:
        left[row.name] = left.get(row.name, 0) + row.made
    unsaid = 0
    for handout in handouts:
        size = handout.size or (next(iter(left)) if len(left) == 1 else "")
        if size in left:
            left[size] -= handout.count
        else:
            unsaid += handout.count
    return left, unsaid


@transaction.atomic
def hand_out(
    pour: Pour, how: str, count: int, to: str, contact: str, on: date, note: str = "", size: str = ""
) -> Handout:
    """Write down where pieces went, of one ``size`` where that is said. Who has them is a person by that name, made
    where there is none yet. Raises :class:`Problem` for more than are left, a day before the pour, and pieces given to
    nobody."""
    if how not in Handout.How.values:
        raise Problem("Say whether they were kept back, given, sold or spoiled.", "how")
    gone = Handout.objects.filter(pour=pour).aggregate(gone=Sum("count"))["gone"] or 0
    left = pour.pieces_made - gone
    if not 1 <= count <= left:
        told = "None is left" if left <= 0 else f"Only {left} {'is' if left == 1 else 'are'} left"
        raise Problem(f"{told} of {pour.pieces_made}.", "count")
    if size:
        rest, _ = sizes_left(pour, pour.handouts.all())
        if count > rest.get(size, 0):
            raise Problem(f"Only {max(rest.get(size, 0), 0)} are left of {in_sentence(size)}.", "count")
    if on < pour.poured_on:
        raise Problem(f"It was poured on {day_words(pour.poured_on)}: choose that day or a later one.", "on")
    person = None
    if how in (Handout.How.GIVEN, Handout.How.SOLD):
        person = _person(to, contact)
    return Handout.objects.create(pour=pour, how=how, count=count, person=person, on=on, note=note[:200], size=size)


def _person(name: str, contact: str) -> Person | None:
    """The person of that name; None where pieces were sold or given without one being said."""
    name = " ".join(name.split())
    if not name:
        return None
    if len(name) > MOST_NAME or len(contact) > MOST_CONTACT:
        raise Problem(f"A name has up to {MOST_NAME} letters, a word how to reach them {MOST_CONTACT}.", "to")
    person, is_new = Person.objects.get_or_create(name=name, defaults={"contact": contact.strip()})
    if not is_new and contact.strip() and person.contact != contact.strip():
        person.contact = contact.strip()
        person.save(update_fields=("contact",))
    return person


@transaction.atomic
def forget(person: Person) -> int:
    """Take a person out: what they had stays counted, without their name. Returns how many pieces that were."""
    held = person.handouts.aggregate(count=Sum("count"))["count"] or 0
    person.handouts.update(person=None, is_forgotten=True)
    person.delete()
    return int(held)


def people(page: str, words: str = "") -> Page:
    """People whose name or contact holds every word, with how many pieces they have, by name. Three queries, however
    many there are."""
    found = Person.objects.filter(all_in(words, "name", "contact")).annotate(
        held=Sum("handouts__count"), pours=Count("handouts__pour", distinct=True)
    )
    return Paginator(found.order_by("name"), PER_PAGE).get_page(page)


@dataclass(frozen=True)
class RecallLine:
    """One pour of a recall: how it got in, its account, and who has pieces of it."""

    pieces: Pieces
    through: str

    @property
    def here(self) -> int:
        """How many are still here, samples too."""
        return self.pieces.left + self.pieces.by_how.get(Handout.How.KEPT, 0)


@dataclass(frozen=True)
class Recall:
    """Everything that has to come back: what it is about, its pours, and who is to be told, by person."""

    about: str
    why: str
    lines: tuple[RecallLine, ...]
    open_batches: tuple[str, ...]

    @property
    def made(self) -> int:
        """Pieces made in all."""
        return sum(line.pieces.made for line in self.lines)

    @property
    def here(self) -> int:
        """Pieces still here, samples too."""
        return sum(line.here for line in self.lines)

    @property
    def by_person(self) -> list[tuple[str, str, int, str]]:
        """Name, how to reach them, how many, and of what; those without a name last."""
        held: dict[tuple[str, str], list[Handout]] = {}
        for handout in self._out():
            person = handout.person
            who = (person.name, person.contact) if person else ("", handout.to_whom or "not written down who")
            held.setdefault(who, []).append(handout)
        rows = [
            (name, contact, sum(each.count for each in own), ", ".join(sorted({_of(each) for each in own})))
            for (name, contact), own in held.items()
        ]
        return sorted(rows, key=lambda row: (not row[0], row[0]))

    def _out(self) -> Iterable[Handout]:
        out = (Handout.How.GIVEN, Handout.How.SOLD)
        return (handout for line in self.lines for handout in line.pieces.handouts if handout.how in out)


def _of(handout: Handout) -> str:
    return f"{handout.pour.name}, batch {handout.pour.batch_id}"


def recall_of_lot(lot: Lot, name: str, tables: Tables) -> Recall:
    """What was made from a lot, through rests and preparations, and who has it."""
    traced = trace(lot, tables)
    through = {made.card.pour.pk: made.through for made in traced.made}
    why = lot.get_state_display() if lot.state != Lot.State.GOOD else ""
    waiting = tuple(str(batch) for batch in traced.open)
    return Recall(f"{name}, {lot}", why, _lines(list(through), through), waiting)


def recall_of_batch(batch_pk: int, about: str) -> Recall:
    """The pours of one batch, and who has them."""
    pours = list(Pour.objects.filter(batch=batch_pk).values_list("pk", flat=True))
    return Recall(about, "", _lines(pours, {}), ())


def _lines(pks: Sequence[int], through: Mapping[int, str]) -> tuple[RecallLine, ...]:
    pours = Pour.objects.filter(pk__in=pks).for_list().order_by("poured_on", "pk")
    out: dict[int, list[Handout]] = {}
    for row in _with_all(Handout.objects.filter(pour__in=pks)):
        out.setdefault(row.pour_id, []).append(row)
    return tuple(RecallLine(_account(pour, out.get(pour.pk, ())), through.get(pour.pk, "")) for pour in pours)


def _with_all(rows: QuerySet[Handout]) -> QuerySet[Handout]:
    return rows.select_related("person", "pour__finish", "pour__batch__version__formula")


@dataclass(frozen=True)
class Remaining:
    """A pour and how many of its pieces are made and left."""

    pour: Pour
    made: int
    left: int


def remaining(pours: Sequence[Pour]) -> list[Remaining]:
    """What is left of some pours, in their order. One query."""
    gone = _gone(Handout.objects.filter(pour__in=pours))
    return [Remaining(pour, count, count - gone.get(pour.pk, 0)) for pour in pours for count in (pour.pieces_made,)]


def _gone(handouts: QuerySet[Handout]) -> dict[int, int]:
    """How many pieces some lines took, by pour."""
    return dict(handouts.values_list("pour").annotate(count=Sum("count")))


def ledger(page: str, words: str = "") -> tuple[Page, list[Remaining]]:
    """A page of all pours whose name, finish or batch holds every word, the newest first, and what is left of each.
    Four queries, however many there are."""
    narrowed = Pour.objects.filter(all_in(words, "batch__version__formula__name", "finish__name", "batch__pk"))
    pours = narrowed.select_related("batch__version__formula", "finish").prefetch_related("batch__containers")
    found = Paginator(pours.order_by("-poured_on", "-pk"), PER_PAGE).get_page(page)
    return found, remaining(list(found))


def with_left() -> PourQuerySet:
    """The pours of which pieces are left, told by the database: made of the containers that are its own, less what
    went."""
    rows = BatchContainer.objects.filter(batch=OuterRef("batch"))
    rows = rows.filter(Q(finish=OuterRef("finish")) | Q(finish=None) & Q(batch__finishes=None))
    made = rows.order_by().values("batch").annotate(n=Sum(Coalesce("filled", "count"))).values("n")
    gone = Handout.objects.filter(pour=OuterRef("pk")).order_by().values("pour").annotate(n=Sum("count")).values("n")
    found: PourQuerySet = Pour.objects.annotate(
        made=Coalesce(Subquery(made), 0), gone=Coalesce(Subquery(gone), 0)
    ).filter(made__gt=F("gone"))
    return found


def ending(until: date, since: date) -> list[tuple[Pour, int]]:
    """Pours whose best before lies between two days and of which pieces are left, with how many; the soonest first."""
    pours = list(Pour.objects.filter(best_before__range=(since, until)).for_list().order_by("best_before")[:24])
    gone = _gone(Handout.objects.filter(pour__in=pours).exclude(how=Handout.How.KEPT))
    return [(pour, left) for pour in pours if (left := pour.pieces_made - gone.get(pour.pk, 0)) > 0]
