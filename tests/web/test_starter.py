"""The starter catalogue: loaded with one press, kept apart, brought up to date; the first day and the first tour."""

from __future__ import annotations

import pytest

from unkett.core.formats.reader import attrs_from
from unkett.core.standards import SOURCES
from unkett.core.vocabulary import KINDS
from unkett.web.bikes.fitting import fill_part
from unkett.web.bikes.models import Bike
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.services import change_part
from unkett.web.catalogue.starter import load_starter, starter_parts, starter_state
from unkett.web.pages.common.tour import STOPS
from unkett.web.plans.services import start_plan, swap_part
from unkett.web.plans.shelf import one_of_each
from unkett.web.workshop.models import Role, User, Workshop

pytestmark = pytest.mark.django_db


@pytest.fixture
def owner() -> User:
    workshop = Workshop.objects.create(name="Lighthouse Cycles")
    return User.objects.create_user("first", password="x", workshop=workshop, role=Role.OWNER)


def test_every_kind_has_usual_parts_by_dimension_only() -> None:
    parts = starter_parts()
    assert len(parts) >= 300
    assert {part.kind for part in parts} == set(KINDS)
    assert len({(part.kind, part.name) for part in parts}) == len(parts)
    assert {part.source for part in parts} <= set(SOURCES)
    for part in parts:
        attrs_from(part.attrs, part.kind, part.name)  # raises for what the vocabulary does not allow
        assert "{" not in part.name
        assert "_" not in part.name, part.name


def test_a_name_says_the_figures_of_its_part() -> None:
    named = {(part.kind, part.name): part.attrs for part in starter_parts()}
    assert named["cassette", "10-speed 11–34, nine splines"]["teeth"][-1] == 34
    assert named["tyre", "28-622"]["width_mm"] == 28
    assert named["rotor", "160 mm, six-bolt, 1.8 mm thick"]["diameter_mm"] == 160
    assert named["chainrings", "50/34 T, 110 mm × 5 bolts"]["mount"] == "110x5"


def test_loading_twice_adds_nothing_and_keeps_what_the_workshop_wrote(owner: User) -> None:
    assert load_starter(actor=owner).new == len(starter_parts())
    assert load_starter(actor=owner).pending == 0
    own = CataloguePart.objects.get(workshop=owner.workshop, kind="tyre", name="28-622")
    assert own.typical
    assert own.price is None
    values = {"name": own.name, "maker": "", "price": 20, "attrs": own.attrs}
    priced = change_part(actor=owner, part_id=own.pk, version=own.version, values=values)
    assert priced.typical, "a price confirms no figure"
    values["attrs"] = own.attrs | {"pressure_max_bar": 7}
    assert not change_part(actor=owner, part_id=own.pk, version=priced.version, values=values).typical
    older = CataloguePart.objects.get(workshop=owner.workshop, kind="tyre", name="32-622")
    CataloguePart.objects.filter(pk=older.pk).update(attrs={**older.attrs, "width_mm": 33})
    state = load_starter(actor=owner)
    assert (state.new, state.changed) == (0, 1)
    older.refresh_from_db()
    own.refresh_from_db()
    assert older.attrs["width_mm"] == 32
    assert own.attrs["pressure_max_bar"] == 7
    assert starter_state(owner).pending == 0


def test_figures_of_a_starter_part_are_assumed_on_bike_and_plan(owner: User) -> None:
    load_starter(actor=owner)
    bike = Bike.objects.create(workshop=owner.workshop, name="First", use="road")
    tyre = CataloguePart.objects.get(workshop=owner.workshop, kind="tyre", name="28-622")
    fill_part(actor=owner, bike_id=bike.pk, version=bike.version, slot="front_tyre", part_id=tyre.pk)
    assert set(bike.fitted.get(slot="front_tyre").origins.values()) == {"assumed"}
    plan = start_plan(actor=owner, bike_id=bike.pk)
    swap_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="rear_tyre", part_id=tyre.pk)
    change = plan.changes.get(slot="rear_tyre")
    assert set(change.origins.values()) == {"assumed"}
    assert change.price is None


def test_what_has_no_price_is_compared_as_the_dearest_of_its_kind(owner: User) -> None:
    load_starter(actor=owner)
    tyre = CataloguePart.objects.get(workshop=owner.workshop, kind="tyre", name="28-622")
    values = {"name": tyre.name, "maker": "", "price": 20, "attrs": tyre.attrs}
    change_part(actor=owner, part_id=tyre.pk, version=tyre.version, values=values)
    tyres = {part.part.name: part for part in one_of_each(owner) if "front_tyre" in part.slots}
    assert (tyres["28-622"].price, tyres["28-622"].priced) == (2000, True)
    assert (tyres["32-622"].price, tyres["32-622"].priced) == (2000, False)


def test_the_page_loads_it_and_only_who_may(client, owner: User) -> None:
    apprentice = User.objects.create_user("young", workshop=owner.workshop, role=Role.APPRENTICE)
    client.force_login(apprentice)
    assert client.post("/catalogue/starter/").status_code == 403
    client.force_login(owner)
    assert b"Load the starter catalogue" in client.get("/catalogue/").content
    assert client.post("/catalogue/starter/").status_code == 302
    page = client.get("/catalogue/?which=own").content.decode()
    assert "0 parts" in page
    assert "Load the starter catalogue" not in page
    tyre = CataloguePart.objects.get(workshop=owner.workshop, kind="tyre", name="28-622")
    shown = client.get(f"/catalogue/{tyre.pk}/").text
    assert "check the marking" in shown
    assert f"Source: {SOURCES['rims-iso']['title']} (open standard)" in shown


def test_the_first_day_ticks_itself_off_and_can_be_closed(client, owner: User) -> None:
    client.force_login(owner)
    assert 'class="done"' not in client.get("/").content.decode()
    load_starter(actor=owner)
    page = client.get("/").content.decode()
    assert page.count('class="done"') == 1
    assert client.post("/first-day/close/").status_code == 302
    assert "Your first day" not in client.get("/").content.decode()


def test_the_first_day_ends_when_all_is_done(client, owner: User) -> None:
    client.force_login(owner)
    load_starter(actor=owner)
    User.objects.create_user("young", workshop=owner.workshop, role=Role.APPRENTICE)
    owner.workshop.settings = {"labour_per_hour": 50}
    owner.workshop.save()
    assert "Your first day" in client.get("/").content.decode()
    Bike.objects.create(workshop=owner.workshop, name="First", use="road")
    assert "Your first day" not in client.get("/").content.decode()


def test_the_tour_goes_from_stop_to_stop_and_closes_for_good(client, owner: User) -> None:
    bike = Bike.objects.create(workshop=owner.workshop, name="First", use="road")
    client.force_login(owner)
    assert "Start the tour" in client.get("/").content.decode()
    for number, stop in enumerate(STOPS, start=1):
        page = client.post("/tour/", {"stop": number + 1}, follow=True).content.decode()
        assert f"{number} of {len(STOPS)} · {stop.title}" in page
        if stop.of:
            assert "First tour" not in client.get(f"/bikes/{bike.pk}/work/chain/").text
    assert client.post("/tour/", {"stop": 99}).status_code == 422
    client.post("/tour/", {"stop": 0})
    assert "tour" not in client.get("/").content.decode()
