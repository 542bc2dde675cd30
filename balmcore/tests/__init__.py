"""Tests of the core on its own: plain unittest, no web."""

import re
import unittest
from typing import Any

from balmcore.errors import Problem


class CoreTestCase(unittest.TestCase):
    """A test case that knows refusals."""

    def assert_refused(self, said: str) -> Any:
        """A context in which the core refuses with a sentence that holds ``said``."""
        return self.assertRaisesRegex(Problem, re.escape(said))
