"""Mails: one line of subject, so many a day for a shop, and never half a sending."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from smtplib import SMTPException

from django.conf import settings
from django.core.cache import cache
from django.core.mail import send_mail
from django.utils import timezone

from kyrtos.accounts.models import Invitation
from sizing.base.plain_text import one_line

MOST_A_DAY = 200  # of a shop, and of what is of no shop
_DAY_S = 24 * 60 * 60
_log = logging.getLogger("kyrtos.mail")
_LINK = """{by} lets you into {shop} on Kyrtos, as {role}.

Open this page, and choose the name and password by which you sign in:

{link}

It works once, until {until}. If you do not know {by}, leave it alone.
"""


def send(subject: str, text: str, to: Sequence[str], *, whose: int | None) -> bool:
    """Send a mail of a shop (None: of none); whether it went out.

    It does not where this server sends none, the shop has sent its day's share, or the mail server
    refuses it.
    """
    if not settings.SENDS_MAIL or not to or not counted(whose):
        return False
    try:
        send_mail(one_line(subject)[:200], text, settings.DEFAULT_FROM_EMAIL, list(to))
    except (OSError, SMTPException, ValueError) as problem:  # ValueError: a header that is none
        _log.warning("a mail of shop %s did not go out: %s", whose, type(problem).__name__)
        return False
    return True


def counted(whose: int | None) -> bool:
    """Count a mail to the day's share; whether it is within it."""
    key = f"mails-{whose or 'none'}-{timezone.now():%Y-%m-%d}"
    cache.add(key, 0, _DAY_S)
    count = cache.incr(key)
    if count == MOST_A_DAY + 1:
        _log.warning("shop %s has sent its %s mails of today", whose, MOST_A_DAY)
    return count <= MOST_A_DAY


def send_link(invitation: Invitation, link: str) -> bool:
    """Send somebody their link; whether it went out."""
    if not invitation.email:
        return False
    text = _LINK.format(
        by=invitation.by or invitation.shop,
        shop=invitation.shop,
        role=invitation.get_role_display(),
        link=link,
        until=f"{invitation.until:%d %b %Y %H:%M} UTC",
    )
    subject = f"Kyrtos: come into {invitation.shop}"
    return send(subject, text, [invitation.email], whose=invitation.shop_id)
