"""Settings, all from the environment that the house prepares; PG* variables say where the database is."""

import os
import re
import secrets
from pathlib import Path
from urllib.parse import urlsplit

from csp.constants import NONCE, NONE, SELF
from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("AFTERSHOWER_VAR", ROOT / "var"))
MODELS = Path(os.environ.get("AFTERSHOWER_MODELS", VAR / "models"))


def _kept_secret(name: str) -> str:
    path = VAR / name
    if not path.exists():
        VAR.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = os.environ.get("AFTERSHOWER_SECRET_KEY") or _kept_secret("secret.key")
DEBUG = False
BASE_URL = os.environ.get("AFTERSHOWER_URL", "http://localhost:8620")
ALLOWED_HOSTS = os.environ.get("AFTERSHOWER_HOSTS", "localhost,127.0.0.1,[::1]").split(",")
CSRF_TRUSTED_ORIGINS = [BASE_URL]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.postgres",
    "django.contrib.staticfiles",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "allauth.mfa",
    "allauth.socialaccount",
    "allauth.socialaccount.providers.openid_connect",
    "allauth.usersessions",
    "csp",
    "ninja",
    "procrastinate.contrib.django",
    "server.accounts",
    "server.audit",
    "server.removals",
    "server.mail",
    "server.pipeline",
    "server.sharing",
    "server.meetings",
    "server.words",
    "server.capture",
    "server.record",
    "server.minutes",
    "server.sending",
    "server.agenda",
    "server.notes",
    "server.excerpts",
    "server.ask",
    "server.ledger",
    "server.calendars",
    "server.clerk",
    "server.folders",
    "server.telephone",
    "server.connections",
    "server.booking",
    "server.letterbox",
    "server.library",
    "server.links",
    "server.keeping",
    "server.rights",
    "server.backup",
    "server.stages",
]
MIDDLEWARE = [
    "server.metrics.counted_requests",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "server.problems.boundary",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.accounts.by_token.ByToken",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "server.door.devices.remember_device",
]
ROOT_URLCONF = "server.urls"
ASGI_APPLICATION = "server.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "web" / "dist"],
        "APP_DIRS": False,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]

