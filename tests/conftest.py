"""What tests share: databases, the order of the files over the processes, two workshops and a small catalogue."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import hypothesis
import pytest

from unkett.core.formats.reader import build_from

ORDER = ("local", "browser", "web", "devices", "core")  # folders with the longest files come first


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Give each file to one process, `tests/local` as a whole: its tests share an installation and its load."""

    def folder(item: pytest.Item) -> str:
        return item.path.parent.name

    items.sort(key=lambda item: ORDER.index(folder(item)) if folder(item) in ORDER else len(ORDER))
    for item in items:
        if item.get_closest_marker("xdist_group") is None:
            item.add_marker(pytest.mark.xdist_group("local" if folder(item) == "local" else item.path.stem))


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


@pytest.fixture(scope="session")
def databases(django_test_environment: None, django_db_blocker: Any) -> Iterator[Any]:
    """The databases of this process."""
    from tests.databases import Databases

    with django_db_blocker.unblock():
        made = Databases()
    yield made
    with django_db_blocker.unblock():
        made.close()


@pytest.fixture(scope="session")
def django_db_setup(databases: Any) -> None:
    """Tests that roll back share the process's own migrated database."""


@pytest.fixture
def own_database(request: pytest.FixtureRequest, databases: Any, django_db_blocker: Any) -> Iterator[None]:
    """A fresh database for one test that commits, with the demonstration where the test asks for the island.

    `@pytest.mark.own_database("demo")` asks for it too.
    """
    from tests.databases import DEMO, EMPTY

    marker = request.node.get_closest_marker("own_database")
    sort = DEMO if marker.args == (DEMO,) or "island" in request.fixturenames else EMPTY
    with django_db_blocker.unblock():
        name = databases.copy(sort)
        databases.use(name)
        forget_what_is_kept()
        yield
        databases.use(databases.main)
        forget_what_is_kept()
        databases.drop(name)


def forget_what_is_kept() -> None:
    """Clear what processes keep by a workshop's number: another database gives the same numbers again."""
    from unkett.web.catalogue import queries
    from unkett.web.plans import pricing

    pricing._made.cache_clear()
    queries._classes.cache_clear()
    queries._verdicts.cache_clear()


@pytest.fixture
def db(request: pytest.FixtureRequest) -> None:
    """The database: rolled back after the test, or the test's own where it is marked so."""
    own = request.node.get_closest_marker("own_database")
    request.getfixturevalue("_django_db_helper" if own is None else "own_database")


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
