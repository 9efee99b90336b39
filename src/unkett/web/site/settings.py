"""Django settings. Secrets and the database's place come from the state folder's config.json."""

import os
from datetime import timedelta
from pathlib import Path

from unkett.local.state import load_config, state_folder
from unkett.web.site.logs import logging_settings

CONFIG = load_config()
STATE = state_folder()
HERE = Path(__file__).resolve().parent

SECRET_KEY = CONFIG["secret_key"]
DEBUG = (
    os.environ.get("UNKETT_DEVELOPING") == "1"
)  # set by `start --reload` alone, which serves loopback only
ALLOWED_HOSTS = ["127.0.0.1", "localhost"] if DEBUG else CONFIG["allowed_hosts"]
HTTPS = CONFIG.get("https", False)

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "unkett.web.site.apps.Config",
    "unkett.web.workshop.apps.Config",
    "unkett.web.tasks.apps.Config",
    "unkett.web.catalogue.apps.Config",
    "unkett.web.bikes.apps.Config",
    "unkett.web.wear.apps.Config",
    "unkett.web.suspension.apps.Config",
    "unkett.web.plans.apps.Config",
    "unkett.web.supply.apps.Config",
    "unkett.web.jobs.apps.Config",
    "unkett.web.transfer.apps.Config",
    "unkett.web.rulebook.apps.Config",
    "unkett.web.demo.apps.Config",
]

# Long work by sort: who may ask for it, and the function that does it.
TASK_HANDLERS = {
    "ways": ("change-plans", "unkett.web.plans.way_search.search_ways"),
    "quote-pdf": ("see-plans", "unkett.web.pages.quote.pdf.make_pdf"),
    "suspension-pdf": ("see-bikes", "unkett.web.pages.suspension.pdf.make_pdf"),
    "job-pdf": ("see-jobs", "unkett.web.pages.job.pdf.make_pdf"),
    "offers": ("change-supply", "unkett.web.supply.services.refresh"),
    "order": ("change-supply", "unkett.web.supply.services.send"),
    "wear-anew": ("change-settings", "unkett.web.wear.services.refresh_limits"),
    "day-plan": ("plan-days", "unkett.web.jobs.schedule.update_schedule"),
}

# What is called with a workshop's id when a promise or a part of its plans moves.
AFTER_DATES_MOVE = ["unkett.web.jobs.queries.mark_stale"]
# What the background process renews after rules or settings changed: one batch a call, true where there was one.
UPKEEP = [
    "unkett.web.catalogue.services.renew_next",
    "unkett.web.bikes.verdicts.renew_next",
    "unkett.web.jobs.schedule.renew_next",
]

MIDDLEWARE = [
    "unkett.web.pages.common.watch.watched",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "unkett.web.pages.common.seen.seen_lately",
    "django_otp.middleware.OTPMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "unkett.web.pages.common.once.once",
    "unkett.web.pages.service_errors.service_errors",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "unkett.web.pages.urls"
WSGI_APPLICATION = "unkett.web.site.wsgi.application"
AUTH_USER_MODEL = "workshop.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "unkett.web.workshop.signed_in.WithWorkshop",
]
CSRF_FAILURE_VIEW = "unkett.web.pages.errors.csrf_failed"

# One account from one address: five tries, then a quarter of an hour. Nobody can lock somebody else out.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True  # the security log has it
AXES_LOCKOUT_CALLABLE = "unkett.web.pages.people.sign_in.too_often"
AXES_CLIENT_IP_CALLABLE = "unkett.web.workshop.security.address_of"
AXES_VERBOSE = False
OTP_TOTP_ISSUER = "Unkett"
OTP_TOTP_THROTTLE_FACTOR = 1
LOGIN_URL = "workshop:sign-in"
LOGIN_REDIRECT_URL = "bikes:yard"
LOGOUT_REDIRECT_URL = "workshop:sign-in"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [HERE.parent / "pages"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "builtins": ["unkett.web.show.tags", "unkett.web.pages.common.tags"],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": CONFIG["database"]["name"],
        "USER": CONFIG["database"]["user"],
        "PASSWORD": CONFIG["database"]["password"],
        "HOST": CONFIG["database"]["host"],
        "PORT": CONFIG["database"]["port"],
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    *(
        {"NAME": f"django.contrib.auth.password_validation.{name}"}
        for name in (
            "CommonPasswordValidator",
            "NumericPasswordValidator",
            "UserAttributeSimilarityValidator",
        )
    ),
]

LANGUAGE_CODE = "en-gb"
TIME_ZONE = CONFIG.get("time_zone", "UTC")
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = STATE / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

LOGGING = logging_settings()

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_HTTPONLY = True
SESSION_COOKIE_AGE = 4 * 3600  # without a click; see seen_lately
if HTTPS:  # behind a proxy on this machine that speaks TLS and says so
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-session", "__Host-csrf"
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = True
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = ["^health/$"]
CSRF_TRUSTED_ORIGINS = CONFIG.get("trusted_origins", [])
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
PERMISSIONS_POLICY = (
    "camera=(), geolocation=(), microphone=(), payment=(), usb=()"  # no page asks for any of them
)
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'"],
        "img-src": ["'self'"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "form-action": ["'self'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
    }
}
