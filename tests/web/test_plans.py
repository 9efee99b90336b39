"""Plans: stored change by change, clashes reported, verdicts before the choice, a constant number of queries."""

import re
import threading

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from unkett.core.formats.reader import build_from
from unkett.core.rules.finding import Verdict
from unkett.core.settings import DEFAULTS
from unkett.web.bikes.services import record_measure, store_build
from unkett.web.catalogue.queries import what_goes
from unkett.web.catalogue.services import add_parts
from unkett.web.plans import services
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import planned
from unkett.web.workshop.errors import Conflict, Refused
from unkett.web.workshop.models import LogEntry


def swap(actor, plan, part, version=None, slot="cassette"):
    return services.swap_part(
        actor=actor, plan_id=plan.pk, version=version or plan.version, slot=slot, part_id=part.pk
    )


def test_a_swap_is_stored_logged_and_found_again(owner, plan, catalogue) -> None:
    swap(owner, plan, catalogue["Wide nine"])
    seen = planned(owner, plan.pk)
    assert seen.plan.version == 2
    assert seen.changes["cassette"].name == "Wide nine"
    assert seen.build.parts["cassette"].attrs["teeth"][-1] == 36
    assert seen.stands.build.parts["cassette"].attrs["teeth"][-1] == 32
    line = LogEntry.objects.latest("at")
    assert (line.verb, line.before, line.after) == ("swap", None, {"cassette": "Wide nine"})
    assert line.about_name == plan.name


def test_later_edits_of_the_catalogue_change_no_plan(owner, plan, catalogue) -> None:
    part = catalogue["Wide nine"]
    swap(owner, plan, part)
    part.attrs = {"speeds": 9}
    part.save()
    assert planned(owner, plan.pk).build.parts["cassette"].attrs["teeth"][0] == 12
    part.delete()
    assert planned(owner, plan.pk).changes["cassette"].name == "Wide nine"


def test_the_knock_on_names_its_cause(owner, plan, catalogue) -> None:
    swap(owner, plan, catalogue["Eight"])
    difference = planned(owner, plan.pk).difference
    new = {f.rule: f for f in difference.new}
    assert new["click-count"].verdict is Verdict.NO_GO
    assert difference.causes[new["click-count"].about] == ("cassette",)


def test_taking_back_and_emptying(owner, plan, catalogue) -> None:
    plan = swap(owner, plan, catalogue["Eight"])
    plan = services.take_back(actor=owner, plan_id=plan.pk, version=plan.version, slot="cassette")
    assert not planned(owner, plan.pk).changes
    plan = services.empty_slot(actor=owner, plan_id=plan.pk, version=plan.version, slot="cassette")
    emptied = planned(owner, plan.pk)
    assert "cassette" in emptied.build.empty
    assert "cassette" not in emptied.check.open_slots


def test_the_second_of_two_is_reported_and_nothing_is_overwritten(owner, mechanic, plan, catalogue) -> None:
    seen_by_both = plan.version
    swap(mechanic, plan, catalogue["Wide nine"], seen_by_both)
    with pytest.raises(Conflict, match="Mads changed this plan at"):
        swap(owner, plan, catalogue["Eight"], seen_by_both)
    assert planned(owner, plan.pk).changes["cassette"].name == "Wide nine"
    assert LogEntry.objects.filter(verb="swap").count() == 1


@pytest.mark.own_database
def test_two_at_the_very_same_moment(owner, plan, catalogue) -> None:
    """Real threads on real connections: one wins, one is reported, the version counts one."""
    error = []
    gate = threading.Barrier(2)

    def change(name: str) -> None:
        gate.wait()
        try:
            swap(owner, plan, catalogue[name], 1)
        except Conflict:
            error.append(name)
        finally:
            connection.close()

    both = [threading.Thread(target=change, args=(name,)) for name in ("Wide nine", "Eight")]
    for one in both:
        one.start()
    for one in both:
        one.join()
    assert len(error) == 1
    plan.refresh_from_db()
    assert (plan.version, plan.changes.count()) == (2, 1)


