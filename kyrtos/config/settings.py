"""Settings of Kyrtos, all from the environment; see docs/deploy.md for every variable."""

from __future__ import annotations

import os
import tempfile
from datetime import timedelta
from pathlib import Path

import dj_database_url

from kyrtos.config import environment

BASE_DIR = Path(__file__).resolve().parents[2]

DEMO = environment.truth(
    "KYRTOS_DEMO", default=False
)  # on loopback only: one click signs the demo user in
SECRET_KEY = environment.text("KYRTOS_SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = environment.names("KYRTOS_HOSTS", "127.0.0.1,localhost")
SECURE = environment.truth("KYRTOS_HTTPS", default=not DEMO)
# By which people elsewhere reach this server: mails, links and labels say it.
PUBLIC_URL = environment.text(
    "KYRTOS_PUBLIC_URL", f"{'https' if SECURE else 'http'}://{[*ALLOWED_HOSTS, 'localhost'][0]}"
).rstrip("/")
# Who may say for whom a request comes: our own proxy speaks over a socket, or from here.
PROXIES = environment.names("KYRTOS_PROXIES", "127.0.0.1,::1")
if DEMO:
    environment.only_here("KYRTOS_DEMO", [*ALLOWED_HOSTS, environment.text("KYRTOS_BIND", "")])

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.postgres",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "procrastinate.contrib.django",
    "axes",
    "kyrtos.accounts",  # before allauth: our pages stand in for its own
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "allauth.usersessions",
    "kyrtos.shops",
    "kyrtos.house_rules",
    "kyrtos.catalogue",
    "kyrtos.customers",
    "kyrtos.jobs",
    "kyrtos.worksheet",
    "kyrtos.drawing",
    "kyrtos.paper",
    "kyrtos.installations",
    "kyrtos.counter",
    "kyrtos.calculation_review",
    "kyrtos.operations",
    "kyrtos.demo",
]

MIDDLEWARE = [
    "kyrtos.config.middleware.AddressMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "kyrtos.config.middleware.FilesHostMiddleware",
    "kyrtos.config.middleware.DoorMiddleware",  # before the first that reads what was sent
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "kyrtos.config.middleware.NulMiddleware",
    "kyrtos.config.middleware.NoStoreMiddleware",
    "kyrtos.accounts.middleware.MembershipMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "kyrtos.config.urls"
WSGI_APPLICATION = "kyrtos.config.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "kyrtos" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["kyrtos.accounts.templatetags.of_shop"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "kyrtos.accounts.context.shop",
            ],
        },
    }
]

DATABASE_ADDRESS = environment.text("DATABASE_URL")
DATABASES = {
    "default": dj_database_url.parse(DATABASE_ADDRESS, conn_max_age=600, conn_health_checks=True)
}
DATABASES["default"].setdefault("OPTIONS", {})["connect_timeout"] = 5
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_USER_MODEL = "shop.User"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 12},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# Guessing: after so many wrong passwords for a name from one address, that pair waits.
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "kyrtos.accounts.login_throttle.locked_out"
AXES_CLIENT_IP_CALLABLE = "kyrtos.accounts.login_throttle.address_of"
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
# Second steps, passkeys, new passwords by mail and the list of sessions are allauth's.
ACCOUNT_ADAPTER = "kyrtos.accounts.allauth_adapters.AccountAdapter"
MFA_ADAPTER = "kyrtos.accounts.allauth_adapters.SecondStepAdapter"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_EMAIL_UNKNOWN_ACCOUNTS = False
ACCOUNT_SIGNUP_FIELDS = ["username*", "email", "password1*"]
ACCOUNT_SESSION_REMEMBER = True
ACCOUNT_PASSWORD_RESET_TOKEN_GENERATOR = "kyrtos.accounts.reset_tokens.ResetTokens"  # nosec B105
ACCOUNT_FORMS = {"reset_password": "kyrtos.accounts.addresses.ResetForm"}  # nosec B105
ACCOUNT_LOGOUT_ON_PASSWORD_CHANGE = True
ACCOUNT_DEFAULT_HTTP_PROTOCOL = "https" if SECURE else "http"
# Wrong codes of a second step: by address, so that who guesses locks nobody else out; and so many
# for one person from everywhere.
ACCOUNT_RATE_LIMITS = {"login_failed": "6/15m/ip,100/h/key"}
ACCOUNT_REAUTHENTICATION_TIMEOUT = 900
ACCOUNT_REAUTHENTICATION_METHODS = ["password", "mfa"]  # no code by mail
PASSWORD_RESET_TIMEOUT = 2 * 60 * 60
MFA_SUPPORTED_TYPES = ["totp", "webauthn", "recovery_codes"]
MFA_PASSKEY_LOGIN_ENABLED = True
MFA_TOTP_ISSUER = "Kyrtos"
MFA_TOTP_TOLERANCE = 1  # a code of half a minute ago is good: clocks differ
MFA_ALLOW_UNVERIFIED_EMAIL = True
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = DEMO
# Counts that all processes and machines share, such as those of wrong codes.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.db.DatabaseCache",
        "LOCATION": "shared_cache",
    }
}
# Mail goes out by SMTP; without that into a folder; without that not at all, which pages then say.
# Kept with the session, so that they end with it.
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"
EMAIL_HOST = environment.text("KYRTOS_MAIL_HOST", "")
EMAIL_PORT = environment.number("KYRTOS_MAIL_PORT", default=587)
EMAIL_HOST_USER = environment.text("KYRTOS_MAIL_USER", "")
EMAIL_HOST_PASSWORD = environment.text("KYRTOS_MAIL_PASSWORD", "")
EMAIL_USE_TLS = environment.truth("KYRTOS_MAIL_TLS", default=True)
EMAIL_TIMEOUT = 10
EMAIL_FILE_PATH = environment.text("KYRTOS_MAIL_FOLDER", "")
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if EMAIL_HOST else 'filebased'}.EmailBackend"
SENDS_MAIL = bool(EMAIL_HOST or EMAIL_FILE_PATH)
DEFAULT_FROM_EMAIL = environment.text("KYRTOS_MAIL_FROM", "Kyrtos <kyrtos@localhost>")
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "job-list"
LOGOUT_REDIRECT_URL = "sign-in"

