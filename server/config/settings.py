"""Settings. All that differs between machines comes from the environment or from
``$ORCHESIS_VAR/services.json``, which the start command and the tests write."""

import json
import os
from datetime import timedelta
from pathlib import Path

from csp.constants import NONE, SELF

ROOT = Path(__file__).resolve().parent.parent.parent
VAR = Path(os.environ.get("ORCHESIS_VAR", ROOT / "var"))
_services_file = VAR / "services.json"
_services = json.loads(_services_file.read_text()) if _services_file.exists() else {}


def _env(name: str, fallback: object = "") -> str:
    return os.environ.get(f"ORCHESIS_{name}", str(fallback))


SECRET_KEY = _env("SECRET_KEY", _services.get("django_key", "only for reading the code"))
DEBUG = _env("DEBUG") == "1"
ALLOWED_HOSTS = _env("HOSTS", "127.0.0.1 localhost testserver").split()
CSRF_TRUSTED_ORIGINS = _env("ORIGINS").split()

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.staticfiles",
    "rest_framework",
    "drf_spectacular",
    "axes",
    "csp",
    "django_filters",
    "django_prometheus",
    "people",
    "library",
    "jobs",
    "transcription",
    "findings",
    "arrangements",
    "charts",
    "shelf",
    "practice",
    "sharing",
    "planning",
    "keeping",
]
MIDDLEWARE = [
    "django_prometheus.middleware.PrometheusBeforeMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "config.compressed.CompressText",
    "config.errors.DatabaseAway",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "axes.middleware.AxesMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_prometheus.middleware.PrometheusAfterMiddleware",
]
ROOT_URLCONF = "config.urls"
ASGI_APPLICATION = "config.asgi.application"
TEMPLATES: list = []

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": _env("DB_NAME", "orchesis"),
        "USER": _env("DB_USER", "orchesis"),
        "PASSWORD": _env("DB_PASSWORD", _services.get("db_password", "")),
        "HOST": _env("DB_HOST", _services.get("db_socket", "127.0.0.1")),
        "PORT": _env("DB_PORT", ""),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"charset": "utf8mb4", "isolation_level": "read committed"},
        "TEST": {"NAME": "test_orchesis"},
    }
}
#: After so many wrong passwords a name is locked for a while, for whoever guesses from there.
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]
#: Whether anybody may make an account, or only who was invited.
SIGN_UP_IS_OPEN = _env("SIGN_UP", "invitation") == "open"
SESSION_ENGINE = "people.sessions"
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_CLIENT_IP_CALLABLE = "config.addresses.of"
AXES_LOCKOUT_CALLABLE = "config.errors.too_many_tries"
CSRF_FAILURE_VIEW = "config.errors.not_from_our_page"

#: The page loads nothing but itself. Styles: PrimeVue and the engraver write some into the
#: page; blob and wasm: the stretcher is an audio worklet that brings its program along.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF, "blob:", "'wasm-unsafe-eval'"],
        "style-src": [SELF, "'unsafe-inline'"],
        "img-src": [SELF, "data:", "blob:"],
        "media-src": [SELF, "blob:"],
        "font-src": [SELF, "data:"],
        "connect-src": [SELF, "data:"],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

STORAGES = {
    "default": {
        "BACKEND": _env("STORAGE", "django.core.files.storage.FileSystemStorage"),
        "OPTIONS": json.loads(_env("STORAGE_OPTIONS", "{}")),
    },
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
MEDIA_ROOT = VAR / "media"
#: Files of work in progress on this machine.
WORK_ROOT = VAR / "work"
FILE_UPLOAD_TEMP_DIR = VAR / "uploads"
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
FILE_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATICFILES_DIRS = [
    ("kit", ROOT / "orchesis" / "sounding" / "kit"),
    ("voice", ROOT / "orchesis" / "sounding" / "voice"),
    ("fonts", ROOT / "orchesis" / "engraving" / "fonts"),
]
PAGE_ROOT = ROOT / "web" / "dist"
WHITENOISE_ROOT = PAGE_ROOT if PAGE_ROOT.is_dir() else None

#: What the recordings of one account may take, and how long a removed song rests in the bin.
QUOTA_MB = int(_env("QUOTA_MB", 20_000))
BIN_DAYS = int(_env("BIN_DAYS", 30))
#: How long a backup waits to be fetched.
BACKUP_DAYS = int(_env("BACKUP_DAYS", 14))

CELERY_BROKER_URL = _env("BROKER", f"redis+socket://{_services.get('redis_socket', VAR)}")
CELERY_TASK_IGNORE_RESULT = True
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True
CELERY_WORKER_PREFETCH_MULTIPLIER = 1
CELERY_BROKER_TRANSPORT_OPTIONS = {"socket_connect_timeout": 3, "socket_timeout": 30}
#: Seconds without a sign of life after which a running job is taken over.
JOB_LEASE = float(_env("JOB_LEASE", 12))

#: How many proxies stand before us: whose word of where a request comes from is believed.
PROXIES = int(_env("PROXIES", 0))
#: What all processes count together (config.rates) lies in the broker's Redis.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.redis.RedisCache",
        # One address for both, which each of them spells in its own way.
        "LOCATION": CELERY_BROKER_URL.replace("redis+socket://", "unix://"),
        "KEY_PREFIX": "orchesis",
    }
}
#: Calls of somebody without an account: a recording is many pieces.
ANONYMOUS_RATE = _env("ANONYMOUS_RATE", "900/min")

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["config.renderers.FastJSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["config.parsers.BoundedJSONParser"],
    "DEFAULT_FILTER_BACKENDS": ["django_filters.rest_framework.DjangoFilterBackend"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "config.errors.one_sentence",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Orchesis",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "ENUM_NAME_OVERRIDES": {
        "GroupKindEnum": ["band", "class"],
        "SetListKindEnum": ["set list", "class plan"],
        "MayEnum": ["see", "edit", "own"],
    },
}
PROMETHEUS_EXPORT_MIGRATIONS = False
METRICS_ARE_OPEN = _env("METRICS") == "open"
#: Behind a proxy that speaks HTTPS: cookies and addresses are for HTTPS alone.
if _env("HTTPS") == "1":
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_REDIRECT_EXEMPT = [r"^(health|ready|metrics)$"]
    SECURE_HSTS_SECONDS = int(_env("HSTS_SECONDS", 365 * 24 * 3600))
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_REFERRER_POLICY = "same-origin"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        # A line of JSON an event, for machines that read logs.
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "format": "%(asctime)s %(levelname)s %(name)s %(message)s",
        },
        "words": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"},
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "formatter": "json" if _env("LOG") == "json" else "words",
        }
    },
    "root": {"handlers": ["console"], "level": "INFO"},
    "loggers": {"axes": {"level": "WARNING"}},
}
