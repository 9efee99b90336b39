"""A workshop set up, its people, sign-in with its limits and second factor, sessions, the security log."""

import json
import logging
import os
import re
import subprocess
import sys
from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.local.state import PROJECT, load_config
from unkett.web.pages import health
from unkett.web.site.logs import JsonLines
from unkett.web.workshop import people
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import Invitation, SecurityEvent, SignedIn, User, Workshop

PASSWORD = "a long pass phrase"
NEW = "quite another phrase"


@pytest.fixture
def code(settings) -> str:
    settings.CONFIG = {**settings.CONFIG, "set_up_code": "abcd-efgh-jkmn"}
    return "abcd-efgh-jkmn"


def sign_in(client, name, password=PASSWORD, **more):
    return client.post(reverse("workshop:sign-in"), {"username": name, "password": password}, **more)


def said(workshop=None) -> list[str]:
    lines = SecurityEvent.objects.filter(workshop=workshop) if workshop else SecurityEvent.objects.all()
    return list(lines.order_by("pk").values_list("what", flat=True))


def test_a_workshop_is_set_up_by_the_printed_code(client, db, code) -> None:
    Workshop.objects.create(name="Demonstration", demo=True)
    url = reverse("workshop:set-up")
    assert reverse("workshop:set-up") in client.get(reverse("workshop:sign-in")).text
    typed = {
        "code": code,
        "workshop": "North Quay",
        "first_name": "Sigga",
        "username": "sigga",
        "password": NEW,
    }
    for wrong in ({"code": "abcd-efgh-jkmx"}, {"password": "short"}, {"password": "password1234"}, {"workshop": " "},
                  {"username": ""}, {"password": "123456789012"}):  # fmt: skip
        answer = client.post(url, {**typed, **wrong})
        assert answer.status_code == 422
        assert 'aria-invalid="true"' in answer.text
    assert not User.objects.exists()
    assert client.post(url, typed).url == "/"
    owner = User.objects.get()
    assert (owner.role, owner.workshop.name, owner.workshop.demo) == ("owner", "North Quay", False)
    assert "North Quay" in client.get("/").text
    assert Client().post(url, {**typed, "username": "other"}).status_code == 422  # once
    assert reverse("workshop:set-up") not in Client().get(reverse("workshop:sign-in")).text


def test_somebody_is_invited_and_comes(client, owner) -> None:
    client.force_login(owner)
    assert (
        client.post(reverse("workshop:invite"), {"name": "", "role": "mechanic", "once": ""}).status_code
        == 422
    )
    assert (
        client.post(reverse("workshop:invite"), {"name": "Tam", "role": "king", "once": ""}).status_code
        == 422
    )
    client.post(reverse("workshop:invite"), {"name": "Tam", "role": "apprentice", "once": ""})
    link = re.search(r"http://testserver(/join/[^\"]+)", client.get(reverse("workshop:team")).text)[1]
    new = Client()
    assert (
        new.post(link, {"first_name": "Tam", "username": owner.username.upper(), "password": NEW}).status_code
        == 422
    )
    assert (
        new.post(link, {"first_name": "Tam", "username": "tam", "password": "tam tam tam tam"}).status_code
        == 302
    )
    tam = User.objects.get(username="tam")
    assert (tam.role, tam.workshop_id) == ("apprentice", owner.workshop_id)
    assert new.get("/").status_code == 200
    assert Client().get(link).status_code == 404  # good once
    assert [one for one in said(owner.workshop) if "invitation" in one] == [
        "invitation",
        "invitation taken up",
    ]


@pytest.mark.parametrize("end", ["withdrawn", "late", "forged"])
def test_an_invitation_ends(client, owner, end) -> None:
    made = people.invite(actor=owner, name="Tam", role="mechanic")
    link = people.link_of(made)
    if end == "withdrawn":
        people.withdraw_invitation(actor=owner, invitation_id=made.pk)
    elif end == "late":
        Invitation.objects.update(until=timezone.now() - timedelta(seconds=1))
    else:
        link = f"{made.pk}~{'x' * 43}"
    assert client.get(reverse("workshop:join", args=[link])).status_code == 404
    with pytest.raises(NotThere):
        people.take_up(link=link, values={"first_name": "T", "username": "t", "password": NEW})


def test_a_forgotten_password_is_chosen_anew(client, owner) -> None:
    sign_in(client, owner.username)
    made = people.new_password_link(actor=owner, user_id=owner.pk)
    other = Client()
    url = reverse("workshop:join", args=[people.link_of(made)])
    assert other.post(url, {"password": "short"}).status_code == 422
    assert other.post(url, {"password": NEW}).status_code == 302
    assert client.get("/").status_code == 302  # the old session ended
    assert sign_in(Client(), owner.username, NEW).status_code == 302


