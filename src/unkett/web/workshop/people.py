"""The people of a workshop: its owner, invitations, roles, leaving; passwords, second factors, sessions."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any

from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from django.utils.crypto import constant_time_compare
from django_otp.plugins.otp_totp.models import TOTPDevice

from unkett.core.errors import Fault, InputError, bad
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import Invitation, Role, SignedIn, User, Workshop
from unkett.web.workshop.permissions import require
from unkett.web.workshop.security import end_sessions, note
from unkett.web.workshop.services import log

GOOD_FOR = datetime.timedelta(days=7)
_SIGNER = Signer(salt="unkett.invitation", sep="~")
NAMES = {"workshop": 120, "first_name": 80, "username": 60}


def people_seen_by(actor: User) -> QuerySet[User]:
    """Everybody who works or worked in the actor's workshop."""
    return User.objects.filter(workshop_id=actor.workshop_id)


def may_set_up(code: str) -> bool:
    """Return whether this is the code that the start command printed, and no workshop was set up yet."""
    wanted = str(settings.CONFIG.get("set_up_code", ""))
    return (
        bool(wanted)
        and constant_time_compare(code.strip().lower(), wanted)
        and not Workshop.objects.filter(demo=False).exists()
    )


def _checked_person(values: Mapping[str, str], names: tuple[str, ...]) -> dict[str, str]:
    """Names and a new password. Raises InputError with all that is wrong."""
    clean = {name: " ".join(values.get(name, "").split()) for name in names}
    faults = [
        Fault(path=name, says=f"enter 1 to {NAMES[name]} characters")
        for name in names
        if not 1 <= len(clean[name]) <= NAMES[name]
    ]
    username = clean.get("username", "")
    if username and not username.isprintable():
        faults.append(Fault(path="username", says="letters, figures and signs only"))
    if username and User.objects.filter(username__iexact=username).exists():
        faults.append(Fault(path="username", says="somebody signs in by that name already"))
    faults += _password_faults(
        values.get("password", ""), User(username=username, first_name=clean.get("first_name", ""))
    )
    if faults:
        raise InputError(faults)
    return clean


def _password_faults(password: str, user: User) -> list[Fault]:
    try:
        validate_password(password, user)
    except ValidationError as error:
        return [Fault(path="password", says=says) for says in error.messages]
    return []


@transaction.atomic
def set_up_workshop(*, code: str, values: Mapping[str, str]) -> User:
    """Set up the first workshop with its owner, by the code that was printed. Raises NotThere, InputError."""
    list(Workshop.objects.select_for_update().order_by("pk"))  # two at once make one
    if not may_set_up(code):
        raise NotThere
    clean = _checked_person(values, ("workshop", "first_name", "username"))
    workshop = Workshop.objects.create(name=clean["workshop"])
    return _new_person(workshop, clean, Role.OWNER, values["password"], "set up")


def _new_person(workshop: Workshop, clean: Mapping[str, str], role: str, password: str, verb: str) -> User:
    user = User(username=clean["username"], first_name=clean["first_name"], workshop=workshop, role=role)
    user.set_password(password)
    user.save()
    log(user, verb, user, after={"role": role})
    return user


# invitations


def link_of(invitation: Invitation) -> str:
    """Return what its link ends in; nobody can guess it who has not the secret of this installation."""
    return _SIGNER.sign(str(invitation.pk))


def invitation_by(link: str) -> Invitation | None:
    """Return the open invitation of a link."""
    try:
        pk = int(_SIGNER.unsign(link))
    except (BadSignature, ValueError):
        return None
    found = Invitation.objects.select_related("workshop", "user").filter(pk=pk).first()
    return found if found is not None and found.is_open else None


@transaction.atomic
def invite(*, actor: User, name: str, role: str) -> Invitation:
    """Invite somebody by a link. Raises InputError naming the field."""
    require(actor, "change-people")
    if not 1 <= len(name.strip()) <= NAMES["first_name"]:
        raise bad("name", f"enter a name of 1 to {NAMES['first_name']} characters")
    if role not in Role.values:
        raise bad("role", f"{role!r} given; one of {', '.join(Role.values)} allowed")
    made = Invitation.objects.create(
        workshop_id=actor.workshop_id, name=name.strip(), role=role, made_by=actor,
        until=timezone.now() + GOOD_FOR,
    )  # fmt: skip
    log(actor, "invite", made, after={"role": role})
    note("invitation", None, user=actor, name=made.name, detail=role)
    return made


@transaction.atomic
def new_password_link(*, actor: User, user_id: int) -> Invitation:
    """Make a link by which somebody who forgot the password chooses a new one. Raises NotThere."""
    require(actor, "change-people")
    user = people_seen_by(actor).filter(pk=user_id, is_active=True).first()
    if user is None:
        raise NotThere
    made = Invitation.objects.create(
        workshop_id=actor.workshop_id, name=user.called, role=user.role, user=user, made_by=actor,
        until=timezone.now() + GOOD_FOR,
    )  # fmt: skip
    log(actor, "new password link", user)
    note("new password link", None, user=actor, name=user.username)
    return made


@transaction.atomic
def withdraw_invitation(*, actor: User, invitation_id: int) -> Invitation:
    """Withdraw an invitation. Raises NotThere."""
    require(actor, "change-people")
    mine = Invitation.objects.filter(workshop_id=actor.workshop_id).select_for_update()
    found = mine.filter(pk=invitation_id).first()
    if found is None:
        raise NotThere
    found.withdrawn_at = found.withdrawn_at or timezone.now()
    found.save(update_fields=["withdrawn_at"])
    log(actor, "withdraw invitation", found)
    return found


