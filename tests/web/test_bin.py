"""The parts bin: pieces kept, leaving, coming back; what is counted; a box counted; labels scanned; found by fit."""

import threading
from decimal import Decimal

import pytest
from django.db import IntegrityError, connection, transaction
from django.db.models import Sum
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.web.forms import forms_of
from unkett.core.errors import InputError
from unkett.core.formats.reader import build_from
from unkett.core.rules.finding import Verdict
from unkett.web.bikes.fitting import fit_part, move_part, take_off
from unkett.web.bikes.models import Bike, BikePart, Move
from unkett.web.bikes.queries import current_bike
from unkett.web.bikes.services import store_build
from unkett.web.bin.queries import bikes_needing, pieces, pieces_for
from unkett.web.bin.services import (
    Kept,
    come_back,
    count_box,
    enter_piece,
    fit_from_bin,
    keep_in_bin,
    leave_bin,
)
from unkett.web.catalogue.models import CountMove, StockItem
from unkett.web.catalogue.stock import add_stock, change_count
from unkett.web.plans.services import start_plan, take_part
from unkett.web.wear.services import read_wear
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import LogEntry


@pytest.fixture
def lying(client, owner, bike) -> BikePart:
    """The bike's chain in the bin."""
    client.force_login(owner)
    take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    return BikePart.objects.get(where="bench")


def piece(owner, kind, box="", name="", **values) -> BikePart:
    return enter_piece(actor=owner, kind=kind, name=name or kind, values=values, kept=Kept(box=box))


def keep(client, part, **typed):
    shown = client.get(reverse("bench:piece", args=[part.pk])).text
    form = next(form for form in forms_of(shown) if form.action.endswith(f"{part.pk}/keep/"))
    return client.post(form.action, {**form.fields, **typed})


def test_a_part_has_a_box_a_value_and_what_it_is_kept_with(client, bike, lying) -> None:
    cassette = bike.fitted.get(slot="cassette")
    typed = {"box": "C 12", "value": "7,50", "mass_g": "262", "kept_with": cassette.label.lower()}
    assert keep(client, lying, **typed).status_code == 302
    lying.refresh_from_db()
    assert (lying.box, lying.value, lying.mass_g, lying.kept_with) == ("C 12", Decimal("7.50"), 262, cassette)
    assert 'worth <b class="num">7.50</b>' in client.get(reverse("bench:list")).text
    labels = client.get(reverse("bench:labels"), {"part": lying.pk}).text
    assert "box C 12" in labels
    assert f"with {cassette.label}" in labels
    assert 'class="qr"' in labels


@pytest.mark.parametrize(
    "typed", [{"value": "-1"}, {"value": "much"}, {"mass_g": "-4"}, {"kept_with": "P0"}, {"kept_with": "X1"},
              {"box": "x" * 41}],
)  # fmt: skip
def test_what_cannot_be_read_is_reported_beside_the_field(client, lying, typed) -> None:
    answer = keep(client, lying, **typed)
    assert answer.status_code == 422
    assert 'class="wrong"' in answer.text
    lying.refresh_from_db()
    assert (lying.box, lying.value, lying.mass_g, lying.kept_with) == ("", None, None, None)


def test_a_label_opens_its_part_wherever_it_is(client, bike, lying, stranger) -> None:
    rings = bike.fitted.get(slot="cassette")
    assert client.get("/", {"find": lying.label}).url == reverse("bench:piece", args=[lying.pk])
    on_bike = reverse("bikes:part-edit", args=[bike.pk, "cassette"])
    assert client.get("/", {"find": rings.label.lower()}).url == on_bike
    assert client.get(reverse("bench:piece", args=[rings.pk])).url == on_bike
    assert client.get("/", {"find": "P99999999"}).status_code == 200
    client.force_login(stranger)
    assert client.get("/", {"find": rings.label}).status_code == 200


