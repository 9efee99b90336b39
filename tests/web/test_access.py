"""Who may open what, walked from the URL table itself: a page without a policy fails here."""

import pytest
from django.db import IntegrityError, transaction
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from unkett.web.bikes.models import BikePart, Picture, SetUp, Where
from unkett.web.catalogue.models import StockItem
from unkett.web.jobs.models import FollowUp, OutsideWork, StepPicture
from unkett.web.jobs.services import start_job
from unkett.web.plans.links import address_of_link, give_link
from unkett.web.plans.models import CustomerLink, Plan, QuoteItem, SaleBook, SaleLine
from unkett.web.plans.way_search import ask_ways
from unkett.web.rulebook.services import add_shop_name
from unkett.web.supply.models import Order, Supplier
from unkett.web.tasks.models import Task
from unkett.web.wear.services import read_wear
from unkett.web.workshop.models import Role, SignedIn
from unkett.web.workshop.people import invite, link_of
from unkett.web.workshop.permissions import EVERYONE, POLICIES


def walk(patterns, prefix=""):
    for one in patterns:
        if isinstance(one, URLResolver):
            yield from walk(one.url_patterns, f"{prefix}{one.namespace}:" if one.namespace else prefix)
        elif isinstance(one, URLPattern):
            yield f"{prefix}{one.name}", one


PAGES = dict(walk(get_resolver().url_patterns))
OWNED = {
    "bike_id",
    "plan_id",
    "part_id",
    "name_id",
    "customer_id",
    "bike_part_id",
    "set_up_id",
    "stock_id",
    "task_id",
    "line_id",
    "job_id",
    "reading_id",
    "step_id",
    "outside_id",
    "follow_up_id",
    "user_id",
    "supplier_id",
    "order_id",
    "invitation_id",
    "link_id",
    "signed_in_id",
}


@pytest.fixture
def things(owner, bike, plan, catalogue) -> dict[str, object]:
    """One of everything that an address may name."""
    name = add_shop_name(actor=owner, code="spline9", name="nine notch")
    part = catalogue["Eight"]
    set_up = SetUp.objects.create(bike=bike, name="Summer")
    Picture.objects.create(bike=bike, about="chain_worn", content=b"a picture")
    book = SaleBook.objects.create(bike=bike, bought=80, bought_on="2026-01-05")
    job = start_job(actor=owner, plan_id=plan.pk)
    invitation = invite(actor=owner, name="Sigga", role="mechanic")
    link = give_link(actor=owner, plan_id=plan.pk)
    CustomerLink.objects.update(answer="yes")
    moved = {"from": "2026-01-05T18:00:00+00:00", "to": "2026-01-08T18:00:00+00:00", "why": "a chain comes"}
    Plan.objects.filter(pk=plan.pk).update(moved=moved)
    supplier = Supplier.objects.create(workshop=owner.workshop, name="Store", url="http://127.0.0.1:9")
    StepPicture.objects.create(step=job.steps.first(), content=b"a picture")
    BikePart.objects.create(
        workshop=owner.workshop, bike=bike, slot="fork", kind="fork", attrs={"travel_mm": 130}
    )
    return {
        "bench_part_id": BikePart.objects.create(workshop=owner.workshop, where=Where.BENCH, kind="stem").pk,
        "supplier_id": supplier.pk,
        "order_id": Order.objects.create(workshop=owner.workshop, supplier=supplier).pk,
        "code": "bikes",
        "invitation_id": invitation.pk,
        "link_id": link.pk,
        "join": link_of(invitation),
        "look": address_of_link(link),
        "signed_in_id": SignedIn.objects.create(user=owner, session_key="x").pk,
        "sold_part_id": BikePart.objects.create(workshop=owner.workshop, where=Where.SOLD, kind="stem").pk,
        "reading_id": read_wear(actor=owner, bike_id=bike.pk, slot="chain", sort="chain_pct", value=0.3).pk,
        "job_id": job.pk,
        "step_id": job.steps.first().pk,
        "outside_id": OutsideWork.objects.create(job=job, what="Paint", days=3).pk,
        "follow_up_id": FollowUp.objects.create(bike=bike, what="Bolts", due="2026-01-05").pk,
        "user_id": owner.pk,
        "session": 0,
        "sort": "sheet",
        "what": "own",
        "card_pdf_id": Task.objects.create(
            workshop=owner.workshop, sort="suspension-pdf", about_id=bike.pk, found={"pdf": "JVBERg=="}
        ).pk,
        "job_pdf_id": Task.objects.create(
            workshop=owner.workshop,
            sort="job-pdf",
            about_id=job.pk,
            asked={"sort": "sheet"},
            found={"pdf": ""},
        ).pk,
        "bike_id": bike.pk,
        "plan_id": plan.pk,
        "part_id": part.pk,
        "name_id": name.pk,
        "customer_id": bike.customer_id,
        "bike_part_id": bike.fitted.first().pk,
        "set_up_id": set_up.pk,
        "stock_id": StockItem.objects.create(workshop=owner.workshop, sort="hose", length_mm=1700).pk,
        "task_id": ask_ways(actor=owner, plan_id=plan.pk, wish={}, best=["cheapest"]).pk,
        "line_id": QuoteItem.objects.create(plan=plan, title="Cleaning").pk,
        "pdf_id": Task.objects.create(
            workshop=owner.workshop, sort="quote-pdf", about_id=plan.pk, found={"pdf": ""}
        ).pk,
        "sale_line_id": SaleLine.objects.create(book=book, title="Bar", value=5).pk,
        "slot": "cassette",
        "kind": "bb_shell",
        "page": "wheels",
        "rule_id": "freehub-seat",
        "name": "freehub_bodies",
    }


