"""Settings, all from the environment, with defaults that are safe on a machine of one's own."""

from __future__ import annotations

import os
import secrets
from pathlib import Path
from urllib.parse import unquote, urlsplit

REPOSITORY = Path(__file__).resolve().parent.parent.parent
#: Everything the machine keeps that git does not: database, pictures, deliveries, caches, the secret key.
HOME = Path(os.environ.get("KITE_HOME", REPOSITORY / ".kite"))


def _kept_secret(path: Path) -> str:
    """The secret in a file, made once; readable by its owner only."""
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return path.read_text()
    with os.fdopen(descriptor, "w") as file:
        secret = secrets.token_urlsafe(50)
        file.write(secret)
    return secret


def _database_url() -> str:
    """``KITE_DATABASE_URL``, or what bin/start wrote down for the cluster it made."""
    url = os.environ.get("KITE_DATABASE_URL")
    kept = HOME / "database.url"
    if not url and kept.exists():
        url = kept.read_text().strip()
    return url or "postgresql://kite@127.0.0.1:5432/kite"


def _database(url: str) -> dict[str, object]:
    parts = urlsplit(url)
    return {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": parts.path.lstrip("/"),
        "USER": unquote(parts.username or ""),
        "PASSWORD": unquote(parts.password or ""),
        "HOST": parts.hostname or "127.0.0.1",
        "PORT": str(parts.port or 5432),
        "OPTIONS": {"connect_timeout": 5} | _pool(),
        "CONN_HEALTH_CHECKS": True,
    }


def _pool() -> dict[str, object]:
    """The web server keeps connections open: making one takes longer than most of what is asked."""
    most = int(os.environ.get("KITE_CONNECTIONS", "0"))
    return {"pool": {"min_size": 2, "max_size": most, "timeout": 10}} if most else {}


def _store(url: str, endpoint: str | None) -> dict[str, dict[str, object]]:
    """``s3://bucket/folder`` as one of the storages; its keys are where every program of that kind looks for them."""
    if not url:
        return {}
    parts = urlsplit(url)
    if parts.scheme != "s3" or not parts.netloc:
        raise SystemExit(f"KITE_STORE is “{url}”; it has to be like s3://bucket or s3://bucket/folder.")
    # Only here: without a store it would be loaded in vain.
    from botocore.config import Config

    # What is sent has a CRC-32; hashing all of it for the signature as well takes longer than sending it.
    ways = {"addressing_style": "path" if endpoint else "auto", "payload_signing_enabled": False}
    config = Config(
        s3=ways, signature_version="s3v4", retries={"max_attempts": 5, "mode": "standard"}, connect_timeout=5
    )
    options = {
        "bucket_name": parts.netloc, "location": parts.path.strip("/"), "endpoint_url": endpoint, "file_overwrite": True,
        "client_config": config, "max_memory_size": 32 << 20,
    }  # fmt: skip
    return {"shared": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}}


SECRET_KEY = os.environ.get("KITE_SECRET_KEY") or _kept_secret(HOME / "secret-key")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("KITE_HOSTS", "127.0.0.1,localhost,[::1]").split(",")
CSRF_TRUSTED_ORIGINS = [origin for origin in os.environ.get("KITE_ORIGINS", "").split(",") if origin]
#: Set where the application is reached by https.
_SECURE = os.environ.get("KITE_HTTPS", "0") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = _SECURE
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if _SECURE else None

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "procrastinate.contrib.django",
    "people",
    "jobs",
    "pictures",
    "rendering",
    "readings",
    "takes",
    "rehearsals",
    "cards",
    "spots",
    "reports",
    "clips",
    "engines",
    "printers",
    "viewing",
    "showings",
    "deliveries",
    "batches",
    "folders",
    "kiteglass",
]
# Every one of these works asynchronously: a sync one would keep the viewer's tiles from being called off.
MIDDLEWARE = ["kiteglass.at_once.AtOnce", "kiteglass.audit.Audit"]
ROOT_URLCONF = "kiteglass.urls"
ASGI_APPLICATION = "kiteglass.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {"default": _database(_database_url())}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_USER_MODEL = "people.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"

