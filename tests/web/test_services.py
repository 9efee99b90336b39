"""Every service, with a thing of another workshop: refused, and nothing is stored."""

import importlib
import inspect
from collections.abc import Callable
from datetime import date
from typing import Any

import pytest

from unkett.core.formats.reader import build_from
from unkett.web.bikes import fitting
from unkett.web.bikes.details import TEXTS
from unkett.web.bikes.inspection import Found
from unkett.web.bikes.intake import PartSeen
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.bikes.services import store_build
from unkett.web.bikes.setups import Source, add_set_up
from unkett.web.bin.services import Kept
from unkett.web.catalogue.models import StockItem
from unkett.web.jobs.models import FollowUp, OutsideWork
from unkett.web.jobs.services import start_job
from unkett.web.plans.links import give_link
from unkett.web.plans.models import QuoteItem, SaleBook, SaleLine
from unkett.web.plans.services import start_plan, swap_part
from unkett.web.plans.way_search import ask_ways
from unkett.web.rulebook.custom_steps import write_step
from unkett.web.rulebook.services import add_shop_name
from unkett.web.supply.models import Order, OrderItem, Supplier
from unkett.web.wear.services import read_wear
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import LogEntry, SignedIn
from unkett.web.workshop.people import invite

MODULES = (
    "bikes.services",
    "bikes.fitting",
    "bikes.intake",
    "bikes.accepting",
    "bikes.inspection",
    "bikes.complaints",
    "causes.services",
    "bikes.details",
    "bikes.setups",
    "bikes.lines",
    "catalogue.services",
    "catalogue.importing",
    "catalogue.stock",
    "catalogue.starter",
    "bin.services",
    "supply.services",
    "supply.expecting",
    "transfer.datasets",
    "plans.services",
    "plans.carrying",
    "plans.options",
    "plans.way_search",
    "plans.resale",
    "jobs.services",
    "jobs.stepping",
    "jobs.found",
    "rulebook.packages",
    "plans.wheels",
    "jobs.handover",
    "rulebook.custom_steps",
    "wear.services",
    "suspension.services",
    "jobs.schedule",
    "tasks.services",
    "rulebook.services",
    "workshop.services",
    "workshop.people",
    "plans.links",
    "plans.quote_items",
    "plans.news",
    "plans.lines",
    "jobs.forgetting",
)


def services() -> dict[str, Callable[..., Any]]:
    """Every function that writes for an actor."""
    found = {}
    for name in MODULES:
        module = importlib.import_module(f"unkett.web.{name}")
        for function in vars(module).values():
            if inspect.isfunction(function) and function.__module__ == module.__name__:
                wanted = inspect.signature(function).parameters.get("actor")
                if wanted is not None and wanted.kind is inspect.Parameter.KEYWORD_ONLY:
                    found[f"{name}.{function.__name__}"] = function
    return found


