"""Set-ups: named sets of parts, swapped in one step and back, each checked whole."""

import pytest
from django.urls import reverse

from unkett.core.bike.setups import compared
from unkett.core.formats.reader import build_from
from unkett.web.bikes.fitting import undo
from unkett.web.bikes.models import Bike, BikePart, Where
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import store_build
from unkett.web.bikes.setups import Source, add_set_up, put_on, remove_set_up, set_ups_of
from unkett.web.workshop.errors import Refused

WHEELS = {
    "rear_hub": {"attrs": {"freehub": "spline9", "spacing_mm": 135, "rotor_offset_mm": 15.3}},
    "rear_rotor": {"attrs": {"diameter_mm": 160, "mount": "six_bolt"}},
    "rear_tyre": {"attrs": {"width_mm": 42, "bsd_mm": 622}},
    "cassette": {"name": "Wide", "attrs": {"speeds": 9, "teeth": [11, 13, 15, 17, 20, 23, 26, 30, 34]}},
}


@pytest.fixture
def two(owner, catalogue) -> Bike:
    """A bike with its summer wheel on and a winter wheel with another cassette set aside."""
    bike = store_build(owner, build_from({"name": "Two wheels", "parts": WHEELS}))
    on = {slot: Source(sort="on") for slot in WHEELS}
    add_set_up(actor=owner, bike_id=bike.pk, version=1, name="Summer", parts=on)
    like = {slot: Source(sort="like") for slot in WHEELS if slot not in ("cassette", "rear_rotor")}
    like["cassette"] = Source(sort="catalogue", part_id=catalogue["Eight"].pk)
    add_set_up(actor=owner, bike_id=bike.pk, version=2, name="Winter", parts=like)
    return Bike.objects.get(pk=bike.pk)


def on_it(bike: Bike) -> dict[str, int]:
    return {part.slot: part.pk for part in bike.fitted.all()}


def test_a_set_up_is_swapped_whole_and_back_and_undone(owner, two) -> None:
    summer, winter = two.set_ups.get(name="Summer"), two.set_ups.get(name="Winter")
    before = on_it(two)
    bike = put_on(actor=owner, bike_id=two.pk, version=3, set_up_id=winter.pk)
    assert set(on_it(bike)) == {"rear_hub", "rear_tyre", "cassette"}  # the rotor goes with the summer wheel
    assert not set(on_it(bike).values()) & set(before.values())
    assert {BikePart.objects.get(pk=pk).where for pk in before.values()} == {Where.ASIDE}
    assert bike.fitted.get(slot="cassette").name == "Eight"
    assert BikePart.objects.get(pk=on_it(bike)["rear_hub"]).origins["spacing_mm"] == "alike"
    undo(actor=owner, bike_id=two.pk, version=4)
    assert on_it(two) == before
    put_on(actor=owner, bike_id=two.pk, version=5, set_up_id=winter.pk)
    put_on(actor=owner, bike_id=two.pk, version=6, set_up_id=summer.pk)
    assert on_it(two) == before
    winter_part = winter.places.first().part
    BikePart.objects.filter(pk=winter_part.pk).update(where=Where.SCRAPPED)
    with pytest.raises(Refused, match="scrapped"):
        put_on(actor=owner, bike_id=two.pk, version=7, set_up_id=winter.pk)
    assert on_it(two) == before


def test_each_is_checked_as_if_it_were_on(owner, two) -> None:
    summer, winter = set_ups_of(owner, current_bike(owner, two.pk))
    assert (summer.is_on, winter.is_on) == (True, False)
    put_on(actor=owner, bike_id=two.pk, version=3, set_up_id=winter.set_up.pk)
    really = current_bike(owner, two.pk)
    assert [f.to_json() for f in really.check.findings] == [f.to_json() for f in winter.check.findings]


def test_a_forgotten_set_up_lays_its_parts_on_the_bench(owner, two) -> None:
    winter = two.set_ups.get(name="Winter")
    parts = list(winter.places.values_list("part_id", flat=True))
    remove_set_up(actor=owner, bike_id=two.pk, version=3, set_up_id=winter.pk)
    assert set(BikePart.objects.filter(pk__in=parts).values_list("where", flat=True)) == {Where.BENCH}
    remove_set_up(actor=owner, bike_id=two.pk, version=4, set_up_id=two.set_ups.get().pk)
    assert len(on_it(two)) == 4  # what is on the bike stays there


def test_side_by_side_says_shims_tyres_and_sprockets() -> None:
    def bike(offset: float, tyre: int, teeth: list[int]) -> object:
        parts = {
            "rear_hub": {"attrs": {"rotor_offset_mm": offset}},
            "rear_rotor": {"attrs": {"diameter_mm": 160}},
            "rear_tyre": {"attrs": {"width_mm": tyre, "bsd_mm": 622}},
            "cassette": {"attrs": {"teeth": teeth}},
            "chainrings": {"attrs": {"teeth": [40]}},
        }
        return build_from({"parts": parts})

    rows = compared({"A": bike(15.3, 42, [11, 34]), "B": bike(15.7, 32, [10, 34])})
    by = {row.title: row for row in rows}
    # B's face is 0.4 mm further in from the locknut than A's: two shims of 0.2 bring its rotor out to A's plane
    assert by["Rear rotor, locknut to its face"].says == "Shims: 2 of 0.2 mm behind the rotor of B."
    assert by["Rear tyre"].values == {"A": 42, "B": 32}
    assert by["Smallest sprocket"].values == {"A": 11, "B": 10}
    assert "dropout" in by["Smallest sprocket"].says
    # by hand: π × (622 + 2 × 42) × 40 / 11 and π × (622 + 2 × 32) × 40 / 10, in metres
    assert by["Highest gear"].values == {"A": 8.07, "B": 8.62}
    assert not by["Largest sprocket"].differs
    assert by["Largest sprocket"].says == ""


def test_a_new_set_up_is_refused_beside_its_field(client, owner, two) -> None:
    client.force_login(owner)
    url = reverse("bikes:set-ups", args=[two.pk])
    for data, says in (
        ({"name": ""}, "a name of 1 to 80"),
        ({"name": "Winter"}, "has a set-up of that name"),
        ({"name": "Third", "cassette.from": ""}, "choose at least one part"),
        ({"name": "Third", "cassette.name": "No such"}, "no part of the catalogue"),
    ):
        answer = client.post(f"{url}?sort=drive", {"version": 3, "once": "", "cassette.from": "on", **data})
        assert answer.status_code == 422, data
        assert says in answer.text, data
    assert two.set_ups.count() == 2
    assert (
        client.post(url, {"version": 1, "once": "", "name": "Late", "cassette.from": "on"}).status_code == 409
    )
