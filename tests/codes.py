"""Codes as an app for a second step shows them."""

from allauth.mfa.totp.internal import auth as totp


def code_now(secret: str) -> str:
    """The code of this half minute.

    The first of those that are good is the last half minute's: gone when the clock
    moves on between the asking and the answer.
    """
    counters = list(totp.yield_hotp_counters_from_time())
    return totp.format_hotp_value(totp.hotp_value(secret, counters[len(counters) // 2]))