SERVICES = services()
# what makes something new of the actor's own, or is about the actor only
OF_THEIR_OWN = {
    "bikes.services.add_bike_from_file",
    "bikes.intake.take_in",
    "catalogue.services.add_part",
    "catalogue.importing.take_lines",
    "catalogue.stock.add_stock",
    "catalogue.stock.cut_stock",
    "rulebook.services.change_setting",
    "rulebook.services.add_shop_name",
    "workshop.services.prefer_units",
    "workshop.services.listen_to",
    "workshop.services.go_on_tour",
    "workshop.services.close_first_day",
    "catalogue.starter.load_starter",
    "tasks.services.ask_for",
    "jobs.schedule.ask_days",
    "jobs.schedule.keep_stands",
    "rulebook.custom_steps.write_step",
    "rulebook.packages.write_package",
    "workshop.services.keep_tools",
    "bin.services.count_box",
    "transfer.datasets.import_rows",
    "workshop.services.add_customer",
    "workshop.people.invite",
    "workshop.people.change_password",
    "workshop.people.begin_second_factor",
    "workshop.people.confirm_second_factor",
    "workshop.people.end_second_factor",
    "bikes.details.write_bike_down",
    "causes.services.weigh",
}
CONDITION = {"name": "", "values": {}, "origins": {}, "condition": {}}
# by service: the things it is given beside an actor and a version; `their_…` are another workshop's
GIVEN: dict[str, dict[str, Any]] = {
    "bikes.services.record_empty": {"bike_id": "their_bike", "slot": "stem", "empty": True},
    "bikes.services.record_measure": {"bike_id": "their_bike", "slot": "chain", "attr": "links", "value": 110},
    "bikes.services.put_found": {"bike_id": "their_bike", "slot": "frame", "values": {"bb_shell": "bsa"}},
    "bikes.services.keep_typed": {"bike_id": "their_bike", "name": "sag", "own": {"full_mm": 100}, "measured": {}},
    "bikes.services.record_cut": {"bike_id": "their_bike", "mark_mm": 200, "read_mm": 200},
    "bikes.fitting.edit_part": {"bike_id": "their_bike", "slot": "chain", **CONDITION},
    "bikes.fitting.fill_part": {"bike_id": "their_bike", "slot": "cassette", "part_id": "our_catalogue_part"},
    "bikes.fitting.fill_part, part": {"bike_id": "our_bike", "slot": "cassette", "part_id": "their_catalogue_part"},
    "bikes.fitting.take_off": {"bike_id": "their_bike", "slot": "chain"},
    "bikes.fitting.fit_part": {"bike_id": "their_bike", "slot": "chain", "part_id": "our_bench_part"},
    "bikes.fitting.fit_part, part": {"bike_id": "our_bike", "slot": "chain", "part_id": "their_bench_part"},
    "bin.services.fit_from_bin": {"bike_id": "their_bike", "slot": "chain", "part_id": "our_bench_part"},
    "bin.services.fit_from_bin, part": {"bike_id": "our_bike", "slot": "chain", "part_id": "their_bench_part"},
    "bikes.fitting.move_part": {"bike_id": "their_bike", "slot": "cassette", "to_bike_id": "our_bike"},
    "bikes.fitting.move_part, to": {"bike_id": "our_bike", "slot": "frame", "to_bike_id": "their_bike"},
    "bikes.fitting.copy_bike": {"bike_id": "their_bike", "name": "mine"},
    "bikes.fitting.undo": {"bike_id": "their_bike"},
    "bikes.accepting.accept_finding": {
        "bike_id": "their_bike", "finding": "chain_speeds", "reason": "mine", "until": None,
    },
    "bikes.accepting.reopen_finding": {"bike_id": "their_bike", "finding": "chain_speeds"},
    "bikes.intake.measure_station": {
        "bike_id": "their_bike", "seen": {"chain": PartSeen(values={"links": 110})}, "really": True,
    },
    "bikes.details.change_bike": {
        "bike_id": "their_bike",
        "values": {**dict.fromkeys(TEXTS, "mine"), "use": "", "rider": {}},
    },
    "bikes.details.archive_bike": {"bike_id": "their_bike", "to": "removed"},
    "bikes.details.bring_back": {"bike_id": "their_bike"},
    "bikes.setups.add_set_up": {"bike_id": "their_bike", "name": "mine", "parts": {"cassette": Source(sort="on")}},
    "bikes.setups.add_set_up, part": {
        "bike_id": "our_bike", "name": "mine", "parts": {"chain": Source(sort="bench", part_id="their_bench_part")},
    },
    "bikes.setups.put_on": {"bike_id": "their_bike", "set_up_id": "their_set_up"},
    "bikes.setups.remove_set_up": {"bike_id": "their_bike", "set_up_id": "their_set_up"},
    "bikes.inspection.look_over": {
        "bike_id": "their_bike", "found": {"chain_link": Found(slots=("chain",), how="must")},
    },
    "catalogue.services.change_part": {
        "part_id": "their_catalogue_part", "values": {"name": "mine", "price": 0, "attrs": {}},
    },
    "catalogue.services.retire_part": {"part_id": "their_catalogue_part", "retired": True},
    "bikes.lines.choose_route": {"bike_id": "their_bike", "slot": "rear_shift_line", "route": "internal_open"},
    "bikes.lines.move_point": {
        "bike_id": "their_bike", "slot": "rear_shift_line", "point": "lever", "at": {"up_mm": 1.0},
    },
    "catalogue.stock.remove_stock": {"stock_id": "their_stock"},
    "plans.services.start_plan": {"bike_id": "their_bike"},
    "plans.services.copy_plan": {"plan_id": "their_plan"},
    "plans.services.swap_part": {"plan_id": "their_plan", "slot": "cassette", "part_id": "our_catalogue_part"},
    "plans.services.swap_part, part": {"plan_id": "our_plan", "slot": "cassette", "part_id": "their_catalogue_part"},
    "plans.services.swap_parts": {"plan_id": "our_plan", "parts": {"cassette": "their_catalogue_part"}},
    "plans.services.empty_slot": {"plan_id": "their_plan", "slot": "chain"},
    "plans.services.take_back": {"plan_id": "their_plan", "slot": "cassette"},
    "plans.services.name_plan": {"plan_id": "their_plan", "name": "mine", "note": ""},
    "plans.services.move_plan": {"plan_id": "their_plan", "to": "quoted"},
    "plans.services.type_part": {"plan_id": "their_plan", "slot": "chain", "name": "mine", "values": {}},
    "plans.services.take_part": {"plan_id": "their_plan", "slot": "chain", "part_id": "our_bench_part"},
    "plans.services.take_part, part": {"plan_id": "our_plan", "slot": "chain", "part_id": "their_bench_part"},
    "plans.services.plan_as_there": {"plan_id": "our_plan", "slot": "cassette", "change_id": "their_change"},
    "plans.services.set_supplier": {"plan_id": "their_plan", "slot": "cassette", "brought": True},
    "plans.carrying.apply_changes": {"plan_id": "their_plan", "bike_version": 2, "slot": "cassette"},
    "plans.way_search.ask_ways": {"plan_id": "their_plan", "wish": {}, "best": ["cheapest"]},
    "plans.way_search.take_way": {"plan_id": "our_plan", "task_id": "their_task", "card": 0},
    "plans.quote_items.add_quote_line": {
        "plan_id": "their_plan", "title": "mine", "price": 1, "minutes": 0, "given": False,
    },
    "plans.quote_items.agree_quote_line": {"plan_id": "their_plan", "line_id": "their_line"},
    "plans.quote_items.drop_quote_line": {"plan_id": "their_plan", "line_id": "their_line"},
    "plans.quote_items.set_free": {"plan_id": "their_plan", "cause": "change:cassette", "free": True},
    "plans.quote_items.set_price": {"plan_id": "their_plan", "ref": "cassette", "price": 1},
    "plans.quote_items.choose_need": {"plan_id": "their_plan", "rule": "lockring", "slots": [], "what": "spacer"},
    "plans.lines.choose_route": {
        "plan_id": "their_plan", "slot": "rear_shift_line", "route": "internal_open",
    },
    "plans.news.take_in_answer": {"link_id": "their_link"},
    "plans.news.tell_customer": {"plan_id": "their_plan"},
    "plans.resale.keep_book": {
        "bike_id": "their_bike",
        "values": {
            "bought": 1, "bought_on": date(2026, 1, 5), "minutes": 0, "on_market": None, "sold": None, "sold_on": None,
        },
    },
    "plans.resale.add_sale_line": {"bike_id": "their_bike", "title": "mine", "value": 1, "goes_in": True},
    "plans.resale.remove_sale_line": {"bike_id": "their_bike", "line_id": "their_sale_line"},
    "workshop.people.new_password_link": {"user_id": "their_user"},
    "workshop.people.withdraw_invitation": {"invitation_id": "their_invitation"},
    "workshop.people.change_role": {"user_id": "their_user", "role": "mechanic"},
    "workshop.people.let_go": {"user_id": "their_user", "active": False},
    "workshop.people.drop_second_factor": {"user_id": "their_user"},
    "workshop.people.end_session": {"signed_in_id": "their_session"},
    "plans.links.give_link": {"plan_id": "their_plan"},
    "plans.links.withdraw_link": {"link_id": "their_link"},
    "jobs.forgetting.kept_of_customer": {"customer_id": "their_customer"},
    "jobs.forgetting.forget_customer": {"customer_id": "their_customer"},
    "wear.services.read_gear": {"bike_id": "their_bike"},
    "bikes.complaints.complain": {"bike_id": "their_bike", "keys": ["rattle"]},
    "bikes.complaints.say": {"bike_id": "their_bike", "key": "drop_bike", "result": None},
    "bikes.complaints.take_back": {"bike_id": "their_bike", "key": "drop_bike"},
    "bikes.complaints.settling": {"bike_id": "their_bike", "cause": "chain_slaps", "how": "tick"},
    "bikes.complaints.try_again": {"bike_id": "their_bike", "said": {"rattle": "gone"}, "held": {}},
    "causes.services.settle": {"bike_id": "their_bike", "cause": "chain_slaps", "end": None},
    "causes.services.try_complaints": {"bike_id": "their_bike", "said": {"rattle": "gone"}},
    "causes.services.measured": {"bike_id": "their_bike", "key": "gauge_chain", "value": 0.5},
    "bin.services.leave_bin": {"part_id": "their_bench_part", "to": "scrapped", "why": "mine"},
    "bin.services.come_back": {"part_id": "their_bench_part"},
    "bin.services.keep_in_bin": {
        "part_id": "their_bench_part", "box": "mine", "value": None, "mass_g": None,
    },
    "bin.services.enter_piece, like": {
        "kind": "cassette", "name": "mine", "values": {}, "kept": Kept(), "like": "their_catalogue_part",
    },
    "catalogue.stock.change_count": {"stock_id": "their_stock", "number": 1, "why": "in"},
    "supply.services.keep_supplier": {"supplier_id": "their_supplier", "name": "mine", "url": ""},
    "supply.services.ask_offers": {"supplier_id": "their_supplier"},
    "supply.services.order_for_plan": {"plan_id": "their_plan", "supplier_id": "our_supplier"},
    "supply.services.order_for_plan, supplier": {"plan_id": "our_plan", "supplier_id": "their_supplier"},
    "supply.services.count_line": {"order_id": "their_order", "line_id": "their_order_line", "count": 1},
    "supply.expecting.expect_line": {"order_id": "their_order", "line_id": "their_order_line", "due": None},
    "supply.services.drop_order": {"order_id": "their_order"},
    "supply.services.send_order": {"order_id": "their_order"},
    "supply.services.arrive": {"order_id": "their_order", "line_id": "their_order_line", "count": 1},
    "supply.services.keep_offer": {"supplier_id": "their_supplier", "code": "A", "name": "mine"},
    "supply.services.order_for_bin": {"supplier_id": "their_supplier", "kind": "chain", "name": "mine", "count": 1},
    "wear.services.read_wear": {"bike_id": "their_bike", "slot": "cassette", "sort": "chain_pct", "value": 0.3},
    "suspension.services.write_down": {
        "bike_id": "their_bike", "slot": "fork", "values": {"set_sag_mm": 20}, "school": "even", "posture": "seated",
    },
    "suspension.services.set_for_rider": {"bike_id": "their_bike", "name": "mine", "mass_kg": 80},
    "wear.services.void_reading": {"reading_id": "their_reading"},
    "jobs.services.start_job": {"plan_id": "their_plan"},
    "jobs.services.update_sheet": {"job_id": "their_job"},
    "jobs.stepping.tick_step": {"job_id": "their_job", "step_id": "their_step"},
    "jobs.stepping.undo_step": {"job_id": "their_job", "step_id": "their_step"},
    "jobs.stepping.skip_step": {"job_id": "their_job", "step_id": "their_step", "reason": "mine"},
    "jobs.stepping.start_step": {"job_id": "their_job", "step_id": "their_step", "hold": True},
    "jobs.stepping.countersign": {"job_id": "their_job", "step_id": "their_step"},
    "jobs.found.find_own": {"job_id": "their_job", "slot": "bike", "what": "mine", "minutes": 1, "price": 0},
    "jobs.found.find_defect": {"job_id": "their_job", "tick": "frame_dent", "slots": ["frame"]},
    "jobs.found.find_parts": {"job_id": "their_job", "parts": {"chain": 1}},
    "jobs.found.does_not_fit": {"job_id": "their_job", "step_id": "their_step", "why": "mine"},
    "plans.wheels.take_over": {"plan_id": "their_plan", "slot": "rear_hub", "slots": []},
    "plans.services.start_package": {"bike_id": "their_bike", "code": "safety_check"},
    "bikes.inspection.close_findings": {"bike_id": "their_bike", "mended": ["fork:frame_dent"]},
    "plans.services.pick_packages": {"plan_id": "their_plan", "codes": ["safety_check"]},
    "rulebook.packages.drop_package": {"code": "safety_check"},
    "jobs.stepping.keep_step_picture": {"job_id": "their_job", "step_id": "their_step", "content": b""},
    "jobs.services.note_job": {
        "job_id": "their_job", "promised": None, "parts_on": None, "later": "mine", "kept": "",
    },
    "jobs.services.send_outside": {"job_id": "their_job", "what": "mine", "cost": 0, "days": 1},
    "jobs.services.goes_outside": {"job_id": "their_job", "outside_id": "their_outside"},
    "jobs.services.back_from_outside": {"job_id": "their_job", "outside_id": "their_outside"},
    "jobs.handover.hand_over": {"job_id": "their_job"},
    "jobs.handover.apply_change": {
        "plan_id": "their_plan", "bike_version": 1, "slot": "", "goes_to": "bench",
    },
    "jobs.handover.look_again": {"follow_up_id": "their_follow_up"},
    "rulebook.custom_steps.drop_step": {"code": "look:bike"},
    "jobs.schedule.keep_hours": {"user_id": "their_user", "values": {}},
    "jobs.schedule.move_session": {"job_id": "their_job", "session": 0, "not_before": None, "hand_id": None},
    "plans.way_search.plan_picks": {"plan_id": "their_plan", "picks": {"chain": "c1"}},
    "tasks.services.stop_task": {"task_id": "their_task"},
    "plans.options.add_option": {"plan_id": "their_plan"},
    "plans.options.choose_option": {"plan_id": "their_plan"},
    "rulebook.services.remove_shop_name": {"name_id": "their_name"},
    "workshop.services.change_customer": {"customer_id": "their_customer", "values": {"name": "mine"}},
}  # fmt: skip


