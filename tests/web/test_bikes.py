"""Bikes: the yard, the Stand, bikes from files, measured values, the demonstration."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.conftest import BUILD
from unkett.core.build import build_from, read_build
from unkett.core.engine import check
from unkett.core.errors import InputError
from unkett.core.vocabulary import describe
from unkett.web.bikes.forms import read_typed
from unkett.web.bikes.models import Bike, FittedPart
from unkett.web.bikes.queries import standing
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.catalogue.models import CataloguePart
from unkett.web.workshop.demo.load import load
from unkett.web.workshop.errors import Clash
from unkett.web.workshop.models import LogLine, Workshop


def upload(client, content) -> object:
    data = content if isinstance(content, bytes) else json.dumps(content).encode()
    return client.post(reverse("bikes:bike-add"), {"file": SimpleUploadedFile("bike.json", data)})


def test_a_stored_bike_checks_as_its_file_does(owner, bike) -> None:
    assert standing(owner, bike.pk).check == check(build_from(BUILD))


def test_a_bike_from_a_file_and_back(client, owner) -> None:
    client.force_login(owner)
    answer = upload(client, {**BUILD, "x_own": {"deep": [1, None]}})
    stored = Bike.objects.get()
    assert answer.url == reverse("bikes:stand", args=[stored.pk])
    out = client.get(reverse("bikes:build-file", args=[stored.pk]))
    assert read_build(out.content).to_json() == build_from({**BUILD, "x_own": {"deep": [1, None]}}).to_json()


BAD_FILES = [
    (b"", "submitted file is empty"),
    (b"{", "not JSON: line 1"),
    (b"\xff", "not UTF-8"),
    ({"parts": {"cassette": {"attrs": {"sprockets": 9}}}}, "parts.cassette.attrs.sprockets: unknown"),
    ({"parts": {"cassette": {"attrs": {"teeth": [11, 8]}}}}, "parts.cassette.attrs.teeth[1]: 8 given"),
]


@pytest.mark.parametrize(("content", "says"), BAD_FILES, ids=str)
def test_a_bad_file_is_told_beside_its_field_and_stores_nothing(client, owner, content, says) -> None:
    client.force_login(owner)
    answer = upload(client, content)
    assert answer.status_code == 422
    assert says in answer.text
    assert 'id="file-fault"' in answer.text
    assert Bike.objects.count() == 0
    assert LogLine.objects.count() == 0


def test_the_yard_finds_and_shows_the_worst(client, owner, bike) -> None:
    client.force_login(owner)
    page = client.get(reverse("bikes:yard"))
    assert "Pier bike" in page.text
    assert "Unmeasured" in page.text
    for find, there in (("pier", True), ("ebba", True), ("pb-1", True), ("tandem", False)):
        assert ("PB-1" in client.get(reverse("bikes:yard"), {"find": find}).text) is there


def test_a_bike_without_parts_is_unmeasured_everywhere(client, owner) -> None:
    bare = store_build(owner, build_from({"name": "Bare", "parts": {}}))
    client.force_login(owner)
    for url in (reverse("bikes:yard"), reverse("bikes:stand", args=[bare.pk])):
        page = client.get(url)
        assert page.status_code == 200
        assert "Unmeasured" in page.text


def test_queries_of_the_yard_do_not_grow_with_bikes(client, owner, bike) -> None:
    client.force_login(owner)
    counts = []
    for _ in range(2):
        with CaptureQueriesContext(connection) as seen:
            client.get(reverse("bikes:yard"))
        counts.append(len(seen))
        for n in range(5):
            store_build(owner, build_from({**BUILD, "name": f"More {n}"}))
    assert counts[0] == counts[1] <= 6


def test_the_stand_asks_for_what_is_not_measured(client, owner, bike) -> None:
    client.force_login(owner)
    page = client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert 'name="attr" value="links"' in page
    answer = client.post(
        reverse("bikes:part-measure", args=[bike.pk]),
        {"version": 1, "slot": "chain", "attr": "links", "value": "110"},
    )
    assert answer.url == reverse("bikes:stand", args=[bike.pk])
    part = FittedPart.objects.get(bike=bike, slot="chain")
    assert (part.attrs["links"], part.origins["links"]) == (110, "measured")
    line = LogLine.objects.latest("at")
    assert (line.before, line.after) == ({"chain": {"links": None}}, {"chain": {"links": 110}})


BAD_READINGS = [
    ({"value": "19"}, 422, "links: 19"),
    ({"value": "many"}, 422, "'many' given"),
    ({"value": "110.5"}, 422, "links: 110.5"),
    ({"value": "nan"}, 422, "'nan' given"),
    ({"value": ""}, 422, "value"),
    ({"slot": "sofa"}, 404, "Not here"),
    ({"slot": "fork", "attr": "offset_mm"}, 404, "Not here"),
    ({"attr": "colour"}, 404, "Not here"),
    ({"version": "0"}, 409, "Somebody changed this bike"),
]


@pytest.mark.parametrize(("more", "status", "says"), BAD_READINGS, ids=str)
def test_bad_readings_are_told_and_store_nothing(client, owner, bike, more, status, says) -> None:
    client.force_login(owner)
    data = {"version": "1", "slot": "chain", "attr": "links", "value": "110", **more}
    answer = client.post(reverse("bikes:part-measure", args=[bike.pk]), data)
    assert answer.status_code == status
    assert says in answer.text.replace("&#x27;", "'")
    assert "links" not in FittedPart.objects.get(bike=bike, slot="chain").attrs


TYPED = [
    ("cassette", "teeth", "11 13-15,17", (11, 13, 15, 17)),
    ("frame", "chainstay_mm", "432,5", 432.5),
    ("crank", "ring_mount", "104x4", "104x4"),
    ("rear_derailleur", "clutch", "yes", True),
    ("stem", "bar_bolt_nm", "5 6", (5, 6)),
]


@pytest.mark.parametrize(("slot", "attr", "text", "value"), TYPED)
def test_typed_readings(slot, attr, text, value) -> None:
    kind = describe(slot, attr).type
    assert kind.check(read_typed(text, kind), attr) == value


def test_two_measuring_at_once(owner, mechanic, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    with pytest.raises(Clash):
        record_measure(actor=mechanic, bike_id=bike.pk, version=1, slot="chain", attr="links", value=112)
    assert FittedPart.objects.get(bike=bike, slot="chain").attrs["links"] == 110


def test_the_database_holds_its_own_line(owner, bike, workshop) -> None:
    with pytest.raises(IntegrityError), transaction.atomic():
        FittedPart.objects.create(bike=bike, slot="chain", kind="chain")
    with pytest.raises(IntegrityError), transaction.atomic():
        CataloguePart.objects.create(workshop=workshop, kind="chain", name="x", price="-1")


@pytest.mark.parametrize("page", ["gears", "chain"])
def test_pages_say_what_is_missing(client, owner, page) -> None:
    bare = store_build(owner, build_from({"name": "Bare", "parts": {"rear_derailleur": {}}}))
    client.force_login(owner)
    text = client.get(reverse(f"bikes:{page}", args=[bare.pk])).text
    assert "cannot be worked out yet" in text
    assert "Cassette: sprockets" in text


def test_the_demonstration(db) -> None:
    call_command("load_demo", "--once", verbosity=0)
    workshop = Workshop.objects.get(demo=True)
    assert workshop.bikes.count() == 4
    kinds = set(workshop.catalogue.values_list("kind", flat=True))
    assert {"cassette", "chain", "shifter", "rear_derailleur", "chainrings"} <= kinds
    assert workshop.catalogue.count() >= 60
    counts = {part.attrs["speeds"] for part in workshop.catalogue.filter(kind="cassette")}
    assert counts == {7, 8, 9, 10, 11, 12}
    owner = workshop.people.get(username="rona")
    seen = {bike.name: standing(owner, bike.pk).check for bike in workshop.bikes.all()}
    assert "differ" in {f.key for f in seen["Harbour post no. 4"].findings}
    from unkett.web.plans.models import Plan
    from unkett.web.plans.queries import planned

    plans = {plan.name: planned(owner, plan.pk).check for plan in Plan.objects.all()}
    assert "spacer" in {f.key for f in plans["Wide tens"].findings}
    assert "too_far" in {f.key for f in plans["11–34 behind"].findings if f.rule == "capacity"}


def test_loading_again_replaces_the_demonstration_only(owner, bike) -> None:
    call_command("load_demo", verbosity=0)
    Bike.objects.filter(workshop__demo=True).update(name="scribbled")
    call_command("load_demo", "--once", verbosity=0)
    assert Bike.objects.filter(name="scribbled").count() == 4
    call_command("load_demo", verbosity=0)
    assert Bike.objects.filter(name="scribbled").count() == 0
    assert Bike.objects.filter(pk=bike.pk).exists()


def test_a_broken_catalogue_loads_nothing(monkeypatch, db) -> None:
    from unkett.web.workshop.demo import load as module

    good = module._read
    monkeypatch.setattr(
        module,
        "_read",
        lambda name: [{**good(name)[0], "attrs": {"colour": 1}}] if name == "catalogue" else good(name),
    )
    with pytest.raises(InputError, match="colour: unknown"):
        load()
    assert Workshop.objects.filter(demo=True).count() == 0


@pytest.mark.parametrize("page", ["bracket", "brakes", "wheels", "steering"])
def test_pages_of_the_work(client, owner, page) -> None:
    call_command("load_demo", verbosity=0)
    client.force_login(Workshop.objects.get(demo=True).people.get(username="rona"))
    bike = Bike.objects.get(name="Harbour post no. 4")
    url = reverse("bikes:work", args=[bike.pk, page])
    answer = client.get(url)
    assert "where from?" in answer.text
    assert '<svg class="drawing"' in answer.text
    rows = client.get(url, {"as": "csv"}).text.splitlines()
    assert rows[0] == "sheet,number,value,unit,origin"
    assert len(rows) > 4
    sheet = {"bracket": "bracket", "brakes": "front_brake", "wheels": "rear_wheel", "steering": "steering"}[
        page
    ]
    picture = client.get(url, {"as": "svg", "sheet": sheet})
    assert picture["Content-Type"] == "image/svg+xml"
    assert picture.text.startswith('<svg xmlns="http://www.w3.org/2000/svg"')
    assert "var(" not in picture.text
    assert client.get(url, {"as": "svg", "sheet": "sofa"}).status_code == 404
    assert client.get(reverse("bikes:work", args=[bike.pk, "sofa"])).status_code == 404
    plan = bike.plans.get()
    planned_page = client.get(reverse("plans:work", args=[plan.pk, page])).text
    assert "planned</th>" in planned_page


def test_gears_on_a_hill_and_as_files(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:gears", args=[bike.pk])
    page = client.get(url, {"grade": "10", "power": "200"}).text
    assert "95 kg in all" in page  # 80 and 15
    assert "60 rpm" in page
    rows = client.get(url, {"as": "csv"}).text.splitlines()
    assert len(rows) == 1 + 9
    assert rows[1].startswith("now,40,32,1.25,2.757")  # 1.25 × π × 702 mm
    assert client.get(url, {"as": "svg"}).text.startswith("<svg xmlns")
    assert client.get(url, {"as": "sofa"}).status_code == 404
    assert client.get(url, {"grade": "steep", "power": "-1"}).status_code == 200
    assert client.get(reverse("bikes:chain", args=[bike.pk]), {"as": "svg"}).text.startswith("<svg xmlns")
