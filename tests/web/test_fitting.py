"""Parts on bikes: edited, filled, taken off, moved; bikes copied; the last change put back."""

import pytest
from django.urls import reverse

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.workshop.errors import Conflict, Refused
from unkett.web.workshop.models import LogEntry


def part(bike, slot) -> BikePart:
    return BikePart.objects.get(bike=bike, slot=slot)


def fields(client, url) -> dict[str, str]:
    """The fields of the part's own form as they stand."""
    return next(form for form in forms_of(client.get(url).text) if "part-form" in form.css).fields


def test_a_part_is_edited_in_its_own_form(client, owner, bike) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-edit", args=[bike.pk, "cassette"])
    data = fields(client, url)
    assert data["teeth"] == "11 12 14 16 18 21 24 28 32"
    assert data["origin-teeth"] == "stated"
    data |= {
        "name": "Counted nine",
        "sprocket_pitch_mm": "4,35",
        "origin-sprocket_pitch_mm": "measured",
        "mount": "",
        "feel": "gritty",
        "wear": "hooked at 14",
    }
    assert client.post(url, data).status_code == 302
    edited = part(bike, "cassette")
    assert edited.name == "Counted nine"
    assert edited.attrs["sprocket_pitch_mm"] == 4.35
    assert edited.origins["sprocket_pitch_mm"] == "measured"
    assert "mount" not in edited.attrs
    assert "mount" not in edited.origins
    assert edited.condition == {"feel": "gritty", "wear": "hooked at 14"}
    page = client.get(reverse("bikes:stand", args=[bike.pk]), {"area": "Drivetrain"}).text
    assert "hooked at 14" in page


def test_saving_a_form_as_it_stands_changes_no_value(client, owner, bike) -> None:
    client.force_login(owner)
    for slot in ("frame", "cassette", "rear_shifter", "rear_derailleur"):
        url = reverse("bikes:part-edit", args=[bike.pk, slot])
        before = part(bike, slot)
        assert client.post(url, fields(client, url)).status_code == 302
        after = part(bike, slot)
        assert (after.attrs, after.origins, after.name) == (before.attrs, before.origins, before.name)


BAD_EDITS = [
    ({"teeth": "11 9"}, 422, "smallest first"),
    ({"teeth": "many"}, 422, "given"),
    ({"feel": "purple"}, 422, "Nothing was saved"),
    ({"wear": "x" * 401}, 422, "at most 400"),
    ({"version": "7"}, 409, "Somebody changed"),
    ({"version": "x"}, 422, "version"),
]


@pytest.mark.parametrize(("more", "status", "says"), BAD_EDITS, ids=str)
def test_bad_edits_are_reported_and_store_nothing(client, owner, bike, more, status, says) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-edit", args=[bike.pk, "cassette"])
    answer = client.post(url, {**fields(client, url), "name": "Changed", **more})
    assert answer.status_code == status
    assert says in answer.text
    assert part(bike, "cassette").name == "Nine"
    assert client.get(reverse("bikes:part-edit", args=[bike.pk, "sofa"])).status_code == 404


def test_an_open_slot_is_filled_from_the_catalogue_and_undone(client, owner, bike, catalogue) -> None:
    client.force_login(owner)
    url = reverse("bikes:part-fill", args=[bike.pk, "cassette"])
    assert "Wide nine" in client.get(url).text
    data = {"version": 1, "part": catalogue["Wide nine"].pk}
    assert client.post(url, data).status_code == 302
    assert part(bike, "cassette").attrs["teeth"][-1] == 36
    assert client.post(url, {"version": 2, "part": catalogue["Chain of 114"].pk}).status_code == 422
    page = client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert "Cassette filled from the catalogue" in page
    assert client.post(reverse("bikes:bike-undo", args=[bike.pk]), {"version": 2}).status_code == 302
    assert part(bike, "cassette").name == "Nine"
    assert "data-undo" not in client.get(reverse("bikes:stand", args=[bike.pk])).text
    assert client.post(reverse("bikes:bike-undo", args=[bike.pk]), {"version": 3}).status_code == 422


def test_undo_puts_everything_back(owner, bike) -> None:
    before = [one.stored() for one in bike.fitted.order_by("slot")]
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="bike", attr="saddle_height_mm", value=700)
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    fitting.take_off(actor=owner, bike_id=bike.pk, version=3, slot="cassette")
    assert not bike.fitted.filter(slot="cassette").exists()
    with pytest.raises(Conflict):
        fitting.undo(actor=owner, bike_id=bike.pk, version=3)
    fitting.undo(actor=owner, bike_id=bike.pk, version=4)
    stored = Bike.objects.get(pk=bike.pk)
    assert [one.stored() for one in stored.fitted.order_by("slot")] == before
    assert stored.rider == {"mass_kg": 80}
    assert LogEntry.objects.filter(verb="undo").count() == 2