@pytest.fixture
def things(owner, stranger, bike, catalogue) -> dict[str, Any]:
    """One of everything: of the owner's workshop as `their_…`, of the stranger's as `our_…`."""
    from unkett.web.catalogue.services import add_parts

    bench = fitting.take_off(actor=owner, bike_id=bike.pk, version=1, slot="chain")
    plan = start_plan(actor=owner, bike_id=bike.pk)
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Eight"].pk)
    parts = {"frame": {"attrs": {"chainstay_mm": 430}}, "chain": {"attrs": {"speeds": 9}}}
    ours = store_build(stranger, build_from({"name": "Ours", "parts": parts}))
    fitting.take_off(actor=stranger, bike_id=ours.pk, version=1, slot="chain")
    row = Bike.objects.get(pk=bench.pk)
    wheels = {"cassette": Source(sort="on")}
    set_up = add_set_up(actor=owner, bike_id=row.pk, version=row.version, name="Summer", parts=wheels)
    book = SaleBook.objects.create(bike=row, bought=80, bought_on=date(2026, 1, 5))
    nine = {"kind": "cassette", "name": "Nine", "attrs": {"speeds": 9}, "price": 1}
    job = start_job(actor=owner, plan_id=plan.pk)
    supplier = Supplier.objects.create(workshop=owner.workshop, name="Store", url="http://127.0.0.1:9")
    order = Order.objects.create(workshop=owner.workshop, supplier=supplier)
    words = {"does": "look", "slot": "bike", "says": "Twice.", "minutes": 5}
    write_step(actor=owner, code="look:bike", content=words)
    return {
        "their_reading": read_wear(actor=owner, bike_id=row.pk, slot="rear_hub", sort="bearing", value=1).pk,
        "their_job": job.pk,
        "their_step": job.steps.first().pk,
        "their_outside": OutsideWork.objects.create(job=job, what="Paint").pk,
        "their_follow_up": FollowUp.objects.create(bike=row, what="Bolts", due=date(2026, 1, 5)).pk,
        "their_user": owner.pk,
        "their_invitation": invite(actor=owner, name="Sigga", role="mechanic").pk,
        "their_link": give_link(actor=owner, plan_id=plan.pk).pk,
        "their_session": SignedIn.objects.create(user=owner, session_key="x").pk,
        "their_supplier": supplier.pk,
        "their_order": order.pk,
        "their_order_line": OrderItem.objects.create(order=order, kind="chain", name="Chain").pk,
        "our_supplier": Supplier.objects.create(workshop=stranger.workshop, name="Ours").pk,
        "their_bike": bench.pk,
        "their_plan": plan.pk,
        "their_set_up": set_up.pk,
        "their_stock": StockItem.objects.create(workshop=owner.workshop, sort="hose", length_mm=1700).pk,
        "their_line": QuoteItem.objects.create(plan=plan, title="Cleaning").pk,
        "their_sale_line": SaleLine.objects.create(book=book, title="Bar", value=5).pk,
        "their_task": ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"]).pk,
        "their_change": plan.changes.get().pk,
        "their_catalogue_part": catalogue["Eight"].pk,
        "their_bench_part": BikePart.objects.get(workshop=owner.workshop, where="bench").pk,
        "their_name": add_shop_name(actor=owner, code="spline9", name="nine notch").pk,
        "their_customer": bike.customer_id,
        "our_bike": ours.pk,
        "our_plan": start_plan(actor=stranger, bike_id=ours.pk).pk,
        "our_catalogue_part": add_parts(stranger.workshop, [nine])[0].pk,
        "our_bench_part": BikePart.objects.get(workshop=stranger.workshop, where="bench").pk,
    }


