"""Settings for a person's own machine: everything on loopback. `config.production` tightens them."""

import os
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
ROOT = BASE_DIR.parent
LOCAL = Path(os.environ.get("NINEGLASS_LOCAL", ROOT / ".local"))
DEMO_DIR = ROOT / "demo"
WEB_DIST = ROOT / "web" / "dist"

DEBUG = False
SECRET_KEY = os.environ.get("NINEGLASS_SECRET_KEY", "")
if not SECRET_KEY:
    from config.secret import local_secret

    SECRET_KEY = local_secret(LOCAL / "secret-key")
ALLOWED_HOSTS = os.environ.get("NINEGLASS_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.admin",
    "channels",
    "ninja",
    "accounts",
    "materials",
    "stages",
    "library",
    "trials",
    "people",
    "live",
    "procrastinate.contrib.django",
    "pictures",
    "handovers",
    "devices",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "config.middleware.ContentSecurityPolicy",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "config.middleware.SignInRequired",
    "django.contrib.messages.middleware.MessageMiddleware",
    "config.middleware.SignedInStatic",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "config.urls"
ASGI_APPLICATION = "config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]

SERVES = "NINEGLASS_SERVES" in os.environ
"""Whether this process answers browsers, on many threads: it keeps connections to the database open. Lanes of workers are forked, and cannot."""

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("PGDATABASE", "nineglass"),
        "USER": os.environ.get("PGUSER", "nineglass"),
        "HOST": os.environ.get("PGHOST", "127.0.0.1"),
        "PORT": os.environ.get("PGPORT", "5432"),
        "OPTIONS": {
            **({"passfile": os.environ["PGPASSFILE"]} if "PGPASSFILE" in os.environ else {}),
            **({"pool": {"min_size": 1, "max_size": 20, "timeout": 4}} if SERVES else {}),
        },
        "CONN_HEALTH_CHECKS": SERVES,
        "TEST": {"NAME": os.environ.get("NINEGLASS_TEST_DATABASE")},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

LOGIN_URL = "/sign-in/"
LOGIN_REDIRECT_URL = "/"
LOGOUT_REDIRECT_URL = "/sign-in/"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_DIST
WHITENOISE_USE_FINDERS = True
MEDIA_ROOT = LOCAL / "files"
os.environ.setdefault("NINEGLASS_FILES", str(MEDIA_ROOT / "put-in"))

MOST_FILE_MB = int(os.environ.get("NINEGLASS_QUOTA_MB", "4000"))
MOST_FILES = 2000
"""What one person may put in altogether, where no quota of their own says otherwise."""

MOST_SUMS_MB = int(os.environ.get("NINEGLASS_SUMS_MB", "60000"))
"""What a person's pictures may take while they can go on: one of 8,192 x 4,320 pixels takes 6,100 for each light that is kept apart."""

MOST_DOCUMENTS = 2000
"""How many materials, stages or modules one person may keep."""

MAKES_PORTRAITS = os.environ.get("NINEGLASS_PORTRAITS", "1") == "1"
"""Whether pictures of materials are made behind when a shelf is looked at."""

RENDERER_LINGERS_S = float(os.environ.get("NINEGLASS_LINGER_S", "60"))
"""How long the renderer is kept after the last bench has closed."""

LOG = LOCAL / "nineglass.log"
"""Where errors are written; a person is told the number under which one stands there."""

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {
        "console": {"class": "logging.StreamHandler", "level": "WARNING", "formatter": "line"},
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "level": "WARNING",
            "formatter": "line",
            "filename": LOG,
            "maxBytes": 5_000_000,
            "backupCount": 3,
            "delay": True,
        },
    },
    "loggers": {"django.request": {"level": "ERROR"}},
    "root": {"handlers": ["console", "file"], "level": "WARNING"},
}

LANGUAGE_CODE = "en-gb"
USE_TZ = True
TIME_ZONE = "UTC"
DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_NAME = "nineglass_session"
SESSION_COOKIE_SAMESITE = "Lax"
TEST_RUNNER = "config.runner.Runner"
