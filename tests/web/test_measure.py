"""The Measure pages: the ranking follows the readings; the answer goes on the bike in one step."""

import html
import re

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.identify import SUBJECTS
from unkett.core.vocabulary import describe
from unkett.web.bikes.models import BikePart
from unkett.web.bikes.services import put_found


def test_every_kind_has_its_page(client, mechanic) -> None:
    client.force_login(mechanic)
    page = client.get(reverse("measure:sorts")).text
    for sort in SUBJECTS.values():
        assert sort.title in page
        assert client.get(reverse("measure:sort", args=[sort.name])).status_code == 200
    assert client.get("/measure/sofa/").status_code == 404


def test_the_ranking_follows(client, mechanic) -> None:
    client.force_login(mechanic)
    url = reverse("measure:sort", args=["bb_shell"])
    answer = client.get(url, {"bore_mm": "41,1"}, headers={"HX-Request": "true"})
    assert "<html" not in answer.text
    assert "It tells the top two apart" in answer.text
    answer = client.get(url, {"bore_mm": "41.05", "width_mm": "91.6 mm"})
    assert answer.text.index("41 mm smooth bore") < answer.text.index("41.2 mm")


@pytest.mark.parametrize("text", ["wide", "5 Nm", "-4", "99999"])
def test_bad_readings_are_reported(client, mechanic, text) -> None:
    client.force_login(mechanic)
    answer = client.get(reverse("measure:sort", args=["bb_shell"]), {"bore_mm": text})
    assert answer.status_code == 422
    assert 'class="fault"' in answer.text


def test_put_on_the_bike_in_one_step(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    url = reverse("measure:sort", args=["bb_shell"])
    page = client.get(url, {"bore_mm": "33.7", "width_mm": "68", "bike": bike.pk}).text
    assert "Put on Pier bike" in page
    url = reverse("measure:found-put", args=["bb_shell"])
    data = {"bike": bike.pk, "version": bike.version, "place": 0, "code": "bsa"}
    assert client.post(url, {**data, "code": "sofa"}).status_code == 404
    assert client.post(url, {**data, "place": 9}).status_code == 404
    assert client.post(url, {**data, "version": 0}).status_code == 409
    assert client.post(url, {**data, "code": ""}).status_code == 422
    assert client.post(url, data).status_code == 302
    part = BikePart.objects.get(bike=bike, slot="frame")
    assert (part.attrs["bb_shell"], part.origins["bb_shell"]) == ("bsa", "measured")


def test_every_standard_that_fits_as_well_is_offered_and_what_it_replaces_is_said(
    client, mechanic, bike
) -> None:
    """A bore of 46 mm alone is a threaded shell and three smooth ones; 33.7 mm is none of them."""
    client.force_login(mechanic)
    put = reverse("measure:found-put", args=["bb_shell"])
    page = reverse("measure:sort", args=["bb_shell"])

    def offered() -> str:
        return client.get(page, {"bore_mm": "46", "bike": bike.pk}).text

    codes = {form.fields["code"] for form in forms_of(offered()) if form.action == put}
    assert codes == {"t47", "pf30", "bb386", "offset46"}
    assert "It replaces" not in offered()
    client.post(put, {"bike": bike.pk, "version": bike.version, "place": 0, "code": "pf30"})
    text = offered()
    assert text.count("It replaces") == 3  # all but the one that stands there


def test_another_workshops_bike_is_not_offered(client, stranger, bike) -> None:
    client.force_login(stranger)
    page = client.get(reverse("measure:sort", args=["bb_shell"]), {"bore_mm": "33.7", "bike": bike.pk}).text
    assert "Put on" not in page


def test_a_number_typed_first_names_what_it_may_be(client, mechanic) -> None:
    client.force_login(mechanic)
    page = client.get(reverse("measure:sorts"), {"reading": "27,2"}).text
    assert "Seatpost" in page
    assert 'href="/measure/seatpost/?diameter_mm=27%2C2"' in page
    part = client.get(reverse("measure:sorts"), {"reading": "3333"}, headers={"HX-Request": "true"})
    assert "<html" not in part.text
    assert "No standard in the tables" in part.text
    assert client.get(reverse("measure:sorts"), {"reading": "wide"}).status_code == 422


def test_every_answer_can_be_put_on_a_bike(mechanic, bike) -> None:
    """Every standard of every kind gives values that the part it is put on accepts."""
    version = bike.version
    for sort in SUBJECTS.values():
        # a thread and a remover are the workshop's business, not a part's
        assert sort.puts or sort.name in ("axle_thread", "remover"), sort.name
        for place in sort.puts:
            for row in sort.rows:
                values = place.values(row)
                for attr, value in values.items():
                    describe(place.slot, attr).type.check(value, attr)
            if not values:
                continue
            bike = put_found(actor=mechanic, bike_id=bike.pk, version=version, slot=place.slot, values=values)
            version = bike.version
    hub = BikePart.objects.get(bike=bike, slot="front_hub")
    assert {"axle_kind", "axle_dia_mm", "spacing_mm"} <= set(hub.attrs)
    assert hub.origins["axle_dia_mm"] == "measured"


def test_the_readings_stay_with_what_they_found(client, mechanic, bike) -> None:
    client.force_login(mechanic)
    page = client.get(
        reverse("measure:sort", args=["seatpost"]), {"diameter_mm": "27,2", "bike": bike.pk}
    ).text
    form = next(one for one in forms_of(page) if one.fields.get("bike") and "code" in one.fields)
    assert form.fields["diameter_mm"] == "27,2"
    assert client.post(form.action, form.fields).status_code == 302
    error = client.get(reverse("bikes:history", args=[bike.pk])).text
    assert "27,2 mm" in error
    link = re.search(r'href="(/catalogue/new/[^"]*sort=seatpost[^"]*)"', page)
    assert link is not None
    fields = next(
        one for one in forms_of(client.get(html.unescape(link[1])).text) if "diameter_mm" in one.fields
    )
    assert fields.fields["diameter_mm"] == "27.2"
    assert client.get("/catalogue/new/", {"sort": "seatpost", "place": "9", "code": "x"}).status_code == 404
