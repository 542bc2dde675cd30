"""The examples in the docstrings, run as they stand."""

import doctest
import importlib
import pkgutil

import balmcore
from balmcore.tests import CoreTestCase


class ExampleTests(CoreTestCase):
    def test_every_example_says_what_the_code_says(self) -> None:
        """The front door's balm and the examples of the modules; none may go missing."""
        tried = 0
        for module in [
            balmcore.__name__,
            *(found.name for found in pkgutil.walk_packages(balmcore.__path__, "balmcore.")),
        ]:
            if ".tests" not in module and not module.endswith("__main__"):
                ended = doctest.testmod(importlib.import_module(module))
                self.assertEqual(ended.failed, 0, module)
                tried += ended.attempted
        self.assertGreaterEqual(tried, 20)