@transaction.atomic
def take_up(*, link: str, values: Mapping[str, str]) -> User:
    """Accept an invitation, with a name to sign in by and a password. Raises NotThere, InputError."""
    found = invitation_by(link)
    held = Invitation.objects.select_for_update().filter(pk=found.pk if found else 0).first()
    if found is None or held is None or not held.is_open:
        raise NotThere
    if found.user is not None:
        faults = _password_faults(values.get("password", ""), found.user)
        if faults:
            raise InputError(faults)
        user = User.objects.select_for_update().get(pk=found.user.pk)
        if not user.is_active:
            raise NotThere
        user.set_password(values["password"])
        user.save(update_fields=["password"])
        end_sessions(user)
        log(user, "new password", user)
    else:
        clean = _checked_person(values, ("first_name", "username"))
        user = _new_person(found.workshop, clean, found.role, values["password"], "take up invitation")
    held.used_at = timezone.now()
    held.save(update_fields=["used_at"])
    note("invitation taken up", None, user=user)
    return user


# roles and leaving


def _held(actor: User, user_id: int) -> User:
    """Somebody of the workshop; its people are locked, so that two owners cannot both leave at once."""
    require(actor, "change-people")
    people = {one.pk: one for one in people_seen_by(actor).select_for_update().order_by("pk")}
    if user_id not in people:
        raise NotThere
    return people[user_id]


def _refuse_last_owner(actor: User, user: User) -> None:
    owners = people_seen_by(actor).filter(role=Role.OWNER, is_active=True).exclude(pk=user.pk)
    if user.role == Role.OWNER and not owners.exists():
        raise Refused("A workshop keeps one owner at least: make somebody else owner first.")


@transaction.atomic
def change_role(*, actor: User, user_id: int, role: str) -> User:
    """Change somebody's role. Raises NotThere, InputError; refused for the last owner."""
    user = _held(actor, user_id)
    if role not in Role.values:
        raise bad("role", f"{role!r} given; one of {', '.join(Role.values)} allowed")
    if role == user.role:
        return user
    _refuse_last_owner(actor, user)
    before, user.role = user.role, role
    user.save(update_fields=["role"])
    log(actor, "change role", user, before={"role": before}, after={"role": role})
    note("role changed", None, user=actor, name=user.username, detail=f"{before} to {role}")
    return user


@transaction.atomic
def let_go(*, actor: User, user_id: int, active: bool) -> User:
    """Record that somebody leaves, or comes back; their work stays under their name. Refused for the last owner."""
    user = _held(actor, user_id)
    if user.is_active == active:
        return user
    if not active:
        _refuse_last_owner(actor, user)
        end_sessions(user)
    user.is_active = active
    user.save(update_fields=["is_active"])
    log(actor, "take back" if active else "let go", user)
    note("account opened" if active else "account closed", None, user=actor, name=user.username)
    return user


@transaction.atomic
def drop_second_factor(*, actor: User, user_id: int) -> User:
    """Drop somebody's lost second factor. Raises NotThere."""
    user = _held(actor, user_id)
    TOTPDevice.objects.filter(user=user).delete()
    log(actor, "drop second factor", user)
    note("second factor dropped", None, user=actor, name=user.username)
    return user


# one's own account


@transaction.atomic
def change_password(*, actor: User, old: str, new: str, session_key: str) -> User:
    """Change one's own password; every other session ends. Raises InputError naming the field."""
    require(actor, "own-units")
    user = User.objects.select_for_update().get(pk=actor.pk)
    faults = [] if user.check_password(old) else [Fault(path="old", says="this is not the password")]
    faults += [Fault(path="new", says=fault.says) for fault in _password_faults(new, user)]
    if faults:
        raise InputError(faults)
    user.set_password(new)
    user.save(update_fields=["password"])
    end_sessions(user, but=session_key)
    log(actor, "new password", user)
    note("password changed", None, user=user)
    return user


@transaction.atomic
def end_session(*, actor: User, signed_in_id: int) -> None:
    """End one of one's own sessions. Raises NotThere."""
    require(actor, "own-units")
    found = SignedIn.objects.filter(user=actor, pk=signed_in_id).first()
    if found is None:
        raise NotThere
    Session.objects.filter(session_key=found.session_key).delete()
    found.delete()
    log(actor, "end session", actor)


def device_of(user: User) -> Any:
    """Return the confirmed device of somebody's second factor."""
    return TOTPDevice.objects.filter(user=user, confirmed=True).first()


@transaction.atomic
def begin_second_factor(*, actor: User) -> Any:
    """Begin a second factor: a device that waits for its first code, a new secret each time. Refused where one is
    confirmed.
    """
    require(actor, "own-units")
    if device_of(actor) is not None:
        raise Refused("A second factor is set up already: end it first.")
    TOTPDevice.objects.filter(user=actor).delete()
    return TOTPDevice.objects.create(user=actor, name="unkett", confirmed=False)


@transaction.atomic
def confirm_second_factor(*, actor: User, code: str) -> None:
    """Confirm a second factor by its first code; from now on it is required. Raises InputError for a wrong one."""
    require(actor, "own-units")
    device = TOTPDevice.objects.select_for_update().filter(user=actor, confirmed=False).first()
    if device is None:
        raise NotThere
    if not device.verify_token(code.strip()):
        raise bad("code", "this is not the code that the device shows now")
    device.confirmed = True
    device.save()
    log(actor, "second factor", actor)
    note("second factor set up", None, user=actor)


@transaction.atomic
def end_second_factor(*, actor: User, password: str) -> None:
    """End a second factor. Raises InputError for a wrong password."""
    require(actor, "own-units")
    if not actor.check_password(password):
        raise bad("password", "this is not the password")
    TOTPDevice.objects.filter(user=actor).delete()
    log(actor, "drop second factor", actor)
    note("second factor dropped", None, user=actor, name=actor.username)
