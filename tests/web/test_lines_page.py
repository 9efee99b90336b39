"""The Lines page: routes chosen, guides moved, a plan's change reported, the cut list and what it is cut from."""

import csv
import io

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.bike.routes import routes_for
from unkett.core.formats.reader import build_from
from unkett.web.bikes.lines import choose_route, move_point
from unkett.web.bikes.models import Bike
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.catalogue.models import StockItem
from unkett.web.catalogue.stock import Opened, add_stock, cut_stock
from unkett.web.plans import services
from unkett.web.workshop.errors import Refused

PARTS = {
    "frame": {"attrs": {"wheelbase_mm": 1012, "chainstay_mm": 430, "reach_mm": 385, "stack_mm": 580}},
    "stem": {"attrs": {"length_mm": 110, "angle_deg": -6}},
    "handlebar": {"attrs": {"shape": "flat", "width_mm": 640}},
    "rear_brake_line": {"name": "Housing", "attrs": {"type": "brake_housing"}},
}


@pytest.fixture
def lined(owner) -> Bike:
    """A bike whose rear brake line runs along the top tube; the old one was measured."""
    bike = store_build(owner, build_from({"name": "Line bike", "use": "city", "parts": PARTS}))
    choose_route(actor=owner, bike_id=bike.pk, version=1, slot="rear_brake_line", route="rear_top_tube_stops")
    need = bike.fitted.get(slot="rear_brake_line").attrs["need_mm"]
    return record_measure(
        actor=owner, bike_id=bike.pk, version=2, slot="rear_brake_line", attr="length_mm", value=round(need) + 10,
        really=True,
    )  # fmt: skip


def test_a_route_is_chosen_and_a_guide_moved(client, owner, lined) -> None:
    client.force_login(owner)
    page = client.get(reverse("bikes:work", args=[lined.pk, "lines"])).text
    assert "The old line stays, with 10 mm of slack" in page
    line = lined.fitted.get(slot="rear_brake_line")
    before = line.attrs["need_mm"]
    assert (line.origins["need_mm"], line.origins["length_mm"]) == ("assumed", "measured")
    url = reverse("bikes:line-point", args=[lined.pk, "rear_brake_line"])
    ways = client.get(reverse("bikes:work", args=[lined.pk, "lines"]), {"line": "rear_brake_line"}).text
    form = next(
        one for one in forms_of(ways) if one.action == url and one.fields.get("point") == "top_tube_rear"
    )
    assert client.post(url, {**form.fields, "up_mm": "700"}).status_code == 302
    line.refresh_from_db()
    assert line.attrs["need_mm"] > before
    assert [item["point"] for item in line.attrs["points_mm"]] == ["top_tube_rear"]
    far = {**form.fields, "once": "", "version": lined.version + 1, "up_mm": "9999"}
    assert client.post(url, far).status_code == 422
    with pytest.raises(Refused):
        move_point(
            actor=owner, bike_id=lined.pk, version=lined.version + 1, slot="rear_brake_line", point="x", at={}
        )


def test_the_ways_of_a_line_come_as_they_are_unfolded(client, owner, lined) -> None:
    client.force_login(owner)
    url = reverse("bikes:work", args=[lined.pk, "lines"])
    assert "Use this route" not in client.get(url).text
    for headers in ({"HX-Request": "true"}, {}):
        ways = client.get(url, {"line": "rear_brake_line"}, headers=headers).text
        assert ways.count("Use this route") == len(routes_for("rear_brake_line")) - 1
    form = next(one for one in forms_of(ways) if one.fields.get("route") == "rear_full")
    assert client.post(form.action, form.fields).status_code == 302
    assert lined.fitted.get(slot="rear_brake_line").attrs["route"] == "rear_full"
    bad = {**form.fields, "once": "", "version": 4, "route": "internal_open"}
    assert client.post(form.action, bad).status_code == 422


def test_what_was_measured_of_a_path_stays(owner, lined) -> None:
    record_measure(
        actor=owner, bike_id=lined.pk, version=3, slot="rear_brake_line", attr="turns_deg", value=[90, 90, 90]
    )
    choose_route(actor=owner, bike_id=lined.pk, version=4, slot="rear_brake_line", route="rear_full")
    attrs = lined.fitted.get(slot="rear_brake_line").attrs
    assert attrs["turns_deg"] == [90, 90, 90]
    assert attrs["route"] == "rear_full"


def test_a_shorter_stem_leaves_the_old_line_with_more_slack(client, owner, lined) -> None:
    plan = services.start_plan(actor=owner, bike_id=lined.pk)
    stem = {"length_mm": 60, "angle_deg": -6}
    services.type_part(actor=owner, plan_id=plan.pk, version=1, slot="stem", name="Short", values=stem)
    client.force_login(owner)
    page = client.get(reverse("plans:work", args=[plan.pk, "lines"])).text
    change = float(page.split('data-number="change">')[1].split("<")[0])
    assert -60 < change < -15
    assert (
        f"Stays if it is cut {10 - change:.0f} mm shorter" in page
    )  # 40 mm at the rear are left as they are


def test_the_cut_list_is_made_from_what_there_is(client, owner, lined) -> None:
    client.force_login(owner)
    url = reverse("bikes:lines-cut", args=[lined.pk])
    assert "lengths that shops sell" in client.get(url).text
    add_stock(actor=owner, sort="brake_housing", length_mm=900, count=2)
    add_stock(actor=owner, sort="brake_inner", length_mm=2000, count=None)
    page = client.get(url, {"spare": "20"}).text
    assert "From 900 mm" in page
    rows = list(csv.reader(io.StringIO(client.get(url, {"as": "csv"}).text)))
    assert ["Brake inner, stainless", "Rear brake line"] in [row[:2] for row in rows]
    form = next(
        one for one in forms_of(page) if one.action.startswith(reverse("bikes:lines-is-cut", args=[lined.pk]))
    )
    assert client.post(form.action, form.fields).status_code == 302
    left = StockItem.objects.filter(sort="brake_housing").order_by("length_mm")
    pieces = [float(row[2]) for row in rows if row[0].startswith("Brake housing")]
    assert [(row.length_mm, row.count, row.offcut) for row in left] == [
        (900 - sum(pieces), 1, True), (900, 1, False),
    ]  # fmt: skip
    assert not StockItem.objects.filter(sort="brake_inner", offcut=True).exists()  # it has no head
    with pytest.raises(Refused):
        cut_stock(actor=owner, opened=[Opened(sort="hose", length_mm=1700, left_mm=0)])


def test_queries_of_the_lines_do_not_grow(client, owner, lined) -> None:
    client.force_login(owner)
    counts = []
    for _ in range(2):
        with CaptureQueriesContext(connection) as seen:
            client.get(reverse("bikes:work", args=[lined.pk, "lines"]))
        counts.append(len(seen))
        choose_route(
            actor=owner, bike_id=lined.pk, version=Bike.objects.get(pk=lined.pk).version, slot="rear_shift_line",
            route="internal_open",
        )  # fmt: skip
    assert counts[0] == counts[1] <= 8
