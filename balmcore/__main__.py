"""The core from a shell: ``python -m balmcore COMMAND`` turns one JSON object into another."""

import sys

from balmcore.cli import main

sys.exit(main(sys.argv[1:], sys.stdin, sys.stdout))
