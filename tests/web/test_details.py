"""A bike's details changed and undone; put away, removed and brought back."""

import pytest
from django.urls import reverse

from unkett.web.bikes.models import Bike


def send(client, bike, view: str, **data):
    return client.post(
        reverse(f"bikes:{view}", args=[bike.pk]), {"version": bike.version, "once": "", **data}
    )


WELL = {
    "name": "Pier bike", "customer": "Ebba Holm", "use": "touring", "frame_number": "PB-9", "wish": "Lower gears",
    "complaint": "", "mass_kg": "71,5", "load_kg": "", "saddle_height_mm": "", "hand_span_mm": "82",
}  # fmt: skip


def test_details_are_changed_and_undone(client, owner, bike) -> None:
    client.force_login(owner)
    before = Bike.objects.filter(pk=bike.pk).values("name", "use", "customer", "frame_number", "rider").get()
    assert send(client, bike, "details", **WELL).status_code == 302
    bike.refresh_from_db()
    assert (bike.use, bike.frame_number, bike.customer.name) == ("touring", "PB-9", "Ebba Holm")
    assert bike.rider == {"mass_kg": 71.5, "hand_span_mm": 82}
    assert send(client, bike, "bike-undo").status_code == 302
    assert Bike.objects.filter(pk=bike.pk).values(*before).get() == before


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"name": " "}, "enter a name"),
        ({"use": "boat"}, "choose one"),
        ({"mass_kg": "heavy"}, "given"),
        ({"wish": "x" * 2001}, "at most 2000"),
    ],
    ids=str,
)
def test_wrong_details_store_nothing(client, owner, bike, more, says) -> None:
    client.force_login(owner)
    answer = send(client, bike, "details", **{**WELL, **more})
    assert answer.status_code == 422
    assert says in answer.text
    assert 'value="PB-9"' in answer.text
    assert Bike.objects.get(pk=bike.pk).version == bike.version


@pytest.mark.parametrize("to", ["away", "removed"])
def test_a_bike_leaves_the_yard_and_comes_back_as_it_was(client, owner, bike, plan, to) -> None:
    client.force_login(owner)
    yard, stand = reverse("bikes:yard"), reverse("bikes:stand", args=[bike.pk])
    before = client.get(stand).text.count("<li")
    assert send(client, bike, "bike-leave", to=to).url == reverse("bikes:gone")
    assert "Pier bike" not in client.get(yard).text
    assert "Pier bike" in client.get(reverse("bikes:gone")).text
    assert client.get(stand).status_code == (200 if to == "away" else 404)
    assert client.get(reverse("plans:show", args=[plan.pk])).status_code == (200 if to == "away" else 404)
    for _ in range(2):  # a double click is the same
        assert client.post(reverse("bikes:bike-back", args=[bike.pk]), {"once": ""}).status_code == 302
    assert "Pier bike" in client.get(yard).text
    assert client.get(stand).text.count("<li") == before