LANGUAGE_CODE = "en"
TIME_ZONE = environment.text("KYRTOS_TIME_ZONE", "UTC")
USE_I18N = False
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = Path(environment.text("KYRTOS_STATIC_ROOT", str(BASE_DIR / "staticfiles")))
STATICFILES_DIRS = [BASE_DIR / "kyrtos" / "static"]
# Photos and files of sites: in a folder, or in a store that speaks S3 where a bucket is named.
MEDIA_ROOT = Path(environment.text("KYRTOS_FILES", str(BASE_DIR / "files")))
FILES_BUCKET = environment.text("KYRTOS_FILES_BUCKET", "")
STORAGES = {
    "default": {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {
            "bucket_name": FILES_BUCKET,
            "endpoint_url": environment.text("KYRTOS_FILES_ENDPOINT", "") or None,
            "access_key": environment.text("KYRTOS_FILES_KEY", "") or None,
            "secret_key": environment.text("KYRTOS_FILES_SECRET", "") or None,
            "region_name": environment.text("KYRTOS_FILES_REGION", "") or None,
            "default_acl": None,
            "file_overwrite": False,
        },
    }
    if FILES_BUCKET
    else {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

# A name of its own for photos and files, which carries no cookies; '' serves them from here.
FILES_HOST = environment.text("KYRTOS_FILES_HOST", "")
if FILES_HOST:
    ALLOWED_HOSTS = [*ALLOWED_HOSTS, FILES_HOST.partition(":")[0]]
_FILES_FROM = [f"{'https' if SECURE else 'http'}://{FILES_HOST}"] if FILES_HOST else []

# Nothing but our own files, no inline scripts or styles, nothing evaluated. data: pictures are
# Bootstrap's icons in the style sheet.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'"],
        "img-src": ["'self'", "data:", *_FILES_FROM],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "worker-src": ["'self'"],
        "manifest-src": ["'self'"],
        "frame-src": ["'none'"],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
        "form-action": ["'self'"],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE
SESSION_COOKIE_HTTPONLY = True
CSRF_TRUSTED_ORIGINS = environment.names("KYRTOS_TRUSTED_ORIGINS")
if SECURE:
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-sessionid", "__Host-csrftoken"
    SECURE_SSL_REDIRECT = True
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

PLACES = environment.number("KYRTOS_WORKERS", default=2)  # for what takes long: one a process
DEVICES = environment.text("KYRTOS_DEVICES", "")  # host:port of a site's devices, for the demo
BACKUP_FOLDER = environment.text("KYRTOS_BACKUP_FOLDER", "")  # nightly, by the worker
BACKGROUND = "queue"  # work for later waits in the database for `manage.py procrastinate worker`
CACHE_FOLDER = environment.text(
    "KYRTOS_CACHE", str(Path(tempfile.gettempdir()) / f"kyrtos-{os.getuid()}")
)
CACHE_FILES = 20  # packed catalogues, up to 60 MB each for 100,000 pumps

DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
# Folders of photos and files are for the account that serves, and for nobody else.
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"no secrets": {"()": "kyrtos.config.logs.WithoutSecrets"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["no secrets"]}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