def address(name, known) -> str:
    names = {
        "calculators:calculation": "capacity",
        "bikes:typed-keep": "capacity",
        "bikes:intake-station": "frame",
        "bikes:inspection-picture": "chain_worn",
    }
    if name.startswith("rulebook:complaint"):
        known = {**known, "code": "no_drive"}
    slots = {
        "bikes:suspension-next": "fork",
        "bikes:line-route": "rear_shift_line",
        "bikes:line-point": "rear_shift_line",
    }
    if name == "plans:quote-file":
        known = {**known, "task_id": known["pdf_id"]}
    if name in ("bench:part-keep", "bench:part-leave"):
        known = {**known, "bike_part_id": known["bench_part_id"]}
    if name in ("workshop:join", "workshop:look"):
        known = {**known, "link": known[name.partition(":")[2]]}
    if name == "bench:part-back":
        known = {**known, "bike_part_id": known["sold_part_id"]}
    if name == "bikes:suspension-file":
        known = {**known, "task_id": known["card_pdf_id"]}
    if name == "jobs:file":
        known = {**known, "task_id": known["job_pdf_id"]}
    if name == "bikes:resale-remove":
        known = {**known, "line_id": known["sale_line_id"]}
    known = {**known, "name": names.get(name, known["name"]), "slot": slots.get(name, known["slot"])}
    wanted = PAGES[name].pattern.converters
    return reverse(name, kwargs={key: known[key] for key in wanted})


def ask(client, name, url):
    """GET first; a page that only takes POST is posted to with nothing."""
    answer = client.get(url, {"slot": "fork"})
    return client.post(url, {}) if answer.status_code == 405 else answer


def test_every_view_names_a_policy() -> None:
    for name, page in PAGES.items():
        assert getattr(page.callback, "policy", None) in {*POLICIES, EVERYONE}, name


def each(names):
    """Every page by itself: what one of them stores is gone before the next is asked."""
    for name in sorted(names):
        with transaction.atomic():
            yield name
            transaction.set_rollback(True)


def test_nobody_signed_out_gets_in(client, things) -> None:
    for name in each(PAGES):
        answer = ask(client, name, address(name, things))
        if PAGES[name].callback.policy == EVERYONE:
            assert answer.status_code in (200, 302), name
        else:
            assert answer.status_code == 302, name
            assert answer.url.startswith("/sign-in/"), name


