"""Ways of narrowing the log that are kept by a name."""

from django.db import models


class SavedFilter(models.Model):
    """A name for what a list was narrowed by; ``query`` is that of its address."""

    name = models.CharField(max_length=60, unique=True)
    query = models.CharField(max_length=600, blank=True)

    class Meta:
        db_table = "pours_look"
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
