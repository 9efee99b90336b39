"""Signing in, with a second factor where somebody has one, and out."""

from __future__ import annotations

import time
from typing import Any

from django import forms
from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView, LogoutView
from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import redirect, resolve_url
from django.utils.http import url_has_allowed_host_and_scheme
from django_otp import login as otp_login
from django_otp import match_token

from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.workshop.models import User, Workshop
from unkett.web.workshop.people import device_of
from unkett.web.workshop.permissions import EVERYONE
from unkett.web.workshop.security import FAILED, note, too_many_tries

HALF, HALF_S = "half signed in", 300
OFTEN = "Too many tries. Wait a quarter of an hour, or ask the owner for a new password."


class SignInForm(AuthenticationForm):
    """Django's own, refused before any password is worked on where an address failed too often."""

    def clean(self) -> Any:
        """Name and password."""
        if self.request is not None and too_many_tries(self.request):
            raise ValidationError(OFTEN)
        return super().clean()


class _SignIn(LoginView):
    template_name = "people/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        demo = Workshop.objects.filter(demo=True).exists()
        return super().get_context_data(**more) | {
            "demo": demo,
            "set_up": not Workshop.objects.filter(demo=False).exists(),
        }

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Sign in, or go on to the second factor."""
        user = form.get_user()
        if device_of(user) is None:
            return super().form_valid(form)
        self.request.session.cycle_key()
        self.request.session[HALF] = [user.pk, int(time.time()), self.get_redirect_url()]
        return redirect("workshop:second-factor")


sign_in = allowed(EVERYONE, "GET", "HEAD", "POST")(_SignIn.as_view())
sign_out = allowed(EVERYONE, "POST")(LogoutView.as_view())


class CodeForm(forms.Form):
    """The code that the device shows."""

    code = forms.CharField(max_length=12, strip=True)


@allowed(EVERYONE, "GET", "HEAD", "POST")
def second_factor(request: Request) -> HttpResponse:
    """Ask for the code of the second factor, within five minutes of the password."""
    user_id, at, to = request.session.get(HALF, [None, 0, ""])
    user = User.objects.filter(pk=user_id, is_active=True).first()
    if user is None or time.time() - at > HALF_S:
        return redirect("workshop:sign-in")
    if request.method != "POST":
        return answer(request, "people/second_factor.html", {"fault": ""})
    form = CodeForm(request.POST)
    device = (
        match_token(user, form.cleaned_data["code"])
        if form.is_valid() and not too_many_tries(request)
        else None
    )
    if device is None:
        note(FAILED, request, user=user, detail="second factor")
        return answer(request, "people/second_factor.html", {"fault": "That is not the code."}, status=422)
    login(request, user, backend="unkett.web.workshop.signed_in.WithWorkshop")
    otp_login(request, device)
    request.session.pop(HALF, None)
    safe = to and url_has_allowed_host_and_scheme(to, allowed_hosts={request.get_host()})
    return redirect(to if safe else resolve_url(settings.LOGIN_REDIRECT_URL))


def too_often(request: Request, _response: Any = None, _credentials: Any = None, *_more: Any) -> HttpResponse:
    """Show that there were too many attempts."""
    form = SignInForm(request)
    context = {"form": form, "often": OFTEN, "next": "", "demo": False, "set_up": False}
    return answer(request, "people/sign_in.html", None, status=429, **context)
