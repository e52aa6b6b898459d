"""Django settings. All state lives in one folder: ``PLINDRO_HOME``, else ``var`` in the working directory."""

import os
import secrets
from datetime import timedelta
from pathlib import Path

HOME = Path(os.environ.get("PLINDRO_HOME") or "var").resolve()
HOME.mkdir(mode=0o700, parents=True, exist_ok=True)
HOME.chmod(0o700)


def _ui_folder() -> Path:
    """The built front end: inside an installed wheel, else that of the working copy."""
    inside = Path(__file__).resolve().parent / "ui"
    return inside if inside.is_dir() else Path(__file__).resolve().parents[3] / "ui" / "dist"


UI_FOLDER = Path(os.environ.get("PLINDRO_UI") or _ui_folder())
FILES = HOME / "files"
SHIPMENTS = HOME / "shipments"
DELIVERIES = Path(os.environ.get("PLINDRO_DELIVERIES") or HOME / "delivered").resolve()
"""The folder below which shipments are delivered."""
RUN = HOME / "run"
WORKERS = int(os.environ.get("PLINDRO_WORKERS") or os.cpu_count() or 1)
JOB_SECONDS = float(os.environ.get("PLINDRO_JOB_SECONDS") or 900)
"""Seconds that one job may take."""
WORKER_MEMORY = int(os.environ.get("PLINDRO_WORKER_MEMORY") or 2048)
"""MiB that one worker may have."""
WORKER_NICENESS = 10
ATTEMPTS = int(os.environ.get("PLINDRO_ATTEMPTS") or 3)
"""How often a job is begun whose worker dies."""
MAX_UPLOAD = int(os.environ.get("PLINDRO_MAX_UPLOAD") or 4096) * 2**20
"""Bytes that one request may bring; the variable is in MiB."""
MAX_UNPACKED = int(os.environ.get("PLINDRO_MAX_UNPACKED") or 2048) * 2**20
"""Bytes that all archives of an upload may unpack to, those inside archives included; the variable is in MiB."""
MAX_ENTRIES = int(os.environ.get("PLINDRO_MAX_ENTRIES") or 20_000)
MAX_ARCHIVE_DEPTH = 4
"""Archives in archives that are opened."""
GRACE = timedelta(days=float(os.environ.get("PLINDRO_GRACE_DAYS") or 7))
"""How long files, results and removed props are kept that nothing refers to."""
SCHEDULER = os.environ.get("PLINDRO_SCHEDULER") or None


def _secret_key() -> str:
    """A key of this installation, made once."""
    path = HOME / "secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "plindro.web.work",
    "plindro.web.catalogue.apps.CatalogueConfig",
    "plindro.web.yard.apps.YardConfig",
    "plindro.web.bench",
    "plindro.web.shipping.apps.ShippingConfig",
    "plindro.web.sheets.apps.SheetsConfig",
    "plindro.web.engine.apps.EngineConfig",
    "plindro.web.house.apps.HouseConfig",
    "plindro.web.upkeep.apps.UpkeepConfig",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "plindro.web.middleware.PolicyMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.common.CommonMiddleware",
    "plindro.web.middleware.OwnPagesMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "plindro.web.urls"
ASGI_APPLICATION = "plindro.web.asgi.application"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": HOME / "plindro.sqlite3",
        # All views run in one thread, which keeps its connection.
        "CONN_MAX_AGE": None,
        "TEST": {"NAME": HOME / "test.sqlite3"},
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"
WHITENOISE_ROOT = UI_FOLDER if UI_FOLDER.is_dir() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_ALLOW_ALL_ORIGINS = False
APPEND_SLASH = False
DATA_UPLOAD_MAX_NUMBER_FILES = 5_000
# Of a body that is no upload, which alone is held in memory.
DATA_UPLOAD_MAX_MEMORY_SIZE = 32 * 2**20
FILE_UPLOAD_TEMP_DIR = FILES / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(mode=0o700, parents=True, exist_ok=True)
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
