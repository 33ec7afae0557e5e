"""Dates as who reads now writes them; fields of forms that are not ours."""

from __future__ import annotations

from datetime import date, datetime

from django import template
from django.forms import BoundField, CheckboxInput
from django.utils import dateformat, timezone
from django.utils.safestring import SafeString

from sizing.base.reader import Dates, current

register = template.Library()
_WAYS: dict[Dates, str] = {"day_month": "j M Y", "month_day": "M j, Y", "iso": "Y-m-d"}


@register.filter
def day(when: date) -> str:
    """The day, such as '26 Nov 2026'; of a moment the day here."""
    here = timezone.localtime(when) if isinstance(when, datetime) else when
    return dateformat.format(here, _WAYS[current().dates])


@register.filter
def moment(when: datetime) -> str:
    """The day and the time of day."""
    return f"{day(when)}, {dateformat.format(timezone.localtime(when), 'H:i')}"


@register.filter
def control(field: BoundField) -> SafeString:
    """A field of a form that is not ours, with the look of our own."""
    ticked = isinstance(field.field.widget, CheckboxInput)
    return field.as_widget(attrs={"class": "form-check-input" if ticked else "form-control"})
