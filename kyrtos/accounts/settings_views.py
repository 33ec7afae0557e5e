"""Settings: one's own, and those of the shop."""

from __future__ import annotations

from typing import cast

from allauth.account.adapter import get_adapter
from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.forms import PasswordChangeForm
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render

from kyrtos.accounts import two_people
from kyrtos.accounts.audit import did
from kyrtos.accounts.forms import OwnTermsForm, ShopTermsForm
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, may, without_second_step
from kyrtos.accounts.proven import proven
from kyrtos.config.middleware import takes
from kyrtos.shops.logo import LARGEST_LOGO
from kyrtos.shops.models import Shop
from kyrtos.shops.services import logo_address


def _sent(request: ShopRequest) -> QueryDict | None:
    return request.POST if request.method == "POST" else None


@may("see")
def own(request: ShopRequest) -> HttpResponse:
    """What one person prefers to read."""
    form = OwnTermsForm(_sent(request), instance=request.membership)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Kept. Pages are in these units from now on.")
        return redirect("settings")
    status = 422 if form.is_bound else 200
    context = {"form": form}
    return render(request, "accounts/settings.html", context, status=status)


class OwnPasswordForm(PasswordChangeForm):
    """The old password is guessed at no more often here than at signing in."""

    def clean_old_password(self) -> str:
        """Compared, counted and recorded as at signing in."""
        old = str(self.cleaned_data["old_password"])
        if not get_adapter().reauthenticate(self.user, old):
            code = "password_incorrect"
            raise ValidationError(self.error_messages[code], code=code)
        return old


@may("see")
@without_second_step
def password(request: ShopRequest) -> HttpResponse:
    """A new password of one's own; every other session of that person ends."""
    user = cast(User, request.user)
    if not user.has_usable_password():  # the people of the demonstration come in at a click
        raise Http404("no password is kept here")
    form = OwnPasswordForm(user, _sent(request))
    if request.method == "POST" and form.is_valid():
        form.save()
        update_session_auth_hash(request, user)
        did(request, "own password changed")
        messages.success(request, "The password is changed. You are signed out everywhere else.")
        return redirect("security")
    for field in form.fields.values():
        field.widget.attrs["class"] = "form-control"
    status = 422 if form.is_bound else 200
    return render(request, "accounts/password.html", {"form": form}, status=status)


_GUARDS = ("second_step", "idle_minutes")  # who changes these shows again who it is


def _keep(request: ShopRequest, form: ShopTermsForm) -> HttpResponse:
    names = [one.name for one in Shop._meta.fields if "revision" not in one.name]
    names = [one for one in names if one not in ("id", "published_digest")]
    form.save(commit=False).save(update_fields=names)  # an import may be counting on
    did(request, "settings of the shop changed")
    messages.success(request, "Kept. New jobs and papers follow; old ones stay as they are.")
    return redirect("shop-settings")


@takes(LARGEST_LOGO)
@may("set shop")
@transaction.atomic
def shop(request: ShopRequest) -> HttpResponse:
    """The shop's own terms, for its owner."""
    held = Shop.objects.select_for_update() if request.method == "POST" else Shop.objects.all()

    def make(sent: QueryDict | None) -> ShopTermsForm:
        found = held.get(pk=request.membership.shop_id)  # a form that fails must not show on
        return ShopTermsForm(sent, request.FILES or None if sent else None, instance=found)

    form = two_people.opened(request, make)
    if request.method == "POST" and form.is_valid():
        guards = [name for name in _GUARDS if name in form.changed_data]
        if not guards:
            return _keep(request, form)
        if not request.FILES:
            return proven(_keep)(request, form)
        form.add_error(guards[0], "Change this by itself, without a logo in the same form.")
    context = {"form": form, "logo": logo_address(request.membership.shop)}
    status = two_people.status_of(form)
    return render(request, "accounts/shop_settings.html", context, status=status)
