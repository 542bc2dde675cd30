"""Everything a maker owns in one ZIP: documented JSON, CSV of every table, photographs; and reading it into an empty
workshop or beside what is there. docs/export.md says what stands in it."""

from exchange.package.reading import Brought, is_empty, read_export
from exchange.package.tables import APPS
from exchange.package.writing import write_export

__all__ = ["APPS", "Brought", "is_empty", "read_export", "write_export"]
