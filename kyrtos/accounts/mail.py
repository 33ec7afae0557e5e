"""The mails that Kyrtos writes itself."""

from __future__ import annotations

from smtplib import SMTPException

from django.conf import settings
from django.core.mail import send_mail

from kyrtos.accounts.models import Invitation

_LINK = """{by} lets you into {shop} on Kyrtos, as {role}.

Open this page, and choose the name and password by which you sign in:

{link}

It works once, until {until}. If you do not know {by}, leave it alone.
"""


def send_link(invitation: Invitation, link: str) -> bool:
    """Send somebody their link; whether it went out."""
    if not (settings.SENDS_MAIL and invitation.email):
        return False
    text = _LINK.format(
        by=invitation.by or invitation.shop,
        shop=invitation.shop,
        role=invitation.get_role_display(),
        link=link,
        until=f"{invitation.until:%d %b %Y %H:%M} UTC",
    )
    subject = f"Kyrtos: come into {invitation.shop}".replace("\n", " ")
    try:
        send_mail(subject, text, settings.DEFAULT_FROM_EMAIL, [invitation.email])
    except (OSError, SMTPException):
        return False
    return True
