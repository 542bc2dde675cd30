"""Settings of Calm Tin: a workshop on one computer, served to that computer only.

Everything the maker owns lies in the data folder (``CALM_TIN_DATA``, by default the user's own
data folder of the system): the database and the secret key. The code folder is never written to.
"""

import os
from datetime import timedelta
from pathlib import Path
from typing import Any

import platformdirs
import tzlocal
from csp.constants import NONE, SELF
from django.utils.functional import lazy

from exchange.data_folder import secret_key

BASE_DIR = Path(__file__).resolve().parent.parent
DATA_DIR = Path(os.environ.get("CALM_TIN_DATA") or platformdirs.user_data_dir("calm-tin"))
# Read, or made, when something is first signed; nothing is written while settings are read.
SECRET_KEY = lazy(lambda: secret_key(DATA_DIR), str)()
DEBUG = False
# While a phone may come in, the door adds the address that it shows, see :mod:`devices.lan_server`.
ALLOWED_HOSTS = ["127.0.0.1", "localhost"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "axes",
    "csp",
    "calmtin",
    "exchange",
    "workshop",
    "devices",
    "instruments",
    "pantry",
    "formulas",
    "batches",
    "bench",
    "pours",
    "checks",
    "learning",
    "labels",
    "pieces",
    "demo",
    "django.forms",  # last: some of its templates are ours
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "exchange.gate.GateMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "calmtin.refusals.FragmentMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "devices.middleware.DeviceMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "workshop.requests.middleware.PreferencesMiddleware",
    "pantry.middleware.TablesMiddleware",
    "learning.middleware.ExperienceMiddleware",
    "calmtin.refusals.RefusalMiddleware",
    "workshop.requests.once.OnceMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "calmtin.urls"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "OPTIONS": {
            "loaders": [("django.template.loaders.cached.Loader", ["workshop.requests.template_loader.FoldingLoader"])],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "workshop.requests.context.preferences",
            ],
            "builtins": [
                "workshop.templatetags.measures",
                "workshop.templatetags.parts",
                "workshop.templatetags.pictures",
            ],
        },
    }
]
FORM_RENDERER = "workshop.forms.Renderer"

DATABASE_OPTIONS: dict[str, Any] = {
    "timeout": 20,
    # A writer takes its place when it begins, so two tabs queue instead of colliding.
    "transaction_mode": "IMMEDIATE",
    "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
}
DATABASES = {
    "default": {
        "ENGINE": "calmtin.database",
        "NAME": DATA_DIR / "workshop.sqlite3",
        "OPTIONS": DATABASE_OPTIONS,
        "CONN_MAX_AGE": None,  # kept by each thread of the server: see calmtin.database
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

MESSAGE_STORAGE = "django.contrib.messages.storage.fallback.FallbackStorage"
SESSION_ENGINE = "django.contrib.sessions.backends.db"
SESSION_COOKIE_AGE = 180 * 24 * 3600
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "sesame.backends.ModelBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
LOGIN_URL = "devices:door"
# What a phone that was let in may reach, by app or by name of an address: the stove, and no keys. All else (copies,
# exports, instruments, phones) is done at the computer itself; see devices.middleware.
PHONES_REACH = {"home", "find", "due", "formulas", "batches", "bench", "pours", "checks", "learning", "labels",
                "pieces", "pantry", "workshop", "devices:door", "devices:pair"}  # fmt: skip
# A link by which a phone is paired is good once and for five minutes.
SESAME_MAX_AGE = 300
SESAME_ONE_TIME = True
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = ["ip_address"]
AXES_VERBOSE = False
AXES_ENABLE_ADMIN = False
SESSION_COOKIE_HTTPONLY = True
# Lax: a link followed from another site must not leave a page with a token that is not known.
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "calmtin.refusals.stale"
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2000
# More files than any form takes: so that the form says how many it does.
DATA_UPLOAD_MAX_NUMBER_FILES = 400
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        # Bootstrap draws its small marks (check, arrow) as data addresses in its style sheet.
        "img-src": [SELF, "data:"],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

LANGUAGE_CODE = "en-gb"
USE_I18N = False
USE_TZ = True
TIME_ZONE = tzlocal.get_localzone_name() or "UTC"

STATIC_URL = "static/"
STATIC_ROOT = DATA_DIR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
