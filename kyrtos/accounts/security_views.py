"""Signing in, its second steps, and where one is signed in."""

from __future__ import annotations

from typing import Any, cast

from allauth.mfa.models import Authenticator
from allauth.mfa.recovery_codes.internal.auth import RecoveryCodes
from django import forms
from django.conf import settings
from django.contrib import messages
from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from kyrtos.accounts import addresses, first_run, sessions, whose
from kyrtos.accounts.audit import did, note_everywhere
from kyrtos.accounts.login_throttle import SignInForm, address_of
from kyrtos.accounts.models import User
from kyrtos.accounts.permissions import ShopRequest, in_any_shop, may, without_second_step
from kyrtos.accounts.proven import proven, sign_in_by_password
from kyrtos.config.middleware import signed_out


class SignIn(LoginView):
    """Name and password; then the second step, where there is one."""

    template_name = "accounts/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def dispatch(self, request: HttpRequest, *args: Any, **given: Any) -> HttpResponse:
        """An empty server asks for its first shop."""
        if first_run.is_empty():
            return redirect("begin")
        return cast(HttpResponse, super().dispatch(request, *args, **given))

    def form_valid(self, form: Any) -> HttpResponse:
        """Go on to the second step, or to where one wanted to go."""
        user = form.get_user()
        return sign_in_by_password(self.request, user, self.get_success_url())

    def get_context_data(self, **given: Any) -> dict[str, Any]:
        """With whether this server can send a mail."""
        return super().get_context_data(**given) | {"sends_mail": settings.SENDS_MAIL}


class SignOut(LogoutView):
    """The end of a session; a browser that knows the word forgets what it kept of our pages.

    Not what waits on a phone to be sent: that stays there until its typist is back.
    """

    def post(self, request: HttpRequest, *args: Any, **given: Any) -> HttpResponse:
        """Sign out."""
        answer = super().post(request, *args, **given)
        answer.headers["Clear-Site-Data"] = '"cache"'
        return answer


@require_safe
@may("see")
@without_second_step
def security(request: ShopRequest) -> HttpResponse:
    """Password, second steps, sessions and data of one's own."""
    user = cast(User, request.user)
    held = {one.type: one for one in Authenticator.objects.filter(user=user)}
    codes = held.get(Authenticator.Type.RECOVERY_CODES)
    context = {
        "address": addresses.confirmed(user),
        "claimed": addresses.claimed(user),
        "sends_mail": settings.SENDS_MAIL,
        "has_password": user.has_usable_password(),
        "app": held.get(Authenticator.Type.TOTP),
        "keys": Authenticator.objects.filter(user=user, type=Authenticator.Type.WEBAUTHN),
        "codes_left": len(RecoveryCodes(codes).get_unused_codes()) if codes else None,
        "demanded": request.membership.shop.second_step,
        "open_sessions": sessions.open_sessions(user),
        "here": request.session.session_key,
        "memberships": sessions.memberships_of(request),
    }
    return render(request, "accounts/security.html", context)


class AddressForm(forms.Form):
    """One's own address; a blank takes it away."""

    email = forms.EmailField(label="Your address", required=False)


@may("see")
@without_second_step
@proven
def address(request: ShopRequest) -> HttpResponse:
    """Another address of one's own, or the link to confirm it once more."""
    user = cast(User, request.user)
    form = AddressForm(request.POST or None, initial={"email": addresses.confirmed(user)})
    form.fields["email"].widget.attrs["class"] = "form-control"
    if request.method == "POST" and request.POST.get("do") == "again":
        sent = addresses.send_confirmation(user, request)
        said = "A link is on its way to it." if sent else "No mail could be sent."
        messages.info(request, said)
        return redirect("security")
    if request.method == "POST" and form.is_valid():
        sent = addresses.claim(user, form.cleaned_data["email"], request)
        note_everywhere(user, "own address changed", address=address_of(request))
        said = "It counts once you open the link that was sent to it." if sent else "Kept."
        messages.success(request, said)
        return redirect("security")
    status = 422 if form.is_bound else 200
    context = {"form": form, "sends_mail": settings.SENDS_MAIL}
    return render(request, "accounts/address.html", context, status=status)


def confirm_address(request: HttpRequest, key: str) -> HttpResponse:
    """The page that the link to an address leads to: whoever reads there says that it is theirs."""
    held = addresses.waiting(key)
    done = False
    if held is not None and request.method == "POST":
        done = addresses.confirm(held, request)
        held = None
    status = 200 if held or done else 410
    context = {"held": held, "done": done}
    response = render(request, "accounts/confirm_address.html", context, status=status)
    response.headers["Cache-Control"] = "no-store"
    return response


@require_POST
@may("see")
@without_second_step
def end_sessions(request: ShopRequest) -> HttpResponse:
    """Sign out everywhere else."""
    count = sessions.end_all(cast(User, request.user), but=request.session.session_key or "")
    did(request, "signed out everywhere else", f"{count} sessions")
    messages.success(request, f"Signed out in {count} other place{'' if count == 1 else 's'}.")
    return redirect("security")


@require_POST
@may("see")
@in_any_shop
@proven
def change_shop(request: ShopRequest, shop_id: int) -> HttpResponse:
    """Work in another of one's shops; then what was sent from a page of it is sent once more."""
    member = get_object_or_404(cast(User, request.user).memberships, shop_id=shop_id)
    if sessions.too_idle_for(request, member):
        return signed_out(request)
    sessions.work_in(request, member.shop_id)
    if "HX-Request" in request.headers:
        return HttpResponse(status=204)
    then = whose.next_page(request)
    if not then or not request.POST.get("do_again"):
        told = f"You work in {member.shop} now, as {member.get_role_display()}."
        messages.success(request, told)
        return redirect(then or "job-list")
    # after a proof that was asked for in between, the browser's own form is the one of the password
    if request.resolver_match and request.resolver_match.url_name == "change-shop":
        return HttpResponseRedirect(then, preserve_request=True)  # with all that was typed
    context = {
        "told": f"You work in {member.shop} now.",
        "here": then,
        "why": "",
        "sent": whose.sent_of(request),
    }
    return render(request, "accounts/send_again.html", context)
