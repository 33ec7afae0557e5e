"""Coming in: by a link that an owner made, or as the first owner of an empty server."""

from __future__ import annotations

from typing import Any, cast

from django import forms
from django.contrib.auth import password_validation
from django.core.exceptions import ValidationError
from django.db import IntegrityError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render, resolve_url

from kyrtos.accounts import addresses, first_run, names, people, sessions
from kyrtos.accounts.models import User
from kyrtos.accounts.proven import sign_in_by_password
from kyrtos.shops import one_line
from kyrtos.shops.models import UNITS

_TAKEN = "This name, or one that looks like it, is or was somebody's: choose another."


class JoinForm(forms.ModelForm):  # type: ignore[type-arg]
    """The name and password by which a new person signs in."""

    password = forms.CharField(label="Password", strip=False, widget=forms.PasswordInput)
    again = forms.CharField(label="The same once more", strip=False, widget=forms.PasswordInput)

    class Meta:
        model = User
        fields = ("username", "first_name", "last_name", "email")
        labels = {
            "username": "Name to sign in by",
            "first_name": "First name",
            "last_name": "Last name",
            "email": "Your own address (for a new password by mail; it counts once you confirm it)",
        }

    def __init__(self, *args: Any, **given: Any) -> None:
        super().__init__(*args, **{"auto_id": "%s"} | given)
        for name, field in self.fields.items():
            field.widget.attrs["class"] = "form-select" if name == "units" else "form-control"
            if name in ("first_name", "last_name", "shop"):
                field.validators.append(one_line.judge)
            if "password" in name or name == "again":
                field.widget.attrs["autocomplete"] = "new-password"

    def clean_username(self) -> str:
        """A name that nobody has or had, and that looks like none of theirs."""
        name = str(self.cleaned_data["username"])
        names.judge(name)
        if User.objects.filter(name_key=names.key_of(name)).exists():
            raise ValidationError(_TAKEN)
        return name

    def made(self) -> User:
        """The person, not yet kept; their address is kept by :mod:`addresses`."""
        user = cast(User, self.save(commit=False))
        user.email = ""
        user.set_password(self.cleaned_data["password"])
        return user

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
    """A new person chooses name and password, and is in; who is signed in comes in as they are."""
    form = None
    try:
        link = people.found(token)
        if request.user.is_authenticated:
            if request.method == "POST":
                member = people.join(token, request.user)
                sessions.work_in(request, member.shop_id)
                return redirect("job-list")
        else:
            begun = {"email": link.email}  # in sight, and theirs to change
            form = JoinForm(request.POST if request.method == "POST" else None, initial=begun)
            if request.method == "POST" and form.is_valid():
                user = form.made()
                people.join(token, user)  # the same name twice at once: the second is refused
                addresses.claim(user, form.cleaned_data["email"], request)
                return _in(request, user)
    except IntegrityError:
        assert form is not None
        form.add_error("username", "Somebody took this name a moment ago: choose another.")
    except people.CannotChange as problem:
        told = {"problem": str(problem)}
        return render(request, "accounts/join.html", told, status=410)
    context = {"form": form, "to": link.shop, "as_role": link.get_role_display()}
    return _page(request, "accounts/join.html", context, form)


def _in(request: HttpRequest, user: User) -> HttpResponse:
    return sign_in_by_password(request, user, resolve_url("job-list"))


def _page(
    request: HttpRequest, template: str, context: dict[str, Any], form: JoinForm | None
) -> HttpResponse:
    status = 422 if form is not None and form.is_bound else 200
    response = render(request, template, context, status=status)
    response.headers["Cache-Control"] = "no-store"
    return response


class FirstShopForm(JoinForm):
    """The first shop, its owner, and the code that the server printed."""

    code = forms.CharField(label="Code that the server printed at its start")
    shop = forms.CharField(label="Name of the shop", max_length=120)
    units = forms.ChoiceField(label="Units", choices=UNITS)
    field_order = ["code", "shop", "units", "username", "first_name", "last_name", "email"]

    def clean_code(self) -> str:
        """The code is the one that was printed."""
        if not first_run.is_code(self.cleaned_data["code"]):
            raise ValidationError("This is not the code. ./run serve prints it at its start.")
        return str(self.cleaned_data["code"])


def begin(request: HttpRequest) -> HttpResponse:
    """The first-run page, while there is no shop."""
    if not first_run.is_empty():
        raise Http404("there is a shop already")
    form = FirstShopForm(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        user = form.made()
        shop = {"name": form.cleaned_data["shop"], "units": form.cleaned_data["units"]}
        first_run.begin(user, **shop)
        addresses.claim(user, form.cleaned_data["email"], request)
        return _in(request, user)
    return _page(request, "accounts/begin.html", {"form": form}, form)
