"""Taking a bike in, and the yard that lists it."""

import re
from urllib.parse import unquote

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.conftest import BUILD
from unkett.core.formats.reader import build_from
from unkett.core.intake import STATIONS, BikeProfile
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.services import store_build
from unkett.web.rulebook.services import add_shop_name

FIRST = {
    "name": "Dune gravel",
    "use": "gravel",
    "gears": "derailleur",
    "brakes": "disc_hose",
    "motor": "none",
    "customer": "Ebba Holm",
    "complaint": "Squeals",
    "mass_kg": "72",
}


def test_only_what_this_kind_of_bike_has_is_asked() -> None:
    track = BikeProfile(use="track", gears="single", brakes="none")
    slots = {slot for step in track.stations() for slot in step.slots}
    assert not slots & {"rear_derailleur", "rear_shifter", "front_rotor", "rear_caliper", "shock"}
    assert "hanger" not in {one.name for one in track.asks("frame")}
    gravel = BikeProfile(use="gravel", gears="derailleur", brakes="disc_hose")
    names = {one.name for one in gravel.asks("frame")}
    assert "rear_rotor_max_mm" in names
    assert "rear_bridge_radius_mm" not in names
    assert "front_derailleur" not in {slot for step in gravel.stations() for slot in step.slots}
    rim = BikeProfile(use="road", gears="rings", brakes="rim")
    assert "rotor_max_mm" not in {one.name for one in rim.asks("fork")}
    assert "brake_track" in {one.name for one in rim.asks("rear_rim")}
    for step in STATIONS:
        for slot in step.slots:
            declared = KINDS[SLOTS[slot].kind].attributes
            for profile in (track, gravel, rim):
                assert {one.name for one in profile.asks(slot)} <= set(declared)


def test_a_bike_is_taken_in_step_by_step(client, owner) -> None:
    client.force_login(owner)
    answer = client.post(reverse("bikes:intake-new"), FIRST)
    bike = Bike.objects.get()
    assert answer.url == reverse("bikes:inspection", args=[bike.pk])
    answer = client.post(answer.url, {"version": 1})  # nothing found
    assert answer.url == reverse("bikes:intake-station", args=[bike.pk, "drive"])
    url = reverse("bikes:intake-station", args=[bike.pk, "frame"])
    assert (bike.use, bike.rider, bike.verdict) == ("gravel", {"mass_kg": 72}, "unmeasured")
    page = client.get(url).text
    assert "Squeals" in page
    assert 'name="frame.rear_rotor_max_mm"' in page
    assert 'name="frame.rear_bridge_radius_mm"' not in page
    data = {"version": 1, "frame.chainstay_mm": "430", "frame.name": "Blue frame", "fork.offset_mm": "4,5cm"}
    answer = client.post(url, data)
    assert answer.url == reverse("bikes:stand", args=[bike.pk])  # the frame comes last
    frame = BikePart.objects.get(bike=bike, slot="frame")
    assert (frame.name, frame.attrs, frame.origins) == (
        "Blue frame",
        {"chainstay_mm": 430},
        {"chainstay_mm": "measured"},
    )
    assert BikePart.objects.get(bike=bike, slot="fork").attrs == {"offset_mm": 45}
    assert not BikePart.objects.filter(bike=bike, slot="shock").exists()  # nothing typed, no part
    wheels = reverse("bikes:intake-station", args=[bike.pk, "wheels"])
    again = client.post(wheels, {"version": 2})  # a step may be left empty
    assert again.url == reverse("bikes:intake-station", args=[bike.pk, "steering"])
    assert client.get(reverse("bikes:intake-station", args=[bike.pk, "sofa"])).status_code == 404


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"name": " ", "customer": ""}, "enter a name"),
        ({"use": "boat"}, "choose one"),
        ({"brakes": ""}, "choose one"),
        ({"mass_kg": "heavy"}, "given"),
        ({"mass_kg": "900"}, "900"),
    ],
    ids=str,
)
def test_a_bad_first_look_stores_nothing(client, owner, more, says) -> None:
    client.force_login(owner)
    answer = client.post(reverse("bikes:intake-new"), {**FIRST, **more})
    assert answer.status_code == 422
    assert says in answer.text
    assert "Squeals" in answer.text  # nothing typed is lost
    assert Bike.objects.count() == 0


