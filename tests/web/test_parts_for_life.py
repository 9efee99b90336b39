"""A part is one row for life: measured, moved, taken off, fitted again, undone, scrapped; a ledger tells of it."""

import threading

import pytest
from django.db import connection
from django.urls import reverse

from tests.conftest import BUILD
from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.models import Bike, BikePart, Move, Where
from unkett.web.bikes.queries import bench_of, history_of
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.workshop.errors import NotThere, Refused


@pytest.fixture
def other(owner) -> Bike:
    """A bike with nothing but a frame."""
    return store_build(owner, build_from({"name": "Bare frame", "parts": {"frame": BUILD["parts"]["frame"]}}))


def part(bike, slot) -> BikePart:
    return BikePart.objects.get(bike=bike, slot=slot)


def version(bike) -> int:
    return Bike.objects.get(pk=bike.pk).version


def state(one: BikePart) -> tuple[str, int | None, str]:
    fresh = BikePart.objects.get(pk=one.pk)
    return fresh.where, fresh.bike_id, fresh.slot


def test_the_same_row_from_stand_to_bench_to_another_bike(owner, bike, other) -> None:
    chain = part(bike, "chain")
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    assert part(bike, "chain").pk == chain.pk
    fitting.take_off(actor=owner, bike_id=bike.pk, version=2, slot="chain")
    assert state(chain) == ("bench", None, "")
    assert [lying.pk for lying in bench_of(owner)] == [chain.pk]
    fitting.fit_part(actor=owner, bike_id=other.pk, version=1, slot="chain", part_id=chain.pk)
    assert state(chain) == ("on bike", other.pk, "chain")
    assert part(other, "chain").attrs == {"speeds": 9, "links": 110}
    moves = [(m.line.verb, m.from_where, m.to_where, m.from_bike_id, m.to_bike_id) for m in chain.moves.all()]
    assert moves == [
        ("measure", "on bike", "on bike", bike.pk, bike.pk),
        ("take off", "on bike", "bench", bike.pk, None),
        ("fit", "bench", "on bike", None, other.pk),
    ]
    first = chain.moves.first()
    assert (first.before["attrs"], first.after["attrs"]) == ({"speeds": 9}, {"speeds": 9, "links": 110})
    assert first.line.actor == owner


def test_undo_restores_the_row_and_never_makes_one_anew(owner, bike, other) -> None:
    chain, number = part(bike, "chain"), BikePart.objects.count()
    fitting.take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert state(chain) == ("on bike", bike.pk, "chain")
    assert BikePart.objects.count() == number
    fitting.take_off(actor=owner, bike_id=bike.pk, version=3, slot="chain")
    fitting.fit_part(actor=owner, bike_id=other.pk, version=1, slot="chain", part_id=chain.pk)
    with pytest.raises(Refused, match="elsewhere by now"):
        fitting.undo(actor=owner, bike_id=bike.pk, version=4)
    fitting.undo(actor=owner, bike_id=other.pk, version=2)
    assert state(chain) == ("bench", None, "")


def test_what_was_entered_by_mistake_is_kept_but_was_never_there(owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="stem", attr="length_mm", value=90)
    stem = part(bike, "stem")
    fitting.undo(actor=owner, bike_id=bike.pk, version=2)
    assert state(stem) == ("never", None, "")
    assert bench_of(owner) == []
    with pytest.raises(NotThere):
        fitting.fit_part(actor=owner, bike_id=bike.pk, version=3, slot="stem", part_id=stem.pk)
    record_measure(actor=owner, bike_id=bike.pk, version=3, slot="stem", attr="length_mm", value=100)
    assert part(bike, "stem").pk != stem.pk


def test_a_move_is_undone_where_the_part_went(owner, bike, other) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    cassette = part(bike, "cassette")
    fitting.move_part(actor=owner, bike_id=bike.pk, version=2, slot="cassette", to_bike_id=other.pk)
    assert (version(bike), version(other)) == (3, 2)
    with pytest.raises(Refused, match="nothing to undo"):
        fitting.undo(actor=owner, bike_id=bike.pk, version=3)  # the donor's is settled
    donor = Bike.objects.get(pk=bike.pk)
    assert "cassette" in donor.empty
    fitting.undo(actor=owner, bike_id=other.pk, version=2)
    assert state(cassette) == ("on bike", bike.pk, "cassette")
    donor.refresh_from_db()
    assert (donor.version, donor.empty) == (4, [])
    assert version(other) == 3