@pytest.mark.parametrize("role", Role.values)
def test_each_role_gets_what_its_policy_says(client, things, owner, role) -> None:
    owner.role = role
    owner.save()
    for name in each(PAGES):
        client.force_login(owner)
        policy = PAGES[name].callback.policy
        answer = ask(client, name, address(name, things))
        if policy != EVERYONE and role not in POLICIES[policy]:
            assert answer.status_code == 403, name
        else:
            assert answer.status_code in (200, 302, 422), name


def test_a_session_that_ended_leads_to_signing_in_and_back(client, bike) -> None:
    stand = reverse("bikes:stand", args=[bike.pk])
    undo = reverse("bikes:bike-undo", args=[bike.pk])
    sign_in = f"{reverse('workshop:sign-in')}?next={stand}"
    htmx = {"HX-Request": "true", "HX-Current-URL": f"http://testserver{stand}"}
    fragment = client.get(stand, {"part": "goes"}, headers=htmx)
    assert (fragment.status_code, fragment["HX-Redirect"], fragment.content) == (200, sign_in, b"")
    assert client.get(stand).url == sign_in
    assert client.post(undo, headers={"Referer": f"http://testserver{stand}"}).url == sign_in
    for foreign in ("", "https://elsewhere.example/x"):
        assert client.post(undo, headers={"Referer": foreign}).url.endswith("?next=/")


TYPED = {
    "role": "mechanic",
    "supplier": 1,
    "line": 1,
    "count": 1,
    "number": 1,
    "why": "used",
    "version": 1,
    "bike_version": 1,
    "part": 1,
    "change": 1,
    "route": "internal_open",
    "point": "lever",
    "name": "x",
    "slot": "chain",
    "attr": "links",
    "to": 1,
    "finding": "chain-width:chain:cassette",
    "reason": "x",
    "card": 0,
    "title": "x",
    "bought": "1",
    "bought_on": "2026-01-05",
    "minutes": "5",
    "value": "110",
    "pick": "chain:c1",
    "what": "x",
    "rule": "x",
    "cause": "change:chain",
    "ref": "chain",
    "price": "1",
    "days": "5",
    "begins": "09:00",
    "pause_from": "12:00",
    "pause_to": "13:00",
    "ends": "17:00",
    "goes_to": "bench",
}


def test_things_of_another_workshop_are_not_here(client, things, stranger) -> None:
    for name in each(name for name, page in PAGES.items() if set(page.pattern.converters) & OWNED):
        client.force_login(stranger)
        url = address(name, things)
        answer = client.get(url)
        if answer.status_code == 405:
            answer = client.post(url, TYPED)
        assert answer.status_code == 404, name


def test_there_is_no_account_without_a_workshop(django_user_model) -> None:
    with pytest.raises(IntegrityError, match="workshop_id"):
        django_user_model.objects.create_user("lost", password="a long pass phrase")


def test_pages_carry_a_strict_policy(client, owner, bike) -> None:
    client.force_login(owner)
    answer = client.get(reverse("bikes:stand", args=[bike.pk]))
    policy = answer["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert "http" not in policy
    assert answer["X-Frame-Options"] == "DENY"
    assert answer["Cross-Origin-Resource-Policy"] == "same-origin"
    assert "camera=()" in answer["Permissions-Policy"]
    assert "style=" not in answer.text
    assert "onclick" not in answer.text


def test_a_post_without_its_token_is_refused(bike, owner) -> None:
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(owner)
    assert client.post(reverse("plans:plan-start", args=[bike.pk])).status_code == 403
    assert bike.plans.count() == 0


def test_all_script_together_is_small() -> None:
    """80 kB compressed at most, whatever page is open."""
    import gzip
    from pathlib import Path

    from unkett.web.site import settings as site

    scripts = list((Path(site.__file__).parent / "static").rglob("*.js"))
    assert scripts
    assert sum(len(gzip.compress(one.read_bytes())) for one in scripts) <= 80_000
