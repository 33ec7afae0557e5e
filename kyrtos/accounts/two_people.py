"""Two people on one form: what somebody else kept meanwhile is neither lost nor overwritten.

A form carries, sealed, what its fields showed when it was opened. When it comes back, a field that
one left alone is as the other made it; where both changed it differently, nothing is written, and
both are shown, to be sent again: the own by itself, or the other's by its button.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django import forms
from django.core import signing
from django.http import HttpRequest, QueryDict

FIELD, TAKE = "was", "take"
_SALT = "two people"
_SHOWN = 300
Form = TypeVar("Form", bound=forms.BaseForm)


def shown(form: forms.BaseForm) -> dict[str, str]:
    """What a browser would send of a form as it is opened: text by field; files apart."""
    found = {}
    for name, field in form.fields.items():
        if isinstance(field, forms.FileField) or field.widget.is_hidden:
            continue
        value = form[name].value()
        if isinstance(field, forms.BooleanField):
            found[name] = "on" if value else ""
        elif isinstance(field, forms.ChoiceField):
            found[name] = "" if value is None else str(value)
        else:
            found[name] = str(field.widget.format_value(value) or "")
    return found


def sealed(form: forms.BaseForm) -> str:
    """The state that a form is opened with, as it goes out and comes back."""
    held: str | None = getattr(form, "sealed_state", None)
    return held if held is not None else signing.dumps(shown(form), salt=_SALT, compress=True)


def opened(request: HttpRequest, make: Callable[[QueryDict | None], Form]) -> Form:
    """A form as it is opened, or as it came back, with what others kept meanwhile.

    ``make`` gives the form of the record as it stands now, unbound or with what was sent; the row
    is held by the caller. Fields that clash have an error, so that the form is not valid, and
    ``clashes`` names them; ``moved`` says whether anything is another now.
    """
    if request.method != "POST":
        return make(None)
    now = shown(make(None))
    was, data, clashes = _state(request), request.POST.copy(), {}
    took = set(request.POST.getlist(TAKE))
    for name, theirs in now.items():
        base, mine = was.get(name, theirs), data.get(name, "")
        changed = not _same(theirs, base) and not _same(mine, theirs)
        if name not in took and not changed:
            continue
        if name in took or _same(mine, base):
            data[name] = theirs
            if not theirs:
                del data[name]
        else:
            clashes[name] = theirs
    form = make(data)
    form.sealed_state = signing.dumps(now, salt=_SALT, compress=True)  # type: ignore[attr-defined]
    form.clashes = clashes  # type: ignore[attr-defined]
    moved = any(not _same(theirs, was.get(name, theirs)) for name, theirs in now.items())
    form.moved = moved  # type: ignore[attr-defined]
    for name, theirs in clashes.items():
        form.add_error(name, _told(form, name, theirs))
    return form


def status_of(form: forms.BaseForm) -> int:
    """409 for a form over another's change, 422 for one that is wrong, else 200."""
    if getattr(form, "clashes", None):
        return 409
    return 422 if form.is_bound else 200


def _state(request: HttpRequest) -> dict[str, str]:
    """What the form was opened with; nothing where it does not say (or lies)."""
    try:
        held = signing.loads(request.POST.get(FIELD, ""), salt=_SALT)
    except signing.BadSignature:
        return {}
    return held if isinstance(held, dict) else {}


def _same(one: str, other: str) -> bool:
    return one.replace("\r\n", "\n").strip() == other.replace("\r\n", "\n").strip()


def _told(form: Any, name: str, theirs: str) -> str:
    field = form.fields[name]
    if isinstance(field, forms.ChoiceField):
        choices: Any = field.choices
        theirs = str(dict(choices).get(theirs, theirs))
    elif isinstance(field, forms.BooleanField):
        theirs = "ticked" if theirs else "not ticked"
    short = theirs if len(theirs) <= _SHOWN else theirs[:_SHOWN] + " …"
    said = f"“{short}”" if short else "empty"
    return f"Somebody else changed this meanwhile: it is {said} now. Send yours again to keep it."