def test_a_move_is_not_undone_onto_what_took_its_slot(owner, bike, other) -> None:
    fitting.move_part(actor=owner, bike_id=bike.pk, version=1, slot="cassette", to_bike_id=other.pk)
    record_measure(actor=owner, bike_id=bike.pk, version=2, slot="cassette", attr="speeds", value=8)
    with pytest.raises(Refused, match="has a cassette already"):
        fitting.undo(actor=owner, bike_id=other.pk, version=2)


def test_the_bench_page_scraps_and_the_ledger_keeps(client, owner, bike) -> None:
    chain = part(bike, "chain")
    fitting.take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    client.force_login(owner)
    page = client.get(reverse("bench:list")).text
    assert "Chain" in page
    assert "Pier bike" in page
    url = reverse("bench:part-leave", args=[chain.pk])
    assert client.post(url, {"to": "the moon"}).status_code == 404
    assert client.post(url, {"to": "scrapped", "why": "worn"}).status_code == 302
    assert state(chain) == ("scrapped", None, "")
    assert client.post(url, {"to": "scrapped"}).status_code == 404  # it lies there no longer
    assert "No parts yet" in client.get(reverse("bench:list")).text
    assert [move.line.verb for move in chain.moves.all()] == ["take off", "scrap"]


def test_a_part_from_the_bench_is_fitted_on_its_own_page(client, owner, bike, other) -> None:
    fitting.take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    lying = BikePart.objects.get(where=Where.BENCH)
    client.force_login(owner)
    assert "Fit Chain" in client.get(reverse("bikes:part-edit", args=[other.pk, "chain"])).text
    url = reverse("bikes:part-fit", args=[other.pk, "chain"])
    assert client.post(url, {"version": 1, "part": lying.pk}).status_code == 302
    assert state(lying) == ("on bike", other.pk, "chain")
    assert client.post(url, {"version": 2, "part": lying.pk}).status_code == 404


def test_history_tells_every_action_of_a_bike(client, owner, bike, other) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    fitting.move_part(actor=owner, bike_id=bike.pk, version=2, slot="cassette", to_bike_id=other.pk)
    assert [line.verb for line in history_of(owner, bike)] == ["move", "measure"]
    assert [line.verb for line in history_of(owner, other)] == ["receive", "move"]
    client.force_login(owner)
    page = " ".join(client.get(reverse("bikes:history", args=[bike.pk])).text.split())
    assert "<b>Nine</b> Pier bike → Bare frame" in page
    assert 'Links: <span class="quiet">open</span> → 110' in page
    life = " ".join(client.get(reverse("bikes:part-edit", args=[other.pk, "cassette"])).text.split())
    assert "Pier bike → Bare frame" in life


@pytest.mark.own_database
def test_crossing_moves_wait_for_each_other(owner, bike) -> None:
    """Two hands move parts between the same two bikes at once, in opposite directions: both wait in one order."""
    parts = {slot: BUILD["parts"][slot] for slot in ("frame",)}
    wheels = {"front_rim": {"name": "Rim", "attrs": {"bsd_mm": 622}}}
    other = store_build(owner, build_from({"name": "Second", "parts": {**parts, **wheels}}))
    start, errors = threading.Barrier(2), []

    def move(donor: int, receiver: int, slot: str) -> None:
        start.wait()
        for _ in range(3):
            try:
                seen = Bike.objects.get(pk=donor).version
                fitting.move_part(actor=owner, bike_id=donor, version=seen, slot=slot, to_bike_id=receiver)
                break
            except Refused as error:
                errors.append(error)
        connection.close()

    hands = [
        threading.Thread(target=move, args=(bike.pk, other.pk, "chain")),
        threading.Thread(target=move, args=(other.pk, bike.pk, "front_rim")),
    ]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(timeout=300)
    assert not any(hand.is_alive() for hand in hands)
    assert part(other, "chain").name == "Chain"
    assert part(bike, "front_rim").name == "Rim"
    assert Move.objects.count() == 2
