"""Nonsense in any field of any form: reported, never a crash; what is refused stores nothing."""

import json
import random

import pytest
from django.urls import reverse

from tests.depth import many
from tests.web.forms import forms_of
from unkett.core.formats.reader import read_build
from unkett.web.bikes.models import Bike
from unkett.web.bikes.services import store_build
from unkett.web.plans.models import Plan
from unkett.web.workshop.models import LogEntry

NONSENSE = [
    "",
    "\x00",
    "NaN",
    "inf",
    "-1",
    "1e999",
    "9" * 40,
    "٣٤",
    "½",
    "0x10",
    "1/0",
    "<b>",
    "é" * 3000,
    ";;",
    "1;2;3;",
    "a:b",
    '"',
    '{"a": 1}',
    "[]",
    "true",
    "34,9",
    '1 1/8"',
    "73mm",
    "1e-400",
    "-0",
    "12 in-lb",
    "none",
    "622",
    "11 13 15",
    "5 5 5",
    "../..",
    "' OR 1=1",
    "\ud7ff\U0010ffff",
]
PLACES = [
    "stand",
    "parts",
    "intake",
    "tools",
    "chain",
    "gears",
    "plan",
    "planned",
    "measure",
    "names",
    "settings",
    "yard",
]


@pytest.fixture
def addresses(bike, plan) -> dict[str, str]:
    """Pages that hold every form that writes, and those that read an address."""
    return {
        "stand": reverse("bikes:stand", args=[bike.pk]) + "?all=1",
        "parts": reverse("bikes:part-edit", args=[bike.pk, "cassette"]),
        "intake": reverse("bikes:intake-station", args=[bike.pk, "drive"]),
        "tools": reverse("bikes:work", args=[bike.pk, "bracket"]),
        "chain": reverse("bikes:work", args=[bike.pk, "chain"]),
        "gears": reverse("bikes:work", args=[bike.pk, "gears"]),
        "plan": reverse("plans:show", args=[plan.pk]) + "?all=1",
        "planned": reverse("plans:work", args=[plan.pk, "wheels"]),
        "measure": reverse("measure:sort", args=["bb_shell"]),
        "names": reverse("rulebook:names"),
        "settings": reverse("rulebook:settings"),
        "yard": reverse("bikes:yard"),
    }


def spoilt(fields, dice) -> dict[str, str]:
    """The form's own fields with some of them nonsense."""
    names = [name for name in fields if name != "csrfmiddlewaretoken"]
    out = {name: fields[name] for name in names}
    for name in dice.sample(names, min(len(names), dice.randint(1, 3))):
        out[name] = dice.choice(NONSENSE)
    return out


@pytest.mark.parametrize("place", PLACES)
def test_nonsense_is_reported(client, owner, bike, catalogue, addresses, place) -> None:
    client.force_login(owner)
    dice = random.Random(place)
    tried = 0
    for form in forms_of(client.get(addresses[place]).text):
        if "sign-out" in form.action or "csrfmiddlewaretoken" not in form.fields or len(form.fields) < 2:
            continue
        for _ in range(many(3)):
            data = spoilt(form.fields, dice)
            if "version" in data and dice.random() < 0.8:
                holder = Plan if "/plans/" in form.action else Bike
                data["version"] = str(holder.objects.latest("pk").version)
            lines = LogEntry.objects.count()
            answer = client.post(form.action or addresses[place].partition("?")[0], data)
            tried += 1
            assert answer.status_code in (200, 302, 404, 409, 422), (form.action, data)
            written = LogEntry.objects.count() - lines
            assert written == 0 or answer.status_code in (200, 302), (form.action, data)
    assert tried or place in ("measure", "gears")


@pytest.mark.parametrize("place", ["gears", "measure", "yard", "stand"])
def test_nonsense_in_an_address_is_reported(client, owner, bike, addresses, place) -> None:
    client.force_login(owner)
    dice = random.Random(place)
    for form in forms_of(client.get(addresses[place]).text):
        for _ in range(many(8) if form.method == "get" else 0):
            answer = client.get(form.action or addresses[place].partition("?")[0], spoilt(form.fields, dice))
            assert answer.status_code in (200, 302, 404, 422), (form.action, form.fields)


def test_whatever_was_typed_can_be_taken_out_and_read_again(client, owner, bike) -> None:
    client.force_login(owner)
    dice = random.Random(3)
    kept = 0
    for slot in ("cassette", "frame", "rear_tyre", "chainrings", "stem"):
        url = reverse("bikes:part-edit", args=[bike.pk, slot])
        for _ in range(many(10)):
            form = next(one for one in forms_of(client.get(url).text) if "part-form" in one.css)
            kept += client.post(url, spoilt(form.fields, dice)).status_code == 302
    assert kept > 5
    text = client.get(reverse("bikes:build-file", args=[bike.pk])).text
    again = store_build(owner, read_build(text))
    assert json.loads(client.get(reverse("bikes:build-file", args=[again.pk])).text) == json.loads(text)
