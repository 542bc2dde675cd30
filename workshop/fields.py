"""Model fields: amounts that have to add up exactly, and measures between two bounds."""

import math
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.migrations import RunPython

from balmcore.units import MICROGRAM


class MassField(models.DecimalField):
    """Grams, or pieces, stored as whole millionths and spoken as :class:`~decimal.Decimal`.

    SQLite keeps a decimal as a float and adds in floats: three times 0.1 g did not empty a lot of
    0.3 g. Whole numbers add up, in Python and in SQL alike.
    """

    description = "Grams or pieces to a millionth"

    def __init__(self, *arguments: Any, **options: Any) -> None:
        options |= {"max_digits": 13, "decimal_places": 6}
        super().__init__(*arguments, **options)

    def deconstruct(self) -> Any:
        """Its digits are its own, and no option."""
        name, path, arguments, options = super().deconstruct()
        return name, path, arguments, {k: v for k, v in options.items() if k not in ("max_digits", "decimal_places")}

    def get_internal_type(self) -> str:
        """A whole number to the database."""
        return "BigIntegerField"

    def from_db_value(self, value: int | None, expression: object, connection: object) -> Decimal | None:
        """What is stored, as grams."""
        return None if value is None else Decimal(value) * MICROGRAM

    def to_python(self, value: Any) -> Any:
        """A value given in grams, rounded to a millionth."""
        if value is None:
            return None
        try:
            return Decimal(value).quantize(MICROGRAM, ROUND_HALF_UP)
        except (ArithmeticError, TypeError, ValueError):
            raise ValidationError(f"“{value}” is no amount.") from None

    def get_prep_value(self, value: Any) -> Any:
        """Whole millionths of a value given in grams; an expression goes through as it is."""
        if value is None or hasattr(value, "resolve_expression"):
            return value
        return int(self.to_python(value) / MICROGRAM)

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """The same, once."""
        return value if prepared else self.get_prep_value(value)

    def get_db_prep_save(self, value: Any, connection: Any) -> Any:
        """The same."""
        return self.get_prep_value(value)

    def formfield(self, **options: Any) -> Any:
        """Amounts are read by :func:`workshop.forms.mass_field` alone."""
        raise NotImplementedError("Read an amount with workshop.forms.mass_field.")


class MeasureField(models.FloatField):
    """A temperature, a length or a firmness between two bounds, beyond which it is nothing a workshop knows.

    Forms have closer bounds of their own; these are for what comes in past them.
    """

    def __init__(self, *arguments: Any, low: float = -1e9, high: float = 1e9, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.low, self.high = low, high

    @property
    def validators(self) -> Any:
        """Its own bounds, beside what it was given; nothing that is no number lies between them."""
        return [*super().validators, MinValueValidator(self.low), MaxValueValidator(self.high), _a_number]

    def deconstruct(self) -> Any:
        """To the tables it is a float; its bounds are its own, and no option."""
        name, _, arguments, options = super().deconstruct()
        return name, "django.db.models.FloatField", arguments, options


def _a_number(value: float) -> None:
    if not math.isfinite(value):
        raise ValidationError(f"“{value}” is no number that can be.")


def mass_migration(columns: dict[str, tuple[str, ...]]) -> RunPython:
    """The step of a migration that turns decimal grams of some columns, by table, into whole
    millionths before their fields are altered; floats of old sums become what they stood for."""

    def times(factor: str) -> Any:
        def convert(apps: object, schema_editor: Any) -> None:
            for table, names in columns.items():
                sets = ", ".join(f'"{name}" = {factor.format(name)}' for name in names)
                schema_editor.execute(f'UPDATE "{table}" SET {sets}')

        return convert

    return RunPython(times('CAST(ROUND("{0}" * 1000000) AS INTEGER)'), times('"{0}" / 1000000.0'))
