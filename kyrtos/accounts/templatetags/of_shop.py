"""The shop that a form is of, as a hidden field of it; it needs no loading."""

from __future__ import annotations

from typing import Any

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from kyrtos.accounts.whose import FIELD

register = template.Library()


@register.simple_tag(takes_context=True)
def of_shop(context: Any) -> SafeString:
    """Beside the form's token; nothing where nobody is signed in."""
    request = getattr(context, "request", None)
    membership = getattr(request, "membership", None)
    if not membership:
        return SafeString("")
    return format_html('<input type="hidden" name="{}" value="{}">', FIELD, membership.shop_id)