def test_a_reserved_part_names_its_plan_and_stays(client, owner, plan, lying) -> None:
    take_part(actor=owner, plan_id=plan.pk, version=plan.version, slot="chain", part_id=lying.pk)
    assert reverse("plans:show", args=[plan.pk]) in client.get(reverse("bench:list")).text
    with pytest.raises(Refused, match="reserved for Plan A"):
        leave_bin(actor=owner, part_id=lying.pk, to="sold")
    other = store_build(
        owner, build_from({"name": "Other", "parts": {"frame": {"attrs": {"chainstay_mm": 430}}}})
    )
    theirs = start_plan(actor=owner, bike_id=other.pk)
    with pytest.raises(Refused, match="reserved for Plan A"):
        take_part(actor=owner, plan_id=theirs.pk, version=1, slot="chain", part_id=lying.pk)
    fitted = client.post(
        reverse("bikes:part-fit", args=[other.pk, "chain"]), {"part": lying.pk, "version": 1, "once": ""}
    )
    assert fitted.status_code == 422
    assert "reserved for Plan A" in fitted.text
    lying.refresh_from_db()
    assert lying.bike is None
    on = Bike.objects.get(pk=plan.bike_id)
    if on.fitted.filter(slot="chain").exists():
        on = take_off(actor=owner, bike_id=on.pk, version=on.version, slot="chain")
    fit_from_bin(actor=owner, bike_id=on.pk, version=on.version, slot="chain", part_id=lying.pk)
    lying.refresh_from_db()
    assert lying.bike_id == plan.bike_id


def test_a_part_leaves_with_why_and_comes_back(client, owner, lying) -> None:
    url = reverse("bench:part-leave", args=[lying.pk])
    for why in ("", "x" * 201):
        assert client.post(url, {"to": "scrapped", "why": why, "once": ""}).status_code == 422
    assert client.post(url, {"to": "moon", "why": "x", "once": ""}).status_code == 404
    assert client.post(url, {"to": "scrapped", "why": "past its limit", "once": ""}).status_code == 302
    lying.refresh_from_db()
    assert lying.where == "scrapped"
    assert LogEntry.objects.get(verb="scrap").after["why"] == "past its limit"
    assert "past its limit" in client.get(reverse("bench:piece", args=[lying.pk])).text
    with pytest.raises(InputError):
        come_back(actor=owner, part_id=lying.pk)
    assert come_back(actor=owner, part_id=lying.pk, why="wrong one", box="A 1").where == "bench"
    for to in ("sold", "customer", "returned"):
        leave_bin(actor=owner, part_id=lying.pk, to=to, why="agreed")
        come_back(actor=owner, part_id=lying.pk)
    # off the bike, scrapped and back, then three times out and in
    assert [move.to_where for move in lying.moves.all()] == [
        "bench", "scrapped", "bench", "sold", "bench", "customer", "bench", "returned", "bench",
    ]  # fmt: skip


def test_cracked_carbon_never_comes_back(client, owner, bike) -> None:
    bar = piece(owner, "handlebar", material="carbon", damage=["crack"])
    leave_bin(actor=owner, part_id=bar.pk, to="scrapped", why="crash")
    with pytest.raises(Refused, match="does not come back"):
        come_back(actor=owner, part_id=bar.pk, why="looks fine")
    bar.refresh_from_db()
    assert bar.never_back
    with pytest.raises(IntegrityError), transaction.atomic():
        BikePart.objects.filter(pk=bar.pk).update(where="bench")
    with pytest.raises(InputError):
        count_box(actor=owner, box="", expected=[], found=[], scanned=bar.label, counts={}, why="there")
    client.force_login(owner)
    assert "Back into the bin" not in client.get(reverse("bench:piece", args=[bar.pk])).text
    post = piece(owner, "seatpost", material="carbon")  # nobody wrote its damage down: the hand says so
    assert not leave_bin(actor=owner, part_id=post.pk, to="scrapped", why="worn").never_back
    come_back(actor=owner, part_id=post.pk, why="wrong one")
    assert leave_bin(actor=owner, part_id=post.pk, to="scrapped", why="cracked", cracked=True).never_back