# Where PostgreSQL itself is to be listened to, as HOST:PORT, where PGHOST and PGPORT lead to a pooler that lends a connection for a transaction.
LISTEN_AT = os.environ.get("AFTERSHOWER_LISTEN", "")
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("PGDATABASE", "aftershower"),
        "USER": os.environ.get("PGUSER", "aftershower"),
        "PASSWORD": os.environ.get("PGPASSWORD", ""),
        "HOST": os.environ.get("PGHOST", "127.0.0.1"),
        "PORT": os.environ.get("PGPORT", "5432"),
        "CONN_MAX_AGE": 0,
        # A connection that a restart of PostgreSQL has cut is noticed before it is handed out.
        "CONN_HEALTH_CHECKS": True,
        # Such a cursor outlives its transaction's connection, which a pooler has given to somebody else by then.
        "DISABLE_SERVER_SIDE_CURSORS": bool(LISTEN_AT),
        "OPTIONS": {
            # Compiling a query takes longer than any of ours: the rule of who sees what looks dear to the planner, and is not.
            **({} if LISTEN_AT else {"options": "-c jit=off"}),
            **({"pool": {"min_size": 1, "max_size": 24, "timeout": 3}} if os.environ.get("AFTERSHOWER_POOL") else {}),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
# In the database, so that every web process counts the same sign-in attempts.
CACHES = {"default": {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "cache", "OPTIONS": {"MAX_ENTRIES": 200_000}}}

# A folder, or s3://BUCKET/FOLDER in a store of objects, whose address is AFTERSHOWER_S3 where it is not Amazon's own.
_MEDIA = os.environ.get("AFTERSHOWER_MEDIA") or str(VAR / "media")
_KEPT_IN_STORE = re.fullmatch(r"s3://([^/]+)/?(.*?)/?", _MEDIA)
STORAGES: dict[str, dict] = {
    "default": {
        "BACKEND": "server.object_store.ObjectStore",
        # Keys and region come from AWS_ACCESS_KEY_ID, AWS_SECRET_ACCESS_KEY and AWS_DEFAULT_REGION, as every client of such stores takes them.
        "OPTIONS": {"bucket_name": _KEPT_IN_STORE[1], "location": _KEPT_IN_STORE[2], "endpoint_url": os.environ.get("AFTERSHOWER_S3") or None},
    }
    if _KEPT_IN_STORE
    else {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
MEDIA_ROOT = "" if _KEPT_IN_STORE else Path(_MEDIA)
# Where the ledger of what was struck and deleted is kept beside the database; best on another disk, so that it outlives a loss of this one.
REMOVALS = Path(os.environ.get("AFTERSHOWER_REMOVALS", VAR / "removals.jsonl"))
# The fonts of minutes on paper; ./aftershower makes them at set-up.
FONTS = VAR / "fonts"
STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATICFILES_DIRS = [ROOT / "web" / "dist"]
# Vite puts a fingerprint into the name of what it builds.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^.+/assets/.+-[\w-]{8}\.\w+$"
FILE_UPLOAD_TEMP_DIR = VAR / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
DATA_UPLOAD_MAX_MEMORY_SIZE = 10 * 1024 * 1024

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
SIGN_UP_OPEN = os.environ.get("AFTERSHOWER_SIGN_UP", "closed") == "open"
ACCOUNT_ADAPTER = "server.door.adapter.AccountAdapter"
ACCOUNT_USER_MODEL_USERNAME_FIELD = None
ACCOUNT_LOGIN_METHODS = {"email"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_EMAIL_SUBJECT_PREFIX = ""
# Of wrong passwords, by the key of the adapter (account and address together): pauses that grow, from a minute to a day.
ACCOUNT_RATE_LIMITS = {
    "login": "60/m/ip",
    "login_failed": "60/m/ip,5/m/key,10/10m/key,20/h/key,50/d/key",
    "signup": "10/m/ip",
    "reset_password": "10/m/ip,3/h/key",
}
ACCOUNT_PREVENT_ENUMERATION = True
# Whoever changes how they sign in hears of it by mail, in case it was not they.
ACCOUNT_EMAIL_NOTIFICATIONS = True
ACCOUNT_REAUTHENTICATION_TIMEOUT = 300
MFA_ADAPTER = "server.door.second.SecondFactorAdapter"
MFA_SUPPORTED_TYPES = ["totp", "webauthn", "recovery_codes"]
MFA_PASSKEY_LOGIN_ENABLED = True
# An address is confirmed by the invitation that was sent to it.
MFA_ALLOW_UNVERIFIED_EMAIL = True
MFA_TOTP_TOLERANCE = 1
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = BASE_URL.startswith("http:")
# Who says who somebody is, as ID|NAME|ADDRESS|CLIENT|SECRET, with commas between several (OpenID Connect).
SIGN_IN = [one.strip().split("|") for one in os.environ.get("AFTERSHOWER_SIGN_IN", "").split(",") if one.strip()]
if any(len(one) != 5 or not re.fullmatch(r"[a-z0-9-]{1,40}", one[0]) for one in SIGN_IN):
    raise ImproperlyConfigured("AFTERSHOWER_SIGN_IN is ID|NAME|ADDRESS|CLIENT|SECRET, the ID in small letters, digits and dashes.")
# To tie an identity, or to untie it, one shows once more who one is.
ACCOUNT_REAUTHENTICATION_REQUIRED = True
SOCIALACCOUNT_ADAPTER = "server.door.provider.ProviderAdapter"
SOCIALACCOUNT_PROVIDERS = {
    "openid_connect": {
        "OAUTH_PKCE_ENABLED": True,
        "APPS": [
            {"provider_id": key, "name": name, "client_id": client, "secret": secret, "settings": {"server_url": address}}
            for key, name, address, client, secret in SIGN_IN
        ],
    }
}
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {"account_reset_password_from_key": BASE_URL + "/password/{key}", "account_signup": BASE_URL + "/sign-in", "socialaccount_login_error": BASE_URL + "/sign-in"}
ALLAUTH_TRUSTED_CLIENT_IP_HEADER = None

EMAIL_HOST = os.environ.get("AFTERSHOWER_SMTP_HOST", "127.0.0.1")
EMAIL_PORT = int(os.environ.get("AFTERSHOWER_SMTP_PORT", "8625"))
EMAIL_TIMEOUT = 5
DEFAULT_FROM_EMAIL = "Aftershower <notes@aftershower.example>"

SESSION_COOKIE_HTTPONLY = True
# For those behind HTTPS: for so many seconds a browser that was here once comes by HTTPS alone (RFC 6797).
SECURE_HSTS_SECONDS = int(os.environ.get("AFTERSHOWER_HSTS", "0"))
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_SECONDS > 0
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = BASE_URL.startswith("https:")
if SESSION_COOKIE_SECURE:
    # Set by this host alone, and for all of it (RFC 6265bis, 4.1.3.2).
    SESSION_COOKIE_NAME = "__Host-session"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],
        "media-src": [SELF, "blob:"],
        "connect-src": [SELF],
        "manifest-src": [SELF],
        "worker-src": [SELF],
        # A form leads to whoever says who somebody is; a browser checks where it ends up.
        "form-action": [SELF, *(f"{at.scheme}://{at.netloc}" for at in (urlsplit(address) for _, _, address, _, _ in SIGN_IN))],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

LANGUAGE_CODE = "en"
LANGUAGES = [("en", "English"), ("es", "Español")]
# Chosen on a device, where it is not the one that its browser asks for.
LANGUAGE_COOKIE_NAME = "language"
USE_TZ = True
TIME_ZONE = "UTC"
PROCRASTINATE_ON_APP_READY = None
# A worker that has been silent for this many seconds is taken for dead, and its work is given to another.
WORKER_SILENCE = float(os.environ.get("AFTERSHOWER_WORKER_SILENCE", "20"))
# Where language models may be asked to word minutes (docs/operating.md); none unless whoever runs this server names them.
WRITERS = [address.strip() for address in os.environ.get("AFTERSHOWER_WRITERS", "").split(",") if address.strip()]
# Places in networks of its own that this server may go to where a member names them, as host:port; else it goes to public addresses alone.
INSIDE = frozenset(place.strip() for place in os.environ.get("AFTERSHOWER_INSIDE", "").split(",") if place.strip())
# Conferences whose rooms are known, as ADAPTER=ADDRESS.
CONFERENCES = [one.strip() for one in os.environ.get("AFTERSHOWER_CONFERENCES", "").split(",") if one.strip()]
# Servers that help the clerk's media through routers, as ADDRESS or ADDRESS|NAME|SECRET.
ICE = [one.strip() for one in os.environ.get("AFTERSHOWER_ICE", "").split(",") if one.strip()]
# The domain whose mail is handed to `manage.py letterbox`; "": no mail is taken in.
MAIL_DOMAIN = os.environ.get("AFTERSHOWER_MAIL_DOMAIN", "").lower()
# The mail server whose word on a sender counts (its name in Authentication-Results, RFC 8601); "": senders are believed.
MAIL_JUDGE = os.environ.get("AFTERSHOWER_MAIL_JUDGE", "")
# Seconds after which the clerk leaves a call in which nobody else is.
CLERK_ALONE = float(os.environ.get("AFTERSHOWER_CLERK_ALONE", "120"))
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s %(message)s"}, "json": {"()": "server.operation.JsonLines"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": os.environ.get("AFTERSHOWER_LOG", "plain")}},
    "root": {"handlers": ["stderr"], "level": "WARNING"},
    "loggers": {"server": {"level": "INFO"}, "procrastinate": {"level": "WARNING"}},
}
# By which /api/metrics is asked for, as a bearer token; "": there is no such address.
METRICS_KEY = os.environ.get("AFTERSHOWER_METRICS_KEY", "")
