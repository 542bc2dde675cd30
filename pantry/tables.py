"""The core's tables with what this workshop added to them: its own ingredients, its rests, and
its kinds."""

from functools import lru_cache

from django.db import connection
from django.db.models import FloatField, TextField, Value
from django.db.models.functions import Cast, Concat, JSONArray

from balmcore.display import Display, spoken
from balmcore.tables import Tables, shipped
from pantry.models import PAPERS, Leftover, LeftoverLine, OwnIngredient
from workshop.models import OwnKind

Rows = tuple[tuple[object, ...], ...]


def workshop_tables() -> Tables:
    """The tables as they stand now. One query as long as nothing in them changed."""
    with connection.cursor() as cursor:
        cursor.execute(*_everything())
        return _tables(tuple(cursor.fetchall()), spoken())


@lru_cache(maxsize=1)
def _everything() -> tuple[str, tuple[str | int | float | None, ...]]:
    """The query for all that a workshop added, put into SQL once: that took longer than to run it."""
    described = JSONArray("like_key", "scent", "herb_keys", *PAPERS)
    own = OwnIngredient.objects.order_by().values_list(
        "pk", "name", "role", described, "melt_low_c", "melt_high_c", "note"
    )
    share, nothing = Cast("share", FloatField()), Value(None, FloatField())
    rests = LeftoverLine.objects.order_by().values_list(
        "leftover_id",
        "leftover__name",
        Value(""),
        "ingredient_key",
        share,
        nothing,
        Cast("leftover__made_on", TextField()),
    )
    parts = (Cast("hold_firmness", TextField()), Value(";"), Cast("hold_temp_c", TextField()))
    hold = Concat(*parts, output_field=TextField())
    kinds = OwnKind.objects.order_by().values_list(
        "pk", "name", Value("kind"), "like_key", "firm_low", "firm_high", hold
    )
    sql, parameters = own.union(rests, kinds, all=True).query.sql_with_params()
    return sql, tuple(parameters)


@lru_cache(maxsize=4)
def _tables(rows: Rows, show: Display) -> Tables:
    """The tables with these rows; built once as long as the rows stay the same, and the way in which a maker writes
    the day on which a rest was melted."""
    if not rows:
        return shipped()
    plain = shipped().and_own(row.to_ingredient() for row in OwnIngredient.objects.all())
    plain = plain.and_kinds(row.to_kind() for row in OwnKind.objects.all())
    leftovers = Leftover.objects.prefetch_related("lines")
    return plain.and_own([row.to_ingredient(plain) for row in leftovers])