def test_roles_change_and_the_last_owner_stays(client, owner, django_user_model) -> None:
    other = django_user_model.objects.create_user(
        "tam", password=PASSWORD, workshop=owner.workshop, role="mechanic"
    )
    theirs = Client()
    sign_in(theirs, "tam")
    with pytest.raises(Refused, match="one owner"):
        people.change_role(actor=owner, user_id=owner.pk, role="mechanic")
    with pytest.raises(Refused, match="one owner"):
        people.let_go(actor=owner, user_id=owner.pk, active=False)
    with pytest.raises(InputError):
        people.change_role(actor=owner, user_id=other.pk, role="king")
    client.force_login(owner)
    assert (
        client.post(
            reverse("workshop:person-role", args=[other.pk]), {"role": "owner", "once": ""}
        ).status_code
        == 302
    )
    people.let_go(actor=owner, user_id=other.pk, active=False)
    assert theirs.get("/").status_code == 302
    assert sign_in(Client(), "tam").status_code == 200  # not let in
    assert said(owner.workshop)[-3:] == ["role changed", "account closed", "failed sign-in"]
    assert "Works here again" in client.get(reverse("workshop:team")).text


def test_tries_are_counted_by_account_and_address(client, owner) -> None:
    """Five from one address stop that address for that account; the owner elsewhere is not locked out."""
    for _ in range(5):
        answer = sign_in(client, owner.username, "wrong wrong wrong", REMOTE_ADDR="10.0.0.66")
    assert answer.status_code == 429
    assert sign_in(client, owner.username, REMOTE_ADDR="10.0.0.66").status_code == 429
    assert sign_in(Client(), owner.username, REMOTE_ADDR="10.0.0.7").status_code == 302
    assert said().count("failed sign-in") >= 5


def test_one_address_cannot_burn_the_processor(client, owner, monkeypatch) -> None:
    SecurityEvent.objects.bulk_create(
        SecurityEvent(what="failed sign-in", address="10.0.0.66", name=f"n{n}") for n in range(50)
    )
    monkeypatch.setattr(
        "django.contrib.auth.hashers.verify_password", lambda *_: pytest.fail("a password was worked on")
    )
    assert "Too many tries" in sign_in(client, owner.username, REMOTE_ADDR="10.0.0.66").text


def test_a_second_factor_is_asked_for(client, owner) -> None:
    sign_in(client, owner.username)
    shown = client.post(reverse("workshop:factor-begin"), {"once": ""})
    assert "<svg" in shown.text
    device = TOTPDevice.objects.get()
    typed = re.search(r'there: <span class="num">([A-Z2-7 ]+)<', shown.text)[1].replace(" ", "")
    assert f"secret={typed}" in device.config_url.replace("%3D", "")

    def now() -> str:
        return f"{totp(device.bin_key):06d}"

    assert client.post(reverse("workshop:factor-confirm"), {"code": "000000", "once": ""}).status_code == 422
    TOTPDevice.objects.update(throttling_failure_timestamp=None, throttling_failure_count=0)
    assert client.post(reverse("workshop:factor-confirm"), {"code": now(), "once": ""}).status_code == 302
    other = Client()
    assert sign_in(other, owner.username).url == reverse("workshop:second-factor")
    assert other.get("/").status_code == 302
    ask = reverse("workshop:second-factor")
    assert other.post(ask, {"code": "000000"}).status_code == 422
    TOTPDevice.objects.update(throttling_failure_timestamp=None, throttling_failure_count=0, last_t=-1)
    assert other.post(ask, {"code": now()}).url == "/"
    assert other.get("/").status_code == 200
    assert Client().get(ask).url.startswith(reverse("workshop:sign-in"))
    assert client.post(reverse("workshop:factor-end"), {"password": "no", "once": ""}).status_code == 422
    assert client.post(reverse("workshop:factor-end"), {"password": PASSWORD, "once": ""}).status_code == 302
    assert sign_in(Client(), owner.username).url == "/"


def test_ones_own_password_and_sessions(client, owner) -> None:
    sign_in(client, owner.username, HTTP_USER_AGENT="Stand tablet")
    other = Client()
    sign_in(other, owner.username)
    mine = client.get(reverse("workshop:own-units")).text
    assert "Stand tablet" in mine
    form = next(form for form in forms_of(mine) if "/sessions/" in form.action)
    assert client.post(form.action, form.fields).status_code == 302
    assert other.get("/").status_code == 302
    third = Client()
    sign_in(third, owner.username)
    url = reverse("workshop:password")
    for old, new in (("wrong", NEW), (PASSWORD, "short"), (PASSWORD, "1234567890123")):
        assert client.post(url, {"old": old, "new": new, "once": ""}).status_code == 422
    assert client.post(url, {"old": PASSWORD, "new": NEW, "once": ""}).status_code == 302
    assert client.get("/").status_code == 200
    assert third.get("/").status_code == 302
    assert SignedIn.objects.filter(user=owner).count() == 1


def test_a_session_nobody_uses_ends_and_a_click_moves_its_end(client, owner, settings) -> None:
    sign_in(client, owner.username)
    session = client.session
    assert session.get_expiry_age() == 4 * 3600
    first = client.get("/") and client.session["seen"]
    stored = session.model.objects.get(session_key=session.session_key).expire_date
    client.get("/")
    assert session.model.objects.get(session_key=session.session_key).expire_date == stored  # not each click
    changed = client.session
    changed["seen"] = first - 400
    changed.save()
    client.get("/")
    assert client.session["seen"] >= first