REFUSED = [
    (lambda owner, plan, parts: swap(owner, plan, parts["Chain of 114"]), "no cassette"),
    (
        lambda owner, plan, parts: services.name_plan(
            actor=owner, plan_id=plan.pk, version=1, name=" ", note=""
        ),
        "name:",
    ),
    (
        lambda owner, plan, parts: services.name_plan(
            actor=owner, plan_id=plan.pk, version=1, name="x" * 121, note=""
        ),
        "name:",
    ),
    (
        lambda owner, plan, parts: services.name_plan(
            actor=owner, plan_id=plan.pk, version=1, name="x", note="y" * 4001
        ),
        "note: 4001",
    ),
]


@pytest.mark.parametrize(("action", "says"), REFUSED)
def test_refused_wishes_store_nothing(owner, plan, catalogue, action, says) -> None:
    from unkett.core.errors import CoreError

    with pytest.raises((Refused, CoreError), match=says):
        action(owner, plan, catalogue)
    plan.refresh_from_db()
    assert (plan.version, plan.name, plan.changes.count()) == (1, "Plan A", 0)


def test_a_discarded_plan_is_kept_and_can_be_taken_up(owner, plan, catalogue) -> None:
    plan = services.move_plan(actor=owner, plan_id=plan.pk, version=1, to="dropped")
    with pytest.raises(Refused, match="discarded"):
        swap(owner, plan, catalogue["Eight"], plan.version)
    plan = services.move_plan(actor=owner, plan_id=plan.pk, version=plan.version, to="draft")
    assert swap(owner, plan, catalogue["Eight"]).changes.count() == 1


def test_every_candidate_shows_its_verdict_before_it_is_chosen(owner, bike, plan, catalogue) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    found = what_goes(owner, planned(owner, plan.pk).build, "cassette", DEFAULTS)
    verdicts = [(one.part.name, one.verdict) for one in found.shown]
    # 36 over the derailleur's 34 on an M10 hanger, and every nine wants the 1.85 mm spacer
    assert verdicts == [
        ("Close nine", Verdict.GOES_IF),
        ("Wide nine", Verdict.GOES_IF),
        ("Unknown nine", Verdict.UNMEASURED),
        ("Eight", Verdict.NO_GO),
    ]
    assert found.shown[-1].more
    # the drawer's verdict is the plan's verdict once it is chosen
    plan = swap(owner, plan, catalogue["Eight"])
    chosen = [f for f in planned(owner, plan.pk).check.findings if "cassette" in f.slots]
    assert chosen == list(found.shown[-1].check.findings)


def test_candidates_are_narrowed_by_words(owner, plan, catalogue) -> None:
    found = what_goes(owner, planned(owner, plan.pk).build, "cassette", DEFAULTS, find="nine wide")
    assert [one.part.name for one in found.shown] == ["Wide nine"]


def test_the_page_and_its_fragment(client, owner, plan, catalogue) -> None:
    client.force_login(owner)
    url = reverse("plans:part-swap", args=[plan.pk, "cassette"])
    page = client.get(reverse("plans:show", args=[plan.pk]))
    assert page.status_code == 200
    assert "HX-Request" in page["Vary"]
    asked = {"version": 1, "part": catalogue["Eight"].pk}
    answer = client.post(url, asked, headers={"HX-Request": "true"}, follow=True)
    assert answer.status_code == 200
    assert "<html" not in answer.text
    assert "because you changed the cassette" in answer.text
    assert 'id="drawer"' in answer.text
    without = client.post(url, {"version": 2, "part": catalogue["Wide nine"].pk})
    assert without.url == reverse("plans:show", args=[plan.pk])


def test_a_clash_answers_409_and_says_where_to_look(client, owner, plan, catalogue) -> None:
    client.force_login(owner)
    swap(owner, plan, catalogue["Eight"])
    url = reverse("plans:part-swap", args=[plan.pk, "cassette"])
    for headers in ({}, {"HX-Request": "true"}):
        answer = client.post(url, {"version": 1, "part": catalogue["Wide nine"].pk}, headers=headers)
        assert answer.status_code == 409
        assert "changed this plan at" in answer.text
        assert reverse("plans:show", args=[plan.pk]) in answer.text
    assert answer["HX-Retarget"] == "#told"


