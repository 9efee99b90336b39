"""Signing in and out, and the owner's log."""

from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.web.workshop.models import LogLine
from unkett.web.workshop.permissions import EVERYONE, allowed

LOG_LINES = 200

sign_in = allowed(EVERYONE, "GET", "HEAD", "POST")(
    LoginView.as_view(template_name="workshop/sign_in.html", redirect_authenticated_user=True)
)
sign_out = allowed(EVERYONE, "POST")(LogoutView.as_view())


@allowed("see-log")
def log(request: HttpRequest) -> HttpResponse:
    """The latest actions of this workshop."""
    lines = (
        LogLine.objects.filter(workshop_id=request.user.workshop_id).select_related("actor").order_by("-at")
    )
    return render(request, "workshop/log.html", {"lines": lines[:LOG_LINES]})