#: Uploads larger than this are spooled to disk while they arrive.
FILE_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
FILE_UPLOAD_TEMP_DIR = HOME / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)

#: Where files lie that all machines share: without a store, in HOME.
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    **_store(os.environ.get("KITE_STORE", ""), os.environ.get("KITE_STORE_ENDPOINT")),
}
#: What a home holds at most of originals and finished files that are in the store as well.
MOST_LOCAL_BYTES = int(float(os.environ.get("KITE_LOCAL_GB", "50")) * 1e9)

WEB_DIST = Path(os.environ.get("KITE_WEB_DIST", REPOSITORY / "web" / "dist"))
ORIGINALS = HOME / "originals"
PREVIEWS = HOME / "previews"
#: Profiles of printers that people brought.
PRINTERS = HOME / "printers"
DELIVERIES = HOME / "deliveries"
#: What clients are shown.
SHOWINGS = HOME / "showings"
#: Messages that would be sent: whoever runs the server has them sent from there.
EMAIL_BACKEND = "django.core.mail.backends.filebased.EmailBackend"
EMAIL_FILE_PATH = HOME / "outbox"
DEFAULT_FROM_EMAIL = os.environ.get("KITE_FROM", "kite-glass@localhost")
#: For files that are open; nothing another worker needs.
SCRATCH = Path(os.environ.get("KITE_SCRATCH", HOME / "scratch"))
#: Networks that people of the workshop brought; the core looks for engines where KITE_ENGINES says.
ENGINES = HOME / "engines"
#: Look-up tables they brought; the core looks for them where KITE_TABLES says.
TABLES = HOME / "tables"
os.environ["KITE_TABLES"] = str(TABLES)
#: Lens profiles they measured; the core looks for them where KITE_LENSES says, and keeps developed raws where KITE_DECODED says.
LENSES = HOME / "lenses"
os.environ["KITE_LENSES"] = str(LENSES)
os.environ.setdefault("KITE_DECODED", str(SCRATCH / "decoded"))
os.environ["KITE_ENGINES"] = os.pathsep.join(
    dict.fromkeys([str(ENGINES), *filter(None, os.environ.get("KITE_ENGINES", "").split(os.pathsep))])
)
SHELVES = (ENGINES, TABLES, LENSES)
#: Folders of this machine that pictures may come from and finished files go to; nothing outside them is touched.
FOLDERS = [path for path in os.environ.get("KITE_FOLDERS", str(HOME / "folders")).split(os.pathsep) if path]
REGION_CACHE = HOME / "regions"
REGION_CACHE_BYTES = int(float(os.environ.get("KITE_REGION_CACHE_GB", "2")) * 1e9)
#: What slow steps computed, kept in the memory of the web process.
STAGE_CACHE_BYTES = int(float(os.environ.get("KITE_KEPT_GB", "1")) * 1e9)
MOST_UPLOAD_BYTES = int(float(os.environ.get("KITE_MOST_UPLOAD_GB", "4")) * 1e9)
#: Deliveries that would take longer than this, in seconds, are shared among the workers that are free.
SHARED_FROM_SECONDS = float(os.environ.get("KITE_SHARE_FROM_SECONDS", "60"))
#: Regions rendered at the same time for all viewers together.
RENDERS_AT_ONCE = int(os.environ.get("KITE_RENDERS_AT_ONCE", "2"))

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "filters": {"without links": {"()": "kiteglass.logs.WithoutLinks"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line", "filters": ["without links"]}},
    "root": {"handlers": ["console"], "level": "INFO"},
    "loggers": {"procrastinate": {"level": "WARNING"}},
}