def test_a_step_is_stored_whole_or_not_at_all(client, owner) -> None:
    client.force_login(owner)
    client.post(reverse("bikes:intake-new"), FIRST)
    bike = Bike.objects.get()
    url = reverse("bikes:intake-station", args=[bike.pk, "frame"])
    data = {"version": 1, "frame.chainstay_mm": "430", "frame.head_angle_deg": "steep"}
    answer = client.post(url, data)
    assert answer.status_code == 422
    assert 'value="430"' in answer.text
    assert BikePart.objects.count() == 0
    assert '<a href="#f-frame.head_angle_deg">Frame, head angle</a>' in answer.text
    drive = reverse("bikes:intake-station", args=[bike.pk, "drive"])
    many = {"version": 1, "cassette.speeds": "9", "cassette.teeth": "11 12 13 14 15 16 18 20 22 25"}
    answer = client.post(drive, many)
    assert answer.status_code == 422
    assert "10 sprockets given; at most 9" in answer.text
    assert 'value="11 12 13 14 15 16 18 20 22 25"' in answer.text
    assert BikePart.objects.count() == 0
    odd = {"version": 1, "frame.chainstay_mm": "43"}
    answer = client.post(url, odd)
    assert answer.status_code == 422
    assert "Check this reading: 43 mm" in answer.text
    assert client.post(url, {**odd, "really": "1"}).status_code == 302
    assert BikePart.objects.get(bike=bike).attrs == {"chainstay_mm": 43}
    assert client.post(url, {**odd, "version": 1, "frame.chainstay_mm": "431"}).status_code == 409


def test_the_yard_lists_by_verdict_and_finds(client, owner, bike, plan) -> None:
    store_build(owner, build_from({"name": "Bare", "parts": {}}))
    wrong = build_from(
        {
            **BUILD,
            "name": "Wrong",
            "parts": {**BUILD["parts"], "chain": {"attrs": {"speeds": 9, "links": 90}}},
        }
    )
    store_build(owner, wrong, customer="Post")
    add_shop_name(actor=owner, code="spline9_road11", name="long nine")
    client.force_login(owner)
    url = reverse("bikes:yard")
    page = client.get(url).text
    assert page.count('class="big-link"') == 3
    only = client.get(url, {"verdict": "no_go"}).text
    assert only.count('class="big-link"') == 1
    assert "Wrong" in only
    for find, number in (("long nine", 2), ("plan a", 1), ("post", 1), ("pb-1", 1), ("nothing like it", 0)):
        assert client.get(url, {"find": find}).text.count('class="big-link"') == number, find
    nowhere = client.get(url, {"find": "wide & nine"}).text
    assert f'href="{reverse("catalogue:parts")}?find=wide%20%26%20nine"' in nowhere
    for bad in ({"page": "x"}, {"page": "999"}, {"verdict": "purple"}, {"page": "-1"}):
        assert client.get(url, bad).status_code == 200


def test_queries_of_the_stand_do_not_grow(client, owner, bike) -> None:
    client.force_login(owner)
    counts = []
    for _ in range(2):
        with CaptureQueriesContext(connection) as seen:
            client.get(reverse("bikes:stand", args=[bike.pk]))
        counts.append(len(seen))
        for n in range(30):
            store_build(owner, build_from({**BUILD, "name": f"More {n}"}))
    assert counts[0] == counts[1] <= 8


def test_what_is_folded_comes_as_it_is_opened(client, owner, bike, plan) -> None:
    client.force_login(owner)
    asks = {"HX-Request": "true"}
    url = reverse("bikes:stand", args=[bike.pk])
    whole = client.get(url).text
    assert 'data-verdict="goes"' not in whole
    everything = client.get(url, {"all": "1"}).text
    goes = client.get(url, {"part": "goes"}, headers=asks).text
    assert goes.count('data-verdict="goes"') == everything.count('data-verdict="goes"') > 0
    area = client.get(url, {"part": "area", "area": "Drivetrain"}, headers=asks).text
    assert "<html" not in area
    assert "Sprockets" in area
    assert "measure it" not in client.get(url, {"part": "assumed"}, headers=asks).text
    for page in (url, reverse("plans:show", args=[plan.pk])):
        asked = re.search(r"part=where&amp;finding=([^\"]+)", client.get(page).text)
        panel = client.get(f"{page}?part=where&finding={asked[1]}", headers=asks).text
        assert f"Rule {unquote(asked[1]).partition(':')[0]} ·" in panel
        assert client.get(page, {"part": "where", "finding": "sofa:chain"}, headers=asks).status_code == 404
    for bad in ({"part": "sofa"}, {"part": "area", "area": "sofa"}):
        assert client.get(url, bad, headers=asks).status_code == 404
    plan_url = reverse("plans:show", args=[plan.pk])
    assert "side-view-title" not in client.get(plan_url).text
    assert "side-view-title" in client.get(plan_url, {"part": "side"}, headers=asks).text
    assert "Change the" in client.get(plan_url, {"part": "area", "area": "Wheels"}, headers=asks).text
    assert client.get(plan_url, {"part": "sofa"}, headers=asks).status_code == 404
