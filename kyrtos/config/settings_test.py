"""Settings for the tests: quick passwords, plain static files, strict templates."""

import os
import tempfile
from pathlib import Path

os.environ.setdefault("KYRTOS_SECRET_KEY", "only-for-tests")
os.environ.setdefault("KYRTOS_DEMO", "1")
os.environ.setdefault("KYRTOS_HTTPS", "0")

from kyrtos.config.settings import *  # noqa: F403
from kyrtos.config.settings import DATABASES, MIDDLEWARE, TEMPLATES

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MIDDLEWARE = [name for name in MIDDLEWARE if "whitenoise" not in name]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
MEDIA_ROOT = Path(tempfile.mkdtemp(prefix="kyrtos-files-"))
ALLOWED_HOSTS = ["*"]
PUBLIC_URL = "http://testserver"
BACKGROUND = "held"  # until a test says when


class Undefined(str):
    """Printing a variable that no view gave fails the test: it would leave a hole in the page."""

    def __mod__(self, name: object) -> str:
        raise NameError(f"a template printed a variable that is not defined: {name}")

    def __contains__(self, part: object) -> bool:
        return part == "%s"


TEMPLATES[0]["OPTIONS"]["string_if_invalid"] = Undefined("%s")  # type: ignore[index]

# A connection that a thread of the live server kept would hold the test database at the end.
DATABASES["default"]["CONN_MAX_AGE"] = 0
