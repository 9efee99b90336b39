"""The owner's page of people: who works here in which role, invited, let go; and what an invited one sees first."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.contrib.auth import login
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.debug import sensitive_post_parameters

from unkett.core.errors import Fault, InputError
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.show.fields import by_name
from unkett.web.workshop import people
from unkett.web.workshop.models import Invitation, Role, User
from unkett.web.workshop.permissions import EVERYONE

BACKEND = "unkett.web.workshop.signed_in.WithWorkshop"


@frozen(kw_only=True, slots=False)
class TeamPage:
    """Everybody of the workshop and the invitations that are open."""

    actor: User
    here: str  # the address of this installation, before a link's path
    typed: Mapping[str, str] = field(factory=dict)
    wrong: Mapping[str, Fault] = field(factory=dict)

    @cached_property
    def people(self) -> list[tuple[User, bool]]:
        """Each with whether a second factor is asked for."""
        found = people.people_seen_by(self.actor).order_by("-is_active", "first_name", "pk")
        return [(one, people.device_of(one) is not None) for one in found]

    @cached_property
    def invitations(self) -> list[tuple[Invitation, str]]:
        """The open ones with their links."""
        mine = Invitation.objects.filter(workshop_id=self.actor.workshop_id).select_related("user")
        return [
            (one, self.here + reverse("workshop:join", args=[people.link_of(one)]))
            for one in mine
            if one.is_open
        ]

    @property
    def roles(self) -> list[tuple[str, str]]:
        return list(Role.choices)


def _show(request: Request, status: int = 200, **more: Any) -> HttpResponse:
    page = TeamPage(actor=request.user, here=request.build_absolute_uri("/")[:-1], **more)
    return answer(request, "people/team.html", page, status=status)


@allowed("change-people")
def team(request: Request) -> HttpResponse:
    """Show the team."""
    return _show(request)


class InviteForm(forms.Form):
    """Whom, as what."""

    name = forms.CharField(max_length=400, strip=True)
    role = forms.CharField(max_length=20)


@allowed("change-people", "POST")
def invite(request: Request) -> HttpResponse:
    """Invite somebody; the link is shown on the page."""
    try:
        people.invite(actor=request.user, **clean(InviteForm(request.POST)))
    except InputError as error:
        return _show(request, 422, typed=request.POST, wrong=by_name(error.faults))
    return redirect("workshop:team")


@allowed("change-people", "POST")
def withdraw(request: Request, invitation_id: int) -> HttpResponse:
    """Withdraw an invitation."""
    people.withdraw_invitation(actor=request.user, invitation_id=invitation_id)
    return redirect("workshop:team")


class RoleForm(forms.Form):
    role = forms.CharField(max_length=20)


@allowed("change-people", "POST")
def role(request: Request, user_id: int) -> HttpResponse:
    """Change a role."""
    people.change_role(actor=request.user, user_id=user_id, **clean(RoleForm(request.POST)))
    return redirect("workshop:team")


class ActiveForm(forms.Form):
    active = forms.BooleanField(required=False)


@allowed("change-people", "POST")
def active(request: Request, user_id: int) -> HttpResponse:
    """Record that somebody leaves, or comes back."""
    people.let_go(actor=request.user, user_id=user_id, **clean(ActiveForm(request.POST)))
    return redirect("workshop:team")


@allowed("change-people", "POST")
def new_password(request: Request, user_id: int) -> HttpResponse:
    """Make a link for a new password."""
    people.new_password_link(actor=request.user, user_id=user_id)
    return redirect("workshop:team")


@allowed("change-people", "POST")
def drop_factor(request: Request, user_id: int) -> HttpResponse:
    """Drop a lost second factor."""
    people.drop_second_factor(actor=request.user, user_id=user_id)
    return redirect("workshop:team")


# before anybody is signed in


class PersonForm(forms.Form):
    """A name, one to sign in by, a password."""

    code = forms.CharField(required=False, max_length=40, strip=True)
    workshop = forms.CharField(required=False, max_length=400, strip=True)
    first_name = forms.CharField(required=False, max_length=400, strip=True)
    username = forms.CharField(required=False, max_length=400, strip=True)
    password = forms.CharField(required=False, max_length=200, strip=False)


@frozen(kw_only=True)
class JoinPage:
    """What is asked of somebody new; `invitation` is None where a workshop is set up."""

    invitation: Invitation | None = None
    typed: Mapping[str, str] = field(factory=dict)
    wrong: Mapping[str, Fault] = field(factory=dict)

    @property
    def asks_name(self) -> bool:
        return self.invitation is None or self.invitation.user is None


@sensitive_post_parameters("password")
@allowed(EVERYONE, "GET", "HEAD", "POST")
def join(request: Request, link: str) -> HttpResponse:
    """Accept an invitation, then sign in and go to the Yard."""
    found = people.invitation_by(link)
    if found is None:
        raise Http404
    if request.method != "POST":
        return answer(
            request, "people/join.html", JoinPage(invitation=found, typed={"first_name": found.name})
        )
    try:
        user = people.take_up(link=link, values=clean(PersonForm(request.POST)))
    except InputError as error:
        page = JoinPage(invitation=found, typed=request.POST, wrong=by_name(error.faults))
        return answer(request, "people/join.html", page, status=422)
    if people.device_of(user) is None:
        login(request, user, backend=BACKEND)
    return redirect("bikes:yard")


@sensitive_post_parameters("password", "code")
@allowed(EVERYONE, "GET", "HEAD", "POST")
def set_up(request: Request) -> HttpResponse:
    """Set up the first workshop, by the code that the start command printed."""
    if request.method != "POST":
        return answer(request, "people/join.html", JoinPage())
    data = clean(PersonForm(request.POST))
    if not people.may_set_up(data["code"]):
        wrong = {"code": Fault(path="code", says="this is not the code that was printed at the last start")}
        return answer(request, "people/join.html", JoinPage(typed=request.POST, wrong=wrong), status=422)
    try:
        user = people.set_up_workshop(code=data["code"], values=data)
    except InputError as error:
        return answer(
            request, "people/join.html", JoinPage(typed=request.POST, wrong=by_name(error.faults)), status=422
        )
    login(request, user, backend=BACKEND)
    return redirect("bikes:yard")
