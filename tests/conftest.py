"""What tests of the web and the browser share: two workshops, their people and a small catalogue."""

from __future__ import annotations

import os
from typing import Any

import hypothesis
import pytest

from unkett.core.build import build_from

# The same examples at every run; HYPOTHESIS_PROFILE=explore looks further.
hypothesis.settings.register_profile("steady", derandomize=True, deadline=None)
hypothesis.settings.register_profile("explore", deadline=None, max_examples=3000)
hypothesis.settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "steady"))


@pytest.fixture(autouse=True)
def _test_settings(settings) -> None:
    """Static files as they lie, and a password hash that costs the tests no seconds."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    settings.STORAGES = {
        **settings.STORAGES,
        "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    }


def person(workshop: Any, name: str, role: str) -> Any:
    from unkett.web.workshop.models import User

    return User.objects.create_user(
        name, password="a long pass phrase", workshop=workshop, role=role, first_name=name.title()
    )


@pytest.fixture
def workshop(db):
    from unkett.web.workshop.models import Workshop

    return Workshop.objects.create(name="Test Yard")


@pytest.fixture
def owner(workshop):
    return person(workshop, "olla", "owner")


@pytest.fixture
def mechanic(workshop):
    return person(workshop, "mads", "mechanic")


@pytest.fixture
def stranger(db):
    """An owner of another workshop."""
    from unkett.web.workshop.models import Workshop

    return person(Workshop.objects.create(name="Other Yard"), "stran", "owner")


BUILD = {
    "format": "unkett.build/1",
    "name": "Pier bike",
    "use": "city",
    "rider": {"mass_kg": 80},
    "parts": {
        "frame": {"name": "Frame", "attrs": {"chainstay_mm": 432, "hanger": "m10"}},
        "cassette": {
            "name": "Nine",
            "attrs": {"speeds": 9, "teeth": [11, 12, 14, 16, 18, 21, 24, 28, 32], "mount": "spline9"},
        },
        "rear_hub": {"name": "Hub", "attrs": {"freehub": "spline9_road11"}},
        "rear_shifter": {
            "name": "Lever",
            "attrs": {"mode": "indexed", "speeds": 9, "pull_per_click_mm": 2.5},
        },
        "rear_derailleur": {
            "name": "Cage",
            "attrs": {
                "actuation": "cable",
                "shift_ratio": 1.7,
                "sprocket_max_teeth": 34,
                "sprocket_min_teeth": 11,
                "capacity_teeth": 45,
            },
        },
        "chain": {"name": "Chain", "attrs": {"speeds": 9}},
        "chainrings": {"name": "Rings", "attrs": {"teeth": [40]}},
        "rear_rim": {"name": "Rim", "attrs": {"bsd_mm": 622}},
        "rear_tyre": {"name": "Tyre", "attrs": {"bsd_mm": 622, "width_mm": 40}},
    },
}


@pytest.fixture
def bike(owner):
    from unkett.web.bikes.services import store_build

    return store_build(owner, build_from(BUILD), customer="Ebba Holm", frame_number="PB-1")


CATALOGUE = [
    (
        "cassette",
        "Wide nine",
        {"speeds": 9, "teeth": [12, 14, 16, 18, 21, 24, 28, 32, 36], "mount": "spline9"},
        "34.00",
    ),
    (
        "cassette",
        "Close nine",
        {"speeds": 9, "teeth": [11, 12, 13, 14, 15, 17, 19, 21, 25], "mount": "spline9"},
        "27.00",
    ),
    (
        "cassette",
        "Eight",
        {"speeds": 8, "teeth": [11, 13, 15, 17, 19, 21, 24, 28], "mount": "spline9"},
        "18.00",
    ),
    ("cassette", "Unknown nine", {"speeds": 9, "mount": "spline9"}, "9.00"),
    ("chain", "Chain of 114", {"speeds": 9, "links": 114}, "16.00"),
]


@pytest.fixture
def catalogue(workshop):
    from unkett.web.catalogue.services import add_parts

    entries = [
        {"kind": kind, "name": name, "attrs": attrs, "price": price} for kind, name, attrs, price in CATALOGUE
    ]
    return {part.name: part for part in add_parts(workshop, entries)}


@pytest.fixture
def plan(owner, bike):
    from unkett.web.plans.services import start_plan

    return start_plan(actor=owner, bike_id=bike.pk, name="Plan A")
