"""What goes into the logs: no address by which somebody comes in."""

from __future__ import annotations

import logging
import re

# the part of an address that lets in whoever has it: links, new passwords, files, confirmations
_SECRET = re.compile(r"(/(?:join|address|held|sign-in/password/new)/)[^/\s'\"?]+")


def without_secrets(text: str) -> str:
    """A line with tokens crossed out.

    >>> without_secrets("Gone: /join/Zx81-secret/")
    'Gone: /join/.../'
    """
    return _SECRET.sub(r"\1...", text)


class WithoutSecrets(logging.Filter):
    """Crosses tokens out of everything that is logged, traces and 410 lines included."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.msg, record.args = without_secrets(record.getMessage()), ()
        if record.exc_info and not record.exc_text:
            record.exc_text = logging.Formatter().formatException(record.exc_info)
        if record.exc_text:
            record.exc_text = without_secrets(record.exc_text)
        return True