def test_a_piece_is_written_down_like_one_of_the_catalogue(client, owner, catalogue) -> None:
    client.force_login(owner)
    wide = catalogue["Wide nine"]
    url = f"{reverse('bench:enter')}?like={wide.pk}"
    form = next(form for form in forms_of(client.get(url).text) if "came_from" in form.fields)
    typed = {**form.fields, "box": "C 3", "value": "9,00", "came_from": "flea market", "speeds": "8"}
    assert client.post(url, typed).status_code == 422  # nine sprockets are no eight
    made = client.post(url, {**typed, "speeds": "9"})
    assert made.status_code == 302
    part = BikePart.objects.get(where="bench")
    assert (part.name, part.box, part.value, part.attrs["mount"]) == (
        "Wide nine",
        "C 3",
        Decimal(9),
        "spline9",
    )
    assert part.origins["mount"] == "stated"
    assert part.moves.get().from_where == ""
    assert LogEntry.objects.get(verb="bring in").after["from"] == "flea market"
    bad = client.post(f"{reverse('bench:enter')}?kind=chain", {"links": "many", "value": "-1", "once": ""})
    assert bad.status_code == 422
    assert bad.text.count('aria-invalid="true"') == 2


def test_a_sort_is_counted_and_its_ledger_makes_the_count(client, owner) -> None:
    client.force_login(owner)
    add = reverse("bench:stock-add")
    assert client.post(add, {"sort": "spacer", "count": "4", "once": ""}).status_code == 422
    assert (
        client.post(
            add, {"sort": "spacer", "name": "5 mm", "count": "40", "box": "S", "once": ""}
        ).status_code
        == 302
    )
    row = StockItem.objects.get()
    change = reverse("bench:counted-change", args=[row.pk])
    assert client.post(change, {"number": "3", "why": "used", "once": ""}).status_code == 302
    assert client.post(change, {"number": "0", "why": "used", "once": ""}).status_code == 422
    assert client.post(change, {"number": "38", "why": "sold", "once": ""}).status_code == 422
    row.refresh_from_db()
    assert row.count == 37
    shown = client.get(reverse("bench:counted-life", args=[row.pk])).text
    assert "-3" in shown
    assert "+40" in shown


def test_a_box_is_counted_and_differences_are_explained(client, owner) -> None:
    client.force_login(owner)
    here, gone, late = (piece(owner, "stem", box="A 1", name=name) for name in ("Here", "Gone", "Late"))
    elsewhere = piece(owner, "stem", box="B", name="Elsewhere")
    row = add_stock(actor=owner, sort="spacer", name="10 mm", count=12, box="A 1")
    url = reverse("bench:count")
    form = next(form for form in forms_of(client.get(url, {"box": "A 1"}).text) if "scanned" in form.fields)
    assert f"count-{row.pk}" in form.fields
    leave_bin(actor=owner, part_id=late.pk, to="sold")  # after the list was made
    found = {
        "box": "A 1", "expected": [here.pk, gone.pk, late.pk], "found": [here.pk], f"count-{row.pk}": "11",
        "scanned": f"{elsewhere.label} /{here.label}", "once": "",
    }  # fmt: skip
    assert client.post(url, found).status_code == 422  # no reason
    assert client.post(url, {**found, "why": "x", "scanned": "P1x"}).status_code == 422
    assert client.post(url, {**found, "why": "x", f"count-{row.pk}": "-1"}).status_code == 422
    assert not BikePart.objects.filter(where="missing").exists()
    assert client.post(url, {**found, "why": "tidied up"}).status_code == 302
    where = dict(BikePart.objects.values_list("name", "where"))
    assert where == {"Here": "bench", "Gone": "missing", "Late": "sold", "Elsewhere": "bench"}
    elsewhere.refresh_from_db()
    row.refresh_from_db()
    assert (elsewhere.box, row.count) == ("A 1", 11)
    shown = client.get(reverse("bench:counted-out")).text
    assert shown.count("tidied up") == 3
    found |= {"expected": [], "scanned": gone.label, "why": "behind the shelf"}
    assert client.post(url, found).status_code == 302
    gone.refresh_from_db()
    assert gone.where == "bench"


STEPS = st.lists(
    st.tuples(
        st.sampled_from(["sold", "scrapped", "missing", "back", "fit", "off", "move"]), st.integers(0, 3)
    ),
    max_size=12,
)