BAD_POSTS = [
    ("plans:part-swap", {"version": "x", "part": "1"}, 422),
    ("plans:part-swap", {"version": "1", "part": "99999999999999999999"}, 422),
    ("plans:part-swap", {"version": "1"}, 422),
    ("plans:plan-name", {"version": "1", "name": ""}, 422),
    ("plans:plan-name", {"version": "1", "name": "a\x00b"}, 422),
    ("plans:plan-name", {"version": "1", "name": "x" * 200}, 422),
    ("plans:slot-empty", {"version": ""}, 422),
    ("plans:plan-move", {}, 422),
    ("plans:plan-move", {"version": "1", "to": "the moon"}, 422),
    ("plans:plan-move", {"version": "1", "to": "checked"}, 422),
]


@pytest.mark.parametrize(("name", "data", "status"), BAD_POSTS, ids=str)
def test_bad_posts_are_reported_and_store_nothing(client, owner, plan, name, data, status) -> None:
    client.force_login(owner)
    args = [plan.pk, "cassette"] if "slot" in name or "part" in name else [plan.pk]
    assert client.post(reverse(name, args=args), data).status_code == status
    assert Plan.objects.get(pk=plan.pk).version == 1


def test_bad_names_answer_beside_the_field(client, owner, plan) -> None:
    client.force_login(owner)
    answer = client.post(reverse("plans:plan-name", args=[plan.pk]), {"version": "1", "name": ""})
    assert re.search(r'id="id_name"[^>]*aria-describedby="name-fault"', answer.text)
    assert 'id="name-fault"' in answer.text


@pytest.mark.parametrize("find", ["\x00", "x" * 5000, "%", "' or 1=1 --"])
def test_odd_words_find_nothing_and_break_nothing(client, owner, plan, catalogue, find) -> None:
    client.force_login(owner)
    assert client.get(reverse("plans:drawer", args=[plan.pk, "cassette"]), {"find": find}).status_code == 200
    assert client.get(reverse("bikes:yard"), {"find": find}).status_code == 200


def test_unknown_slots_are_not_here(client, owner, plan) -> None:
    client.force_login(owner)
    assert client.get(f"/plans/{plan.pk}/parts/sofa/").status_code == 404
    assert client.post(f"/plans/{plan.pk}/parts/sofa/empty/", {"version": 1}).status_code == 404
    assert client.get("/plans/99999999999999999999/").status_code == 404


def queries(client, url, **more) -> int:
    with CaptureQueriesContext(
        connection,
    ) as seen:
        assert client.get(url, **more).status_code == 200
    return len(seen)


def test_queries_do_not_grow_with_the_catalogue(client, owner, plan, catalogue, workshop) -> None:
    client.force_login(owner)
    show, drawer = reverse("plans:show", args=[plan.pk]), reverse("plans:drawer", args=[plan.pk, "cassette"])
    before = queries(client, show), queries(client, drawer)
    attrs = catalogue["Eight"].attrs
    add_parts(
        workshop, [{"kind": "cassette", "name": f"More {n}", "attrs": attrs, "price": n} for n in range(300)]
    )
    assert (queries(client, show), queries(client, drawer)) == before
    assert max(before) <= 12


def test_gears_and_chain_show_both_states(client, owner, plan, catalogue) -> None:
    swap(owner, plan, catalogue["Wide nine"])
    client.force_login(owner)
    gears = client.get(reverse("plans:work", args=[plan.pk, "gears"])).text
    assert "now" in gears
    assert "as planned" in gears
    # 40/36 × π × (622 + 80) / 1000 = 2.45 m
    assert "2.45" in gears
    chain = client.get(reverse("plans:work", args=[plan.pk, "chain"])).text
    # 40 and 36 at 432 mm: 2 × 432 + 12.7 × 76 / 2 + small = 1346.8 mm = 106.05 links, 108 + 2
    assert "Cut a new chain to 110 links" in chain


def test_the_planned_build_can_be_taken_away_and_read_again(client, owner, plan, catalogue) -> None:
    swap(owner, plan, catalogue["Wide nine"])
    client.force_login(owner)
    answer = client.get(reverse("plans:build-file", args=[plan.pk]))
    assert answer["Content-Disposition"].startswith("attachment")
    from unkett.core.formats.reader import read_build

    assert read_build(answer.content).parts["cassette"].attrs["teeth"][-1] == 36


