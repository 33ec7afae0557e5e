"""Hidden fields of a form: its shop, the state it was opened with, an id to be done once by.

They need no loading.
"""

from __future__ import annotations

import uuid
from typing import Any

from django import template
from django.forms import BaseForm
from django.utils.html import format_html
from django.utils.safestring import SafeString

from kyrtos.accounts import once as once_only
from kyrtos.accounts import two_people
from kyrtos.accounts.whose import FIELD

register = template.Library()
_ENTER = SafeString('<button type="submit" hidden></button>')


@register.simple_tag(takes_context=True)
def of_shop(context: Any) -> SafeString:
    """Beside the form's token; nothing where nobody is signed in."""
    request = getattr(context, "request", None)
    membership = getattr(request, "membership", None)
    if not membership:
        return SafeString("")
    return _hidden(FIELD, str(membership.shop_id))


@register.simple_tag
def was(form: BaseForm) -> SafeString:
    """What a form showed when it was opened.

    Where others' values are offered by buttons, the Enter key still sends one's own.
    """
    first = _ENTER if getattr(form, "clashes", None) else ""
    return format_html("{}{}", first, _hidden(two_people.FIELD, two_people.sealed(form)))


@register.simple_tag
def once(form: BaseForm | None = None) -> SafeString:
    """An id for what is sent from this form; one that came back keeps its own."""
    own = form.data.get(once_only.FIELD, "") if form is not None and form.is_bound else ""
    return _hidden(once_only.FIELD, own or str(uuid.uuid4()))


def _hidden(name: str, value: str) -> SafeString:
    return format_html('<input type="hidden" name="{}" value="{}">', name, value)