@pytest.mark.django_db(transaction=False)
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=STEPS)
def test_the_ledger_tells_where_every_part_is(workshop, owner, steps) -> None:
    """Played forward, the lines of a part lead from nowhere to where it is, each beginning where the last ended."""
    with transaction.atomic():
        bikes = [store_build(owner, build_from({"name": n, "parts": {}})) for n in ("One", "Two")]
        parts = [piece(owner, kind) for kind in ("chain", "chain", "stem", "saddle")]
        for does, n in steps:
            part = BikePart.objects.get(pk=parts[n].pk)
            try:
                with transaction.atomic():
                    _act(owner, does, part, bikes)
            except (NotThere, Refused, InputError):
                pass
        for part in BikePart.objects.filter(pk__in=[one.pk for one in parts]):
            moves = list(part.moves.order_by("pk"))
            places = [(move.from_where, move.from_bike_id, move.from_slot) for move in moves]
            ends = [(move.to_where, move.to_bike_id, move.to_slot) for move in moves]
            assert places == [("", None, ""), *ends[:-1]]
            assert ends[-1] == (part.where, part.bike_id, part.slot)
        transaction.set_rollback(True)


def _act(owner, does, part, bikes) -> None:
    bike = Bike.objects.get(pk=bikes[part.pk % 2].pk)
    if does == "back":
        come_back(actor=owner, part_id=part.pk, why="again")
    elif does == "missing":
        count_box(actor=owner, box=part.box, expected=[part.pk], found=[], scanned="", counts={}, why="lost")
    elif does == "fit":
        fit_part(actor=owner, bike_id=bike.pk, version=bike.version, slot=part.kind, part_id=part.pk)
    elif does in ("off", "move") and part.bike_id:
        on = Bike.objects.get(pk=part.bike_id)
        where = {"actor": owner, "bike_id": on.pk, "version": on.version, "slot": part.slot}
        other = next(one for one in bikes if one.pk != on.pk)
        take_off(**where) if does == "off" else move_part(**where, to_bike_id=other.pk)
    else:
        leave_bin(actor=owner, part_id=part.pk, to=does, why="so")


@pytest.mark.own_database
def test_moves_at_once_lose_and_double_nothing(owner) -> None:
    """Eight hands at one piece and one sort: the piece is in one place, the moves make the count."""
    bikes = [store_build(owner, build_from({"name": f"Bike {n}", "parts": {}})) for n in range(4)]
    chain = piece(owner, "chain")
    row = add_stock(actor=owner, sort="spacer", name="5 mm", count=10)
    done: list[str] = []
    begin = threading.Barrier(8)

    def hand(n: int) -> None:
        try:
            begin.wait()
            for _ in range(3):
                try:
                    change_count(actor=owner, stock_id=row.pk, number=1, why="used")
                    done.append("used")
                except Refused:
                    done.append("none left")
            try:
                if n < 4:
                    fit_part(actor=owner, bike_id=bikes[n].pk, version=1, slot="chain", part_id=chain.pk)
                else:
                    leave_bin(actor=owner, part_id=chain.pk, to="sold")
                done.append("moved")
            except (NotThere, Refused):
                done.append("too late")
        finally:
            connection.close()

    hands = [threading.Thread(target=hand, args=[n]) for n in range(8)]
    for one in hands:
        one.start()
    for one in hands:
        one.join()
    assert (done.count("used"), done.count("none left")) == (10, 14)
    assert (done.count("moved"), done.count("too late")) == (1, 7)
    row.refresh_from_db()
    assert row.count == 0 == CountMove.objects.filter(counted=row).aggregate(sum=Sum("change"))["sum"]
    assert Move.objects.filter(part=chain).count() == 2