def filled(given: Any, things: dict[str, Any]) -> Any:
    if isinstance(given, dict):
        return {key: filled(value, things) for key, value in given.items()}
    if isinstance(given, Source):
        return Source(sort=given.sort, part_id=filled(given.part_id, things))
    return things.get(given, given) if isinstance(given, str) else given


def version_of(name: str, given: dict[str, Any], things: dict[str, Any]) -> dict[str, int]:
    """The version the thing has, so that nothing but its owner stands in the way."""
    if "version" not in inspect.signature(SERVICES[name]).parameters:
        return {}
    if "bike_id" in given:
        return {"version": Bike.objects.get(pk=given["bike_id"]).version}
    return {"version": 2 if given.get("plan_id") == things["their_plan"] else 1}


def test_no_service_is_left_out() -> None:
    assert {name.partition(",")[0] for name in GIVEN} | OF_THEIR_OWN == set(SERVICES)


def test_no_service_touches_another_workshops_thing(stranger, things) -> None:
    stored = {table: list(table.objects.order_by("pk").values()) for table in (Bike, BikePart, LogEntry)}
    for case, given in GIVEN.items():
        name = case.partition(",")[0]
        wanted = filled(given, things)
        wanted |= version_of(name, wanted, things)
        with pytest.raises((NotThere, Refused)) as error:
            SERVICES[name](actor=stranger, **wanted)
        if isinstance(
            error.value, Refused
        ):  # a part of theirs is reported as one that is not in our catalogue
            assert "not in the catalogue" in str(error.value), case
        assert {table: list(table.objects.order_by("pk").values()) for table in stored} == stored, case