def test_a_session_ends_half_a_day_after_signing_in_whatever_is_clicked(client, owner) -> None:
    sign_in(client, owner.username)
    assert client.get("/").status_code == 200
    session = client.session
    session["since"] -= 12 * 3600 - 60
    session.save()
    assert client.get("/").status_code == 200
    session = client.session
    session["since"] -= 120
    session.save()
    assert client.get("/").status_code == 302


def test_the_security_log_is_the_owners(client, owner, stranger, django_user_model) -> None:
    django_user_model.objects.create_user("tam", password=PASSWORD, workshop=owner.workshop, role="mechanic")
    sign_in(client, "tam")
    assert client.get(reverse("workshop:security")).status_code == 403
    sign_in(Client(), "tam", "wrong wrong wrong")
    client.force_login(owner)
    shown = client.get(reverse("workshop:security")).text
    for what in ("sign-in", "refused", "failed sign-in", "/log/security/"):
        assert what in shown
    assert "refused" in client.get(reverse("workshop:security"), {"as": "csv"}).text
    client.force_login(stranger)
    assert "tam" not in client.get(reverse("workshop:security")).text


def test_a_form_from_elsewhere_is_refused_and_written_down(owner, bike) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(owner)
    assert client.post(reverse("plans:plan-start", args=[bike.pk])).status_code == 403
    assert said(owner.workshop)[-1] == "form refused"


def test_behind_tls_nothing_is_left_open() -> None:
    """Django's own deployment check on the settings as they are with `https`: it finds nothing."""
    config = load_config()
    error = {**config, "https": True, "allowed_hosts": ["unkett.example"]}
    says = (
        "import unkett.local.state as s, json, sys; told = json.load(sys.stdin); s.load_config = lambda: told\n"
        "import django; django.setup()\n"
        "from django.conf import settings as x; from django.core.management import call_command\n"
        "call_command('check', deploy=True, fail_level='WARNING')\n"
        "print(x.SESSION_COOKIE_NAME, x.CSRF_COOKIE_NAME, x.SECURE_HSTS_SECONDS)"
    )
    mine = {name: value for name, value in os.environ.items() if name != "DJANGO_ALLOW_ASYNC_UNSAFE"}
    done = subprocess.run(
        [sys.executable, "-c", says], input=json.dumps(error), capture_output=True, text=True, check=False,
        env={**mine, "DJANGO_SETTINGS_MODULE": "unkett.web.site.settings", "PYTHONPATH": str(PROJECT / "src")},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert done.stdout.split()[-3:] == ["__Host-session", "__Host-csrf", "31536000"]


def test_health_says_what_is_well(client, db, monkeypatch) -> None:
    answer = client.get("/health/")
    assert (answer.status_code, answer.json()) == (200, {"process": True, "database": True, "disk": True})
    monkeypatch.setattr(health, "FREE_LEAST", 10**18)
    answer = client.get("/health/")
    assert (answer.status_code, answer.json()["disk"]) == (503, False)


def test_what_breaks_is_reported_with_its_number_and_logged(client, owner, monkeypatch, caplog) -> None:
    client.force_login(owner)
    client.raise_request_exception = False

    def broken(*_args, **_more):
        raise RuntimeError("<b>a secret</b>")

    monkeypatch.setattr("unkett.web.pages.customers.views.customers_seen_by", broken)
    answer = client.get("/customers/")
    assert answer.status_code == 500
    assert answer["X-Request-ID"] in answer.text
    assert "secret" not in answer.text
    assert any("secret" in str(record.exc_info) for record in caplog.records)


def test_a_log_line_is_one_line_of_json() -> None:
    record = logging.LogRecord("unkett", logging.INFO, "x", 1, 'typed\n{"level": "INFO"}', (), None)
    record.who = "a\r\nb"
    line = JsonLines().format(record)
    assert "\n" not in line
    assert json.loads(line)["who"] == "a\r\nb"


@pytest.mark.parametrize("page", ["look", "join"])
def test_no_log_holds_what_opens_a_link(page) -> None:
    record = logging.LogRecord(
        "django.request", logging.WARNING, "x", 1, f"Not Found: /{page}/abc:DEF-1/", (), None
    )
    record.path = f"/{page}/abc:DEF-1/"
    line = JsonLines().format(record)
    assert "DEF" not in line
    assert json.loads(line)["path"] == f"/{page}/…/"


def test_a_try_with_a_name_of_nobody_is_shown_where_there_is_one_workshop(client, owner) -> None:
    sign_in(Client(), "nobody-here", "whatever it was")
    client.force_login(owner)
    page = reverse("workshop:security")
    assert "nobody-here" in client.get(page).text
    Workshop.objects.create(name="Other Yard")
    assert "nobody-here" not in client.get(page).text