def test_what_in_the_bin_goes_on_a_bike(client, owner, bike, django_assert_max_num_queries) -> None:
    """The frame of the fixture takes nine sprockets on nine splines: eight do not go with its nine-speed shifter."""
    client.force_login(owner)
    nine = piece(
        owner, "cassette", speeds=9, teeth=[11, 12, 13, 14, 15, 17, 19, 21, 25], mount="spline9", name="Nine"
    )
    piece(
        owner, "cassette", speeds=9, teeth=[11, 12, 13, 14, 15, 17, 19, 21, 25], mount="spline9", name="Twin"
    )
    other = piece(owner, "cassette", speeds=9, mount="threaded", name="Screwed")
    stands = current_bike(owner, bike.pk)
    found = pieces_for(owner, stands.build, "cassette", owner_settings(owner))
    verdicts = {one.part.name: one.verdict for one in found.shown}
    assert verdicts["Screwed"] is Verdict.NO_GO
    assert verdicts["Nine"] is verdicts["Twin"] is not Verdict.NO_GO
    assert [one.part.pk for one in found.shown][-1] == other.pk
    assert sum(found.counts.values()) == 3
    with django_assert_max_num_queries(3):
        pieces_for(owner, stands.build, "cassette", owner_settings(owner))
    url = reverse("bikes:from-bin", args=[bike.pk])
    assert nine.name in client.get(url, {"slot": "cassette"}).text
    assert other.name in client.get(url, {"slot": "cassette"}).text
    assert client.get(url).status_code == 200


def owner_settings(owner):
    from unkett.web.bikes.queries import settings_of

    return settings_of(owner)


def test_which_bikes_want_a_piece(client, owner, bike, stranger) -> None:
    client.force_login(owner)
    chain = piece(owner, "chain", speeds=9, links=114)
    narrow = piece(owner, "chain", speeds=12, links=126)
    assert bikes_needing(owner, chain).go == 0  # nothing is wrong with the one that is on
    read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.9)
    found = bikes_needing(owner, chain)
    assert [(one.bike.pk, one.slot, one.why) for one in found.shown] == [(bike.pk, "chain", "worn")]
    assert (found.go, found.refused, found.not_judged) == (1, 0, 0)
    assert bikes_needing(owner, narrow).refused == 1
    assert bikes_needing(stranger, chain).go == 0
    assert bike.name in client.get(reverse("bench:needing", args=[chain.pk])).text
    bike.refresh_from_db()
    take_off(actor=owner, bike_id=bike.pk, version=bike.version, slot="chain")
    found = bikes_needing(owner, chain)
    assert [one.why for one in found.shown] == ["lacking, or does not go"]


def test_the_list_is_found_by_words_kind_and_box(client, owner, django_assert_max_num_queries) -> None:
    client.force_login(owner)
    for n in range(45):
        piece(owner, "stem", box=f"A {n}", name=f"Stem {n}")
    piece(owner, "saddle", box="B", name="Wide saddle")
    assert pieces(owner, where="bench").number == 46
    assert pieces(owner, where="bench", find="wide sad").number == 1
    assert pieces(owner, where="bench", kind="stem", page=2).sheet.number == 2
    url = reverse("bench:list")
    with django_assert_max_num_queries(12):
        shown = client.get(url, {"kind": "stem"}).text
    assert "sheet 1 of 2" in shown
    assert client.get(url, {"kind": "no", "page": "x", "where": "moon"}).status_code == 200
    assert "Wide saddle" not in client.get(url, {"box": "A 3"}).text


def test_two_people_at_one_piece_lose_nothing(client, owner, lying) -> None:
    """The second one to save is shown what the first one kept; nothing of either is lost unseen."""
    client.force_login(owner)
    form = next(
        one
        for one in forms_of(client.get(reverse("bench:piece", args=[lying.pk])).text)
        if "box" in one.fields
    )
    seen = {**form.fields, "box": "B 2"}
    keep_in_bin(actor=owner, part_id=lying.pk, version=lying.version, box="C 3", value=None, mass_g=None)
    answer = client.post(reverse("bench:part-keep", args=[lying.pk]), seen)
    assert answer.status_code == 409
    lying.refresh_from_db()
    assert lying.box == "C 3"
    assert client.post(reverse("bench:part-keep", args=[lying.pk]), {**seen, "version": 2}).status_code == 302
    lying.refresh_from_db()
    assert (lying.box, lying.version) == ("B 2", 3)