def test_a_rotor_is_offered_with_its_plate_as_one_choice(client, owner, workshop) -> None:
    build = {
        "parts": {
            "frame": {
                "attrs": {"rear_brake_mount": "post", "rear_native_rotor_mm": 160, "rear_rotor_max_mm": 203}
            },
            "rear_caliper": {"attrs": {"type": "disc", "mount": "post"}},
            "rear_rotor": {"name": "Disc 160", "attrs": {"diameter_mm": 160}},
        }
    }
    bike = store_build(owner, build_from(build))
    plan = services.start_plan(actor=owner, bike_id=bike.pk)
    plate = {"frame_side": "post", "caliper_side": "post", "native_mm": 160, "end": "either"}
    entries = [
        {"kind": "rotor", "name": "Disc 160 b", "attrs": {"diameter_mm": 160}, "price": "12.00"},
        {"kind": "rotor", "name": "Disc 180 b", "attrs": {"diameter_mm": 180}, "price": "15.00"},
        {"kind": "brake_adapter", "name": "Post +43", "attrs": {**plate, "rotor_mm": 203}, "price": "5.00"},
        {"kind": "brake_adapter", "name": "Post +20", "attrs": {**plate, "rotor_mm": 180}, "price": "9.00"},
        {
            "kind": "brake_adapter", "name": "Tabs to post", "price": "1.00",
            "attrs": {"frame_side": "is", "caliper_side": "post", "rotor_mm": 180, "end": "either"},
        },
    ]  # fmt: skip
    parts = {part.name: part for part in add_parts(workshop, entries)}
    client.force_login(owner)
    page = client.get(reverse("plans:drawer", args=[plan.pk, "rear_rotor"])).text
    assert page.count("Plan both") == 1
    assert "Disc 180 b, Post +20" in page
    data = {"version": plan.version, "part": parts["Disc 180 b"].pk, "plate": parts["Post +20"].pk}
    assert client.post(reverse("plans:part-swap", args=[plan.pk, "rear_rotor"]), data).status_code == 302
    found = planned(owner, plan.pk)
    assert {slot: change.name for slot, change in found.changes.items()} == {
        "rear_rotor": "Disc 180 b",
        "rear_brake_adapter": "Post +20",
    }
    assert [f.verdict.value for f in found.check.findings if f.rule == "caliper-mount"] == ["goes"]
    half = {**data, "version": 2, "part": parts["Disc 160 b"].pk, "plate": parts["Disc 160 b"].pk}
    assert client.post(reverse("plans:part-swap", args=[plan.pk, "rear_rotor"]), half).status_code == 422
    assert planned(owner, plan.pk).changes["rear_rotor"].name == "Disc 180 b"  # all of it or nothing


def test_going_to_one_ring_takes_off_what_only_shifted_at_the_front(owner, workshop) -> None:
    """Whoever keeps the front derailleur as a guide takes its change back; it is not planned off again."""
    shifting = {slot: {"attrs": {}} for slot in ("front_derailleur", "front_shifter", "front_shift_line")}
    build = build_from({"parts": {"chainrings": {"attrs": {"teeth": [48, 38, 28]}}, **shifting}})
    bike = store_build(owner, build)
    plan = services.start_plan(actor=owner, bike_id=bike.pk)
    entry = {"kind": "chainrings", "name": "Single 40", "attrs": {"teeth": [40]}, "price": "30.00"}
    (ring,) = add_parts(workshop, [entry])
    plan = services.swap_part(actor=owner, plan_id=plan.pk, version=1, slot="chainrings", part_id=ring.pk)
    emptied = plan.changes.filter(empties=True).values_list("slot", flat=True)
    assert set(emptied) == set(shifting)
    plan = services.take_back(actor=owner, plan_id=plan.pk, version=plan.version, slot="front_derailleur")
    assert set(plan.changes.values_list("slot", flat=True)) == {"chainrings", *shifting} - {
        "front_derailleur"
    }
