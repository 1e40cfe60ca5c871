"""Settings for a server behind TLS. NINEGLASS_SECRET_KEY and NINEGLASS_HOSTS must be given; NINEGLASS_PROXY names the address of what ends TLS before
it, whose headers alone are believed (by ./start)."""

import os

from config.settings import *  # noqa: F403

SECRET_KEY = os.environ["NINEGLASS_SECRET_KEY"]
ALLOWED_HOSTS = os.environ["NINEGLASS_HOSTS"].split(",")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
