"""The owner's page of people, and the page that a link leads to."""

from __future__ import annotations

from typing import Any, cast

from allauth.mfa.models import Authenticator
from django import forms
from django.conf import settings
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from kyrtos.accounts import mail, people
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import Membership, Role, User
from kyrtos.accounts.permissions import ShopRequest, may
from kyrtos.accounts.proven import proven
from kyrtos.config import public

_MEANS = {
    Role.OWNER: "everything, with house rules, settings and people",
    Role.ESTIMATOR: "jobs, papers and the catalogue",
    Role.TECHNICIAN: "jobs",
    Role.VIEWER: "looks at everything, changes nothing",
}


class InviteForm(forms.Form):
    """For whom a link is, and what they will be."""

    email = forms.EmailField(label="For whom (an address, to tell the links apart)", required=False)
    role = forms.ChoiceField(
        label="As", choices=[(role.value, f"{role.label}: {_MEANS[role]}") for role in Role]
    )

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        for name, style in (("email", "form-control"), ("role", "form-select")):
            self.fields[name].widget.attrs["class"] = style


@may("set shop")
@proven
def people_page(request: ShopRequest) -> HttpResponse:
    """Who is in, which links are open, and a new link."""
    shop = request.membership.shop
    form, link, sent_to = InviteForm(initial={"role": Role.ESTIMATOR}), "", ""
    if request.method == "POST":
        form = InviteForm(request.POST)
        if form.is_valid():
            try:
                token = people.invite(shop, cast(User, request.user), **_reversed(form))
                did(request, "link made", ", ".join(filter(None, _reversed(form).values())))
                link = public.address(reverse("join", args=[token]))
                made = people.found(token)
                sent_to = made.email if mail.send_link(made, link) else ""
            except people.CannotChange as problem:
                form.add_error(None, str(problem))
    return _people(request, form, link=link, sent_to=sent_to)


def _people(request: ShopRequest, form: InviteForm, **told: Any) -> HttpResponse:
    shop = request.membership.shop
    members = list(shop.memberships.select_related("user").order_by("user__username"))
    with_step = set(
        Authenticator.objects.filter(user__in=[one.user_id for one in members])
        .exclude(type=Authenticator.Type.RECOVERY_CODES)
        .values_list("user_id", flat=True)
    )
    context = {
        "members": [(one, one.user_id in with_step) for one in members],
        "roles": Role.choices,
        "invitations": people.still_open(shop).select_related("by"),
        "form": form,
        "link": "",
        "sent_to": "",
        "link_for": None,
        "sends_mail": settings.SENDS_MAIL,
        "second_step": shop.second_step,
    } | told
    status = 422 if form.is_bound and form.errors else 200
    return render(request, "accounts/people.html", context, status=status)


def _reversed(form: InviteForm) -> dict[str, str]:
    return {name: form.cleaned_data[name] for name in ("role", "email")}


@require_POST
@may("set shop")
@proven
def change_member(request: ShopRequest, member_id: int) -> HttpResponse:
    """Another role, or out; help for who has lost the password or the second step."""
    shop = request.membership.shop
    member = get_object_or_404(Membership.objects.select_related("user"), pk=member_id, shop=shop)
    do, name = request.POST.get("do"), member.user.username
    try:
        if do == "take out":
            people.take_out(shop, member)
            did(request, "taken out", name)
            messages.success(request, f"{member.user} is out, and signed out everywhere.")
        elif do == "forget":
            shown = str(member.user)
            gone = people.forget(shop, member)
            did(request, "taken out and forgotten", name)
            kept = "they belong to another shop too, which keeps their name"
            told = "their name and address are gone" if gone else kept
            messages.success(request, f"{shown} is out, and {told}.")
        elif do == "password link" and member.user.has_usable_password():
            link = public.address(people.password_link(member))
            did(request, "password link made", name)
            return _people(request, InviteForm(), link=link, link_for=member.user)
        elif do == "clear second steps":
            people.clear_second_steps(member)
            did(request, "second steps cleared", name)
            messages.success(request, f"{member.user} signs in by password alone again.")
        elif request.POST.get("role") in Role.values:
            people.set_role(shop, member, request.POST["role"])
            did(request, "role changed", f"{name}: {member.role}")
            messages.success(request, f"{member.user} is {member.get_role_display()} now.")
    except people.CannotChange as problem:
        messages.error(request, f"Nothing was changed: {problem}.")
    return redirect("people")


@require_POST
@may("set shop")
def withdraw(request: ShopRequest, invitation_id: int) -> HttpResponse:
    """A link lets nobody in any more."""
    gone, _ = people.still_open(request.membership.shop).filter(pk=invitation_id).delete()
    if gone:
        did(request, "link withdrawn")
    return redirect("people")


@require_POST
@may("set shop")
def withdraw_all(request: ShopRequest) -> HttpResponse:
    """No link that is open lets anybody in any more."""
    gone = people.withdraw_all(request.membership.shop)
    if gone:
        did(request, "links withdrawn", f"{gone}")
        messages.success(request, "No open link is left.")
    return redirect("people")
