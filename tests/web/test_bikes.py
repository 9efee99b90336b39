"""Bikes: the yard, the Stand, bikes from files, measured values, the demonstration."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.conftest import BUILD
from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from, read_build
from unkett.core.formats.typed_text import read_typed
from unkett.core.vocabulary import KINDS, describe
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import add_bike_from_file, record_measure, store_build
from unkett.web.catalogue.models import CataloguePart
from unkett.web.demo.load import load
from unkett.web.plans.services import swap_part
from unkett.web.workshop.errors import Conflict, NotThere
from unkett.web.workshop.models import LogEntry, Workshop


def upload(client, content) -> object:
    data = content if isinstance(content, bytes) else json.dumps(content).encode()
    return client.post(reverse("bikes:bike-add"), {"file": SimpleUploadedFile("bike.json", data)})


def test_a_stored_bike_checks_as_its_file_does(owner, bike) -> None:
    assert current_bike(owner, bike.pk).check == check(build_from(BUILD))


def test_a_bike_from_a_file_and_back(client, owner) -> None:
    client.force_login(owner)
    answer = upload(client, {**BUILD, "x_own": {"deep": [1, None]}})
    stored = Bike.objects.get()
    assert answer.url == reverse("bikes:stand", args=[stored.pk])
    out = client.get(reverse("bikes:build-file", args=[stored.pk]))
    read = read_build(out.content)
    assert read == build_from({**BUILD, "x_own": {"deep": [1, None]}})
    assert all(set(part.origins.values()) == {"stated"} for part in read.parts.values())


BAD_FILES = [
    (b"", "submitted file is empty"),
    (b"{", "not JSON: line 1"),
    (b"\xff", "not UTF-8"),
    ({"parts": {"cassette": {"attrs": {"sprockets": 9}}}}, "parts.cassette.attrs.sprockets: unknown"),
    ({"parts": {"cassette": {"attrs": {"teeth": [11, 8]}}}}, "parts.cassette.attrs.teeth[1]: 8 given"),
    (b'{"x_a":' * 700 + b"1" + b"}" * 700, "nested too deeply"),
    (b"[" * 100_000, "nested too deeply"),
    ({"parts": {}, "empty": ["sofa"]}, "empty[0]"),
    ({"parts": {"frame": {}}, "empty": ["frame"]}, "is filled"),
]


@pytest.mark.parametrize(("content", "says"), BAD_FILES, ids=str)
def test_a_bad_file_is_reported_beside_its_field_and_stores_nothing(client, owner, content, says) -> None:
    client.force_login(owner)
    answer = upload(client, content)
    assert answer.status_code == 422
    assert says in answer.text
    assert 'id="file-fault"' in answer.text
    assert Bike.objects.count() == 0
    assert LogEntry.objects.count() == 0


def test_the_yard_finds_and_shows_the_worst(client, owner, bike) -> None:
    client.force_login(owner)
    page = client.get(reverse("bikes:yard"))
    assert "Pier bike" in page.text
    assert "Not measured" in page.text
    for find, there in (("pier", True), ("ebba", True), ("pb-1", True), ("tandem", False)):
        assert ("PB-1" in client.get(reverse("bikes:yard"), {"find": find}).text) is there


def test_a_bike_without_parts_is_unmeasured_everywhere(client, owner) -> None:
    bare = store_build(owner, build_from({"name": "Bare", "parts": {}}))
    client.force_login(owner)
    for url in (reverse("bikes:yard"), reverse("bikes:stand", args=[bare.pk])):
        page = client.get(url)
        assert page.status_code == 200
        assert "Not measured" in page.text


def test_queries_of_the_yard_do_not_grow_with_bikes(client, owner, bike) -> None:
    client.force_login(owner)
    counts = []
    for _ in range(2):
        with CaptureQueriesContext(connection) as seen:
            client.get(reverse("bikes:yard"))
        counts.append(len(seen))
        for n in range(5):
            store_build(owner, build_from({**BUILD, "name": f"More {n}"}))
    assert counts[0] == counts[1] <= 15  # one of them for the list of the first day


def test_the_stand_asks_for_what_is_not_measured(client, owner, bike) -> None:
    client.force_login(owner)
    page = client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert 'name="attr" value="links"' in page
    answer = client.post(
        reverse("bikes:part-measure", args=[bike.pk]),
        {"version": 1, "slot": "chain", "attr": "links", "value": "110"},
    )
    assert answer.url == reverse("bikes:stand", args=[bike.pk])
    part = BikePart.objects.get(bike=bike, slot="chain")
    assert (part.attrs["links"], part.origins["links"]) == (110, "measured")
    line = LogEntry.objects.latest("at")
    assert (line.before, line.after) == ({"chain": {"links": None}}, {"chain": {"links": 110}})


BAD_READINGS = [
    ({"value": "19"}, 422, "links: 19"),
    ({"value": "many"}, 422, "'many' given"),
    ({"value": "110.5"}, 422, "links: 110.5"),
    ({"value": "nan"}, 422, "'nan' given"),
    ({"value": ""}, 422, "value"),
    ({"slot": "sofa"}, 404, "Not here"),
    ({"attr": "colour"}, 404, "Not here"),
    ({"version": "0"}, 409, "Somebody changed this bike"),
]


@pytest.mark.parametrize(("more", "status", "says"), BAD_READINGS, ids=str)
def test_bad_readings_are_reported_and_store_nothing(client, owner, bike, more, status, says) -> None:
    client.force_login(owner)
    data = {"version": "1", "slot": "chain", "attr": "links", "value": "110", **more}
    answer = client.post(reverse("bikes:part-measure", args=[bike.pk]), data)
    assert answer.status_code == status
    assert says in answer.text.replace("&#x27;", "'")
    assert "links" not in BikePart.objects.get(bike=bike, slot="chain").attrs


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
    with pytest.raises(Conflict):
        record_measure(actor=mechanic, bike_id=bike.pk, version=1, slot="chain", attr="links", value=112)
    assert BikePart.objects.get(bike=bike, slot="chain").attrs["links"] == 110


def test_the_database_holds_its_own_line(owner, bike, workshop) -> None:
    with pytest.raises(IntegrityError), transaction.atomic():
        BikePart.objects.create(bike=bike, slot="chain", kind="chain")
    with pytest.raises(IntegrityError), transaction.atomic():
        CataloguePart.objects.create(workshop=workshop, kind="chain", name="x", price="-1")


@pytest.mark.parametrize("page", ["gears", "chain"])
def test_pages_say_what_is_missing(client, owner, page) -> None:
    bare = store_build(owner, build_from({"name": "Bare", "parts": {"rear_derailleur": {}}}))
    client.force_login(owner)
    text = client.get(reverse("bikes:work", args=[bare.pk, page])).text
    assert "cannot be worked out yet" in text
    assert "Cassette: sprockets" in text


@pytest.mark.own_database("demo")
def test_the_demonstration(db) -> None:
    workshop = Workshop.objects.get(demo=True)
    assert workshop.bikes.count() >= 12
    kinds = set(workshop.catalogue.values_list("kind", flat=True))
    assert {"cassette", "chain", "shifter", "rear_derailleur", "chainrings"} <= kinds
    assert workshop.catalogue.count() >= 250
    assert kinds == set(KINDS)
    counts = {part.attrs["speeds"] for part in workshop.catalogue.filter(kind="cassette")}
    assert counts == {1, 7, 8, 9, 10, 11, 12}
    owner = workshop.people.get(username="rona")
    seen = {bike.name: current_bike(owner, bike.pk).check for bike in workshop.bikes.all()}
    assert "differ_usable" in {f.key for f in seen["Harbour post no. 4"].findings}
    from unkett.web.plans.models import Plan
    from unkett.web.plans.queries import planned

    plans = {plan.name: planned(owner, plan.pk).check for plan in Plan.objects.all()}
    assert "spacer" in {f.key for f in plans["Wide tens"].findings}
    assert "too_far" in {f.key for f in plans["11–34 behind"].findings if f.rule == "capacity"}
    assert len(plans) >= 6
    disc = plans["Rim to disc"]
    assert {f.key for f in disc.findings if f.verdict.value != "goes"} == {"to_lace"}  # new hubs are laced in
    assert [f.rule for f in plans["Longer fork"].findings if f.verdict.value == "no_go"] == ["fork-length"]
    uses = {bike.use for bike in workshop.bikes.all()}
    assert uses >= {"cargo", "tandem", "fat", "trail", "kids", "track", "touring"}
    for bike in workshop.bikes.all():
        assert bike.verdict == seen[bike.name].verdict.value


@pytest.mark.own_database("demo")
def test_loading_again_replaces_the_demonstration_only(owner, bike) -> None:
    Bike.objects.filter(workshop__demo=True).update(name="scribbled")
    call_command("load_demo", "--once", verbosity=0)
    assert Bike.objects.filter(name="scribbled").count() == 16
    call_command("load_demo", verbosity=0)
    assert Bike.objects.filter(name="scribbled").count() == 0
    assert Bike.objects.filter(pk=bike.pk).exists()


def test_a_broken_catalogue_loads_nothing(monkeypatch, db) -> None:
    from unkett.web.demo import load as module

    good = module._read
    monkeypatch.setattr(
        module,
        "_read",
        lambda name: [{**good(name)[0], "attrs": {"colour": 1}}] if name == "catalogue" else good(name),
    )
    with pytest.raises(InputError, match="colour: unknown"):
        load()
    assert Workshop.objects.filter(demo=True).count() == 0


@pytest.mark.own_database("demo")
@pytest.mark.parametrize("page", ["bracket", "brakes", "wheels", "steering"])
def test_pages_of_the_work(client, db, page) -> None:
    client.force_login(Workshop.objects.get(demo=True).people.get(username="rona"))
    bike = Bike.objects.get(name="Harbour post no. 4")
    url = reverse("bikes:work", args=[bike.pk, page])
    answer = client.get(url)
    assert 'class="where-panel"' in answer.text
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
    url = reverse("bikes:work", args=[bike.pk, "gears"])
    page = client.get(url, {"grade": "10", "power": "200"}).text
    assert "95 <small>kg</small> in all" in page  # 80 and 15
    assert "60 rpm" in page
    assert "48.1" in page  # top gear 40/11 × π × 0.702 m at 100 rpm: 48.12 km/h
    rows = client.get(url, {"as": "csv"}).text.splitlines()
    assert len(rows) == 1 + 9
    assert rows[1].startswith("now,40,32,1.25,2.757")  # 1.25 × π × 702 mm
    assert client.get(url, {"as": "svg"}).text.startswith("<svg xmlns")
    assert client.get(url, {"as": "sofa"}).status_code == 404
    assert client.get(url, {"grade": "steep", "power": "-1"}).status_code == 200
    assert client.get(reverse("bikes:work", args=[bike.pk, "chain"]), {"as": "svg"}).text.startswith(
        "<svg xmlns"
    )


def test_an_open_slot_that_is_measured_holds_a_part(owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="fork", attr="offset_mm", value=45)
    part = BikePart.objects.get(bike=bike, slot="fork")
    assert (part.name, part.attrs, part.origins) == ("", {"offset_mm": 45}, {"offset_mm": "measured"})


def test_the_riders_numbers_are_kept_with_the_bike(owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="bike", attr="saddle_height_mm", value=710)
    assert Bike.objects.get(pk=bike.pk).rider == {"mass_kg": 80, "saddle_height_mm": 710}
    with pytest.raises(NotThere):
        record_measure(actor=owner, bike_id=bike.pk, version=2, slot="bike", attr="use", value="city")


def test_an_unlikely_reading_is_asked_about_and_kept_on_purpose(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-measure", args=[bike.pk])
    data = {"version": "1", "slot": "frame", "attr": "chainstay_mm", "value": "4320"}
    assert client.post(url, {**data, "value": "4320"}).status_code == 422  # out of range: refused
    answer = client.post(url, {**data, "value": "43,2"})
    assert answer.status_code == 422
    assert "Check this reading" in answer.text
    assert "Usual: 405 to 480" in answer.text
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["chainstay_mm"] == 432
    kept = client.post(url, {**data, "value": "43,2", "really": "1"})
    assert kept.status_code == 302
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["chainstay_mm"] == 43.2
    assert LogEntry.objects.latest("at").before == {
        "frame": {"chainstay_mm": 432}
    }  # the reading before stays


@pytest.mark.parametrize(
    ("value", "unlikely"), [(432, False), (380, False), (520, False), (300, True), (900, True)]
)
def test_what_is_unlikely_lies_far_from_the_usual(value, unlikely) -> None:
    assert describe("frame", "chainstay_mm").unlikely(value) is unlikely


def test_a_reading_comes_back_to_its_page(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-measure", args=[bike.pk])
    here = reverse("bikes:work", args=[bike.pk, "steering"])
    page = client.get(here).text
    assert f'name="next" value="{here}"' in page
    data = {"version": "1", "slot": "frame", "attr": "head_angle_deg", "value": "71,5", "next": here}
    assert client.post(url, data).url == here
    away = client.post(url, {**data, "version": "2", "next": "https://elsewhere.example/"})
    assert away.url == reverse("bikes:stand", args=[bike.pk])


def keep(client, bike, name, version=1, **typed):
    data = {"version": version, **{f"typed-{key}": value for key, value in typed.items()}}
    return client.post(reverse("bikes:typed-keep", args=[bike.pk, name]), data)


def test_what_is_typed_under_a_calculation_is_kept(client, owner, bike) -> None:
    client.force_login(owner)
    answer = keep(
        client,
        bike,
        "crank_centring",
        drive_mm="58,4",
        non_drive_mm="60.6",
        free_mm="2.5",
        stock_mm="0.5 1.0",
    )
    assert answer.status_code == 302
    assert Bike.objects.get(pk=bike.pk).kept["crank_centring"]["drive_mm"] == 58.4
    page = client.get(reverse("bikes:work", args=[bike.pk, "bracket"])).text
    asked = f"{reverse('calculators:calculation', args=['crank_centring'])}?bike={bike.pk}"
    assert f'hx-get="{asked}"' in page
    assert 'value="60.6"' in client.get(asked, headers={"HX-Request": "true"}).text
    answer = keep(client, bike, "steerer_cut", 2, head_tube_mm="150", spacers_below_mm="10")
    assert answer.status_code == 302
    assert BikePart.objects.get(bike=bike, slot="frame").attrs["head_tube_length_mm"] == 150
    assert BikePart.objects.get(bike=bike, slot="spacers").attrs == {"below_mm": 10}


@pytest.mark.parametrize(
    ("name", "typed", "status"),
    [
        ("sag", {"full_mm": "120", "sag_mm": "130"}, 422),
        ("sag", {"full_mm": "wide"}, 422),
        ("steerer_cut", {"head_tube_mm": "1500"}, 422),  # really?
        ("magic", {"full_mm": "1"}, 404),
        ("sag", {"version": 0, "full_mm": "120"}, 409),
    ],
)
def test_nothing_bad_is_kept(client, owner, bike, name, typed, status) -> None:
    client.force_login(owner)
    assert keep(client, bike, name, **{"version": 1, **typed}).status_code == status
    assert Bike.objects.get(pk=bike.pk).kept == {}
    assert "head_tube_length_mm" not in BikePart.objects.get(bike=bike, slot="frame").attrs


STACK = {
    "headset": {"attrs": {"stack_lower_mm": 10, "stack_upper_mm": 20}},
    "stem": {"attrs": {"clamp_height_mm": 40}},
    "spacers": {"attrs": {"below_mm": 20, "above_mm": 5}},
    "frame": {"attrs": {"head_tube_length_mm": 140}},
    "fork": {"attrs": {"steerer_length_mm": 260}},
}


def test_a_cut_is_asked_about_twice_before_it_is_recorded(client, owner) -> None:
    bike = store_build(owner, build_from({"name": "Tall", "parts": STACK}))
    client.force_login(owner)
    assert "two questions first" in client.get(reverse("bikes:work", args=[bike.pk, "steering"])).text
    url = reverse("bikes:steerer-cut", args=[bike.pk])
    assert "232.0" in client.get(url).text  # 10 + 140 + 20 + 20 + 40 + 5 − 3
    length = lambda: BikePart.objects.get(bike=bike, slot="fork").attrs["steerer_length_mm"]  # noqa: E731
    assert client.post(url, {"version": 1}).status_code == 422  # the first question is not answered
    assert "Question 2 of 2" in client.post(url, {"version": 1, "stands": "1"}).text
    wrong = client.post(url, {"version": 1, "stands": "1", "again": "235"})
    assert wrong.status_code == 422
    assert "measure until both agree" in wrong.text
    assert client.post(url, {"version": 1, "stands": "1", "again": "short"}).status_code == 422
    assert length() == 260
    assert client.post(url, {"version": 1, "stands": "1", "again": "231,5"}).status_code == 302
    assert length() == 231.5
    assert LogEntry.objects.latest("at").verb == "cut"
    assert client.get(url).status_code == 422  # nothing is left to cut


def test_gears_beside_others(client, owner, bike, plan, catalogue) -> None:
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Wide nine"].pk)
    client.force_login(owner)
    url = reverse("bikes:work", args=[bike.pk, "gears"])
    data = {"beside": plan.pk, "rings": "46-30", "sprockets": "11 13 15 18 21 24 28 32 36", "as": "csv"}
    rows = client.get(url, data).text.splitlines()
    states = [row.split(",")[0] for row in rows[1:]]
    assert {state: states.count(state) for state in set(states)} == {
        "now": 9,
        "Plan A": 9,
        "typed": 18,
    }
    page = client.get(url, {"rings": "460", "sprockets": "11"})
    assert page.status_code == 200
    assert "460" in page.text
    assert 'role="alert"' in page.text
    for bad in ({"beside": "x"}, {"beside": "99999999999999"}, {"sprockets": "42 11", "rings": "40"}):
        assert client.get(url, bad).status_code == 200


def test_the_label_names_the_chain_and_its_cassette(client, owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    client.force_login(owner)
    text = client.get(reverse("bikes:work", args=[bike.pk, "chain"]), {"label": "1"}).text
    assert "110" in text
    assert "Nine" in text
    assert "PB-1" in text


def test_a_printed_page_says_whose_bike_it_is(client, owner, bike, plan) -> None:
    client.force_login(owner)
    stand = client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert "<b>Pier bike</b>, frame PB-1 · Ebba Holm · now · printed" in " ".join(stand.split())
    assert "A qualified mechanic checks brakes and steering" in stand
    planned = client.get(reverse("plans:work", args=[plan.pk, "brakes"])).text
    assert "as planned in Plan A" in planned
    label = client.get(reverse("bikes:work", args=[bike.pk, "chain"]), {"label": "1"}).text
    assert "printed" not in label


def test_a_build_file_carries_whose_it_is_and_where_its_figures_come_from(client, owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    Bike.objects.filter(pk=bike.pk).update(wish="Lower gears", complaint="Skips", frame_number="PB-7")
    bike.refresh_from_db()
    client.force_login(owner)
    text = client.get(reverse("bikes:build-file", args=[bike.pk])).content
    there = add_bike_from_file(actor=owner, content=text)
    for name in ("wish", "complaint", "frame_number", "customer_id", "use"):
        assert getattr(there, name) == getattr(bike, name), name
    old, new = ({part.slot: (part.attrs, part.origins) for part in one.fitted.all()} for one in (bike, there))
    assert new["chain"][1]["links"] == "measured"
    assert new == {
        slot: (attrs, dict.fromkeys(attrs, "stated") | origins) for slot, (attrs, origins) in old.items()
    }
