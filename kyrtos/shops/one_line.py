"""Texts of one line: names, numbers, places. They go into subjects, file names and tables."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import models

from sizing.base.plain_text import has_controls, one_line

_BREAK = re.compile(r"\r\n|\r|\n")


def judge(text: str) -> None:
    """Refuse what would break a line.

    Raises
    ------
    ValidationError
    """
    if has_controls(text):
        raise ValidationError(
            "This is one line: take out the line break or control character that came with it."
        )


def lines_of(text: str) -> list[str]:
    """The entries of a text that has one to a line: trimmed, none empty, none twice."""
    found = (" ".join(one_line(line).split()) for line in _BREAK.split(text))
    return list(dict.fromkeys(filter(None, found)))


def judge_lines(text: str) -> None:
    """Refuse what would break an entry.

    Raises
    ------
    ValidationError
    """
    for line in _BREAK.split(text):
        if has_controls(line):
            raise ValidationError(
                f"“{one_line(line)[:40]}” holds a control character that came with it: write it"
                " anew, one entry to a line"
            )


def judge_mails(text: str) -> None:
    """Refuse a line that is no mail address.

    Raises
    ------
    ValidationError
    """
    for line in lines_of(text):
        try:
            validate_email(line)
        except ValidationError:
            raise ValidationError(
                f"“{line[:60]}” is no mail address: write one to a line, like ida@mill.example"
            ) from None


if TYPE_CHECKING:
    _Text = models.CharField[str, str]
    _Long = models.TextField[str, str]
else:
    _Text = models.CharField
    _Long = models.TextField


class OneLine(_Text):
    """A text without line breaks or other control characters.

    A form refuses them beside the field. By any other door (a list, a file, a shop's data) they
    become spaces, so that no row of it is lost for one.
    """

    default_validators = [judge]

    def get_prep_value(self, value: Any) -> Any:
        """As the database keeps it."""
        prepared = super().get_prep_value(value)
        return one_line(prepared) if isinstance(prepared, str) else prepared

    def deconstruct(self) -> Any:
        """To a migration it is the column that it is."""
        name, _, args, given = super().deconstruct()
        return name, "django.db.models.CharField", args, given


class Lines(_Long):
    """People, phones, addresses: each line an entry of its own, by whatever door it comes."""

    default_validators = [judge_lines]

    def get_prep_value(self, value: Any) -> Any:
        """As the database keeps it."""
        prepared = super().get_prep_value(value)
        return "\n".join(lines_of(prepared)) if isinstance(prepared, str) else prepared

    def deconstruct(self) -> Any:
        """To a migration it is the column that it is."""
        name, _, args, given = super().deconstruct()
        return name, "django.db.models.TextField", args, given
