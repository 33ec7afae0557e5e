"""Texts of one line: names, numbers, places. They go into subjects, file names and tables."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.core.exceptions import ValidationError
from django.db import models

from sizing.base.plain_text import has_controls, one_line


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


if TYPE_CHECKING:
    _Text = models.CharField[str, str]
else:
    _Text = models.CharField


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
