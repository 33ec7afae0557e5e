"""The owner's page of people, and the page that a link leads to."""

from __future__ import annotations

from typing import Any, cast

from django import forms
from django.contrib import messages
from django.contrib.auth import login, password_validation
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from kyrtos.accounts import people
from kyrtos.accounts.audit import did
from kyrtos.accounts.models import Membership, Role, User
from kyrtos.accounts.permissions import ShopRequest, may

_MODEL_BACKEND = "django.contrib.auth.backends.ModelBackend"
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
def people_page(request: ShopRequest) -> HttpResponse:
    """Who is in, which links are open, and a new link."""
    shop = request.membership.shop
    form, link = InviteForm(initial={"role": Role.ESTIMATOR}), ""
    if request.method == "POST":
        form = InviteForm(request.POST)
        if form.is_valid():
            try:
                token = people.invite(shop, cast(User, request.user), **_reversed(form))
                did(request, "link made", ", ".join(filter(None, _reversed(form).values())))
                link = request.build_absolute_uri(reverse("join", args=[token]))
            except people.CannotChange as problem:
                form.add_error(None, str(problem))
    context = {
        "members": shop.memberships.select_related("user").order_by("user__username"),
        "roles": Role.choices,
        "invitations": people.still_open(shop).select_related("by"),
        "form": form,
        "link": link,
    }
    status = 422 if form.is_bound and form.errors else 200
    return render(request, "accounts/people.html", context, status=status)


def _reversed(form: InviteForm) -> dict[str, str]:
    return {name: form.cleaned_data[name] for name in ("role", "email")}


@require_POST
@may("set shop")
def change_member(request: ShopRequest, member_id: int) -> HttpResponse:
    """Another role, or out."""
    shop = request.membership.shop
    member = get_object_or_404(Membership.objects.select_related("user"), pk=member_id, shop=shop)
    try:
        if request.POST.get("do") == "take out":
            people.take_out(shop, member)
            did(request, "taken out", member.user.username)
            messages.success(request, f"{member.user} is out, and signed out everywhere.")
        elif request.POST.get("role") in Role.values:
            people.set_role(shop, member, request.POST["role"])
            did(request, "role changed", f"{member.user.username}: {member.role}")
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


class JoinForm(forms.ModelForm):  # type: ignore[type-arg]
    """The name and password by which a new person signs in."""

    password = forms.CharField(label="Password", strip=False, widget=forms.PasswordInput)
    again = forms.CharField(label="The same once more", strip=False, widget=forms.PasswordInput)

    class Meta:
        model = User
        fields = ("username", "first_name", "last_name")
        labels = {
            "username": "Name to sign in by",
            "first_name": "First name",
            "last_name": "Last name",
        }

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        for name, field in self.fields.items():
            field.widget.attrs["class"] = "form-control"
            if "password" in name or name == "again":
                field.widget.attrs["autocomplete"] = "new-password"

    def clean(self) -> dict[str, Any]:
        """The password is long, uncommon, unlike the name, and typed twice alike."""
        given = dict(super().clean() or {})
        password, again = given.get("password"), given.get("again")
        if password is not None:
            named = User(**{name: given.get(name, "") for name in self._meta.fields or ()})
            try:
                password_validation.validate_password(password, named)
            except ValidationError as problem:
                self.add_error("password", problem)
            if again not in (None, password):
                self.add_error("again", "The two are not the same.")
        return given


def join(request: HttpRequest, token: str) -> HttpResponse:
    """A new person chooses name and password, and is in."""
    try:
        link = people.found(token)
        form = JoinForm(request.POST if request.method == "POST" else None)
        if request.method == "POST" and form.is_valid():
            user = form.save(commit=False)
            user.email = link.email
            user.set_password(form.cleaned_data["password"])
            people.join(token, user)
            login(request, user, backend=_MODEL_BACKEND)
            return redirect("job-list")
    except people.CannotChange as problem:
        told = {"problem": str(problem)}
        return render(request, "accounts/join.html", told, status=410)
    context = {"form": form, "to": link.shop, "as_role": link.get_role_display()}
    status = 422 if form.is_bound else 200
    response = render(request, "accounts/join.html", context, status=status)
    response.headers["Cache-Control"] = "no-store"
    return response
