"""What allauth asks of Kyrtos."""

from __future__ import annotations

import base64
import hashlib
from typing import Any
from urllib.parse import quote

from allauth.account.adapter import DefaultAccountAdapter
from allauth.core import context
from allauth.mfa.adapter import DefaultMFAAdapter
from cryptography.fernet import Fernet
from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

from kyrtos.accounts import mail
from kyrtos.accounts.login_throttle import address_of
from kyrtos.accounts.models import User
from kyrtos.config import public

MODEL_BACKEND = "django.contrib.auth.backends.ModelBackend"


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """Nobody signs up; addresses are those that the proxy tells; mail comes from Kyrtos."""

    error_messages = {
        **DefaultAccountAdapter.error_messages,
        "incorrect_password": "That is not your password. Capitals count.",  # nosec B105
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """People come in by a link that an owner makes."""
        return False

    def login(self, request: HttpRequest, user: User) -> None:
        """Sessions are those of Django's own backend, whichever way somebody came in."""
        user.backend = MODEL_BACKEND
        super().login(request, user)

    def get_client_ip(self, request: HttpRequest) -> str:
        return address_of(request) or "127.0.0.1"

    def format_email_subject(self, subject: str) -> str:
        return f"Kyrtos: {subject}"

    def get_reset_password_from_key_url(self, key: str) -> str:
        """By the server's public address, whichever name it was asked under."""
        path = reverse("account_reset_password_from_key", args=["UID", "KEY"])
        return public.address(path.replace("UID-KEY", quote(key)))

    def send_mail(self, template_prefix: str, email: str, context: dict[str, Any]) -> None:
        """Within the share of a day."""
        if mail.counted(None):
            super().send_mail(template_prefix, email, context)

    def get_from_email(self) -> str:
        return settings.DEFAULT_FROM_EMAIL

    def is_reauthentication_required(self, *, app: str, **given: Any) -> bool:
        """The people of the demonstration have nothing by which to show again who they are."""
        user = context.request.user
        if settings.DEMO and not user.has_usable_password():
            return False
        return bool(super().is_reauthentication_required(app=app, **given))


def _box() -> Fernet:
    key = hashlib.sha256(b"second step " + settings.SECRET_KEY.encode()).digest()
    return Fernet(base64.urlsafe_b64encode(key))


class SecondStepAdapter(DefaultMFAAdapter):  # type: ignore[misc]
    """Secrets of second steps lie in the database, and in its back-ups, under the server's key."""

    def encrypt(self, text: str) -> str:
        return _box().encrypt(text.encode()).decode()

    def decrypt(self, encrypted_text: str) -> str:
        return _box().decrypt(encrypted_text.encode()).decode()

    def get_public_key_credential_rp_entity(self) -> dict[str, str]:
        return {"id": context.request.get_host().partition(":")[0], "name": "Kyrtos"}