def test_a_part_moves_from_bike_to_bike(client, owner, stranger, bike) -> None:
    other = store_build(owner, build_from({"name": "Other", "parts": {"chain": {"attrs": {"speeds": 9}}}}))
    with pytest.raises(Refused, match="has a chain already"):
        fitting.move_part(actor=owner, bike_id=bike.pk, version=1, slot="chain", to_bike_id=other.pk)
    client.force_login(owner)
    answer = client.post(
        reverse("bikes:part-move", args=[bike.pk, "cassette"]), {"version": 1, "to": other.pk}
    )
    assert answer.url == reverse("bikes:stand", args=[other.pk])
    assert part(other, "cassette").attrs["speeds"] == 9
    assert not bike.fitted.filter(slot="cassette").exists()
    assert {"move", "receive"} <= set(LogEntry.objects.values_list("verb", flat=True))
    foreign = store_build(stranger, build_from({"name": "Theirs", "parts": {}}))
    answer = client.post(
        reverse("bikes:part-move", args=[bike.pk, "chain"]), {"version": 2, "to": foreign.pk}
    )
    assert answer.status_code == 404
    assert bike.fitted.filter(slot="chain").exists()


def test_a_bike_is_copied_with_its_parts(client, owner, bike) -> None:
    client.force_login(owner)
    client.post(reverse("bikes:bike-copy", args=[bike.pk]), {"name": "Pier bike 2"})
    new = Bike.objects.get(name="Pier bike 2")
    assert current_bike(owner, new.pk).check == current_bike(owner, bike.pk).check
    assert new.fitted.count() == bike.fitted.count()
    record_measure(actor=owner, bike_id=new.pk, version=1, slot="chain", attr="links", value=110)
    assert "links" not in part(bike, "chain").attrs


def test_the_kept_verdict_is_the_check(owner, bike, catalogue) -> None:
    """After every sort of write the yard's verdict is what a fresh check says."""

    def agrees(pk) -> None:
        stored, fresh = Bike.objects.get(pk=pk), current_bike(owner, pk).check
        assert stored.verdict == fresh.verdict.value
        assert sum(stored.summary["counts"].values()) == len(fresh.findings)

    agrees(bike.pk)
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=90)
    agrees(bike.pk)
    fitting.fill_part(actor=owner, bike_id=bike.pk, version=2, slot="cassette", part_id=catalogue["Eight"].pk)
    agrees(bike.pk)
    fitting.undo(actor=owner, bike_id=bike.pk, version=3)
    agrees(bike.pk)
    fitting.take_off(actor=owner, bike_id=bike.pk, version=4, slot="rear_derailleur")
    agrees(bike.pk)
    agrees(fitting.copy_bike(actor=owner, bike_id=bike.pk, name="x").pk)


TEN = "11 12 13 14 15 16 18 20 22 25"


def test_a_part_never_speaks_against_itself(client, owner, bike) -> None:
    with pytest.raises(InputError, match="10 sprockets given; at most 9"):
        record_measure(
            actor=owner, bike_id=bike.pk, version=1, slot="cassette", attr="teeth", value=[*range(11, 21)]
        )
    client.force_login(owner)
    measured = {"version": 1, "slot": "cassette", "attr": "teeth", "value": TEN}
    assert client.post(reverse("bikes:part-measure", args=[bike.pk]), measured).status_code == 422
    url = reverse("bikes:part-edit", args=[bike.pk, "cassette"])
    answer = client.post(url, fields(client, url) | {"teeth": TEN})
    assert answer.status_code == 422
    assert '<a href="#f-teeth">' in answer.text
    assert f'value="{TEN}"' in answer.text  # nothing typed is lost
    assert BikePart.objects.get(slot="cassette").attrs["teeth"][-1] == 32
    assert not LogEntry.objects.filter(about="bike").exists()
    both = client.post(url, fields(client, url) | {"speeds": "10", "teeth": TEN})
    assert both.status_code == 302
    assert BikePart.objects.get(slot="cassette").attrs["teeth"][-1] == 25


def test_an_old_contradiction_does_not_block_other_parts(owner, bike) -> None:
    BikePart.objects.filter(slot="cassette").update(attrs={"speeds": 8, "teeth": [*range(11, 20)]})
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    assert BikePart.objects.get(slot="chain").attrs["links"] == 110
