"""Settings for the tests: a throw-away data folder and styles straight from the source."""

import atexit
import gc
import os
import shutil
import tempfile

os.environ["CALM_TIN_DATA"] = tempfile.mkdtemp(prefix="calm-tin-test-")
atexit.register(shutil.rmtree, os.environ["CALM_TIN_DATA"], ignore_errors=True)
# A run of tests makes much that stays: looking through it for circles took 6 s of 99, and 3 s as rarely as this.
gc.set_threshold(50_000, 20, 100)
# Playwright's own loop runs in the test's thread; the database is used from there too.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"

from calmtin.settings import *

STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}

# Every write reaches the file itself at once: copies of it, one for each process, are whole; no test needs a disk.
DATABASE_OPTIONS["init_command"] += " PRAGMA wal_autocheckpoint=1; PRAGMA synchronous=OFF;"
# A file, so that the server's threads and the test each have their own connection.
DATABASES["default"]["TEST"] = {"NAME": os.path.join(os.environ["CALM_TIN_DATA"], "test.sqlite3")}
LOGGING["loggers"] = {name: {"level": "CRITICAL"} for name in ("django.request", "django.security", "axes")}
STATIC_ROOT.mkdir()
# What only tests put into pages is served as the pages' own scripts are: the browser keeps it.
STATICFILES_DIRS = [BASE_DIR / "tests" / "support" / "vendor"]

# How long a draw takes is the machine's matter, and no test's; the same examples each time.
from hypothesis import HealthCheck, settings

settings.register_profile("calm", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("calm")
