"""axe-core finds nothing on any main view; no view scrolls sideways at 1280."""

from pathlib import Path

import pytest
from django.utils import timezone
from playwright.sync_api import Page

from unkett.local.state import load_config
from unkett.web.bikes.models import Bike, BikePart
from unkett.web.jobs.models import Job
from unkett.web.plans.links import address_of_link, give_link
from unkett.web.plans.models import Plan
from unkett.web.supply.models import Order, OrderItem, Supplier
from unkett.web.tasks.services import do_next
from unkett.web.workshop.models import User
from unkett.web.workshop.people import invite, link_of

pytestmark = pytest.mark.own_database("demo")
AXE = (Path(__file__).parent / "axe.min.js").read_text(encoding="utf-8")


SHARES = 4


@pytest.mark.parametrize(
    "share", [pytest.param(n, marks=pytest.mark.xdist_group(f"views {n}")) for n in range(SHARES)]
)
def test_main_views(page: Page, db, share: int) -> None:
    """Each share of the views is a test of its own, so that they spread over the processes."""
    page.goto("/sign-in/")
    assert share or faults(page) == []
    page.get_by_label("Name").fill("rona")
    page.get_by_label("Password").fill(load_config()["demo_password"])
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Yard").wait_for()
    bike = Bike.objects.get(name="Harbour post no. 4")
    commuter = Bike.objects.get(name="Ferry commuter")
    plan, fork = Plan.objects.get(name="11–34 behind"), Plan.objects.get(name="Longer fork")
    job = Job.objects.get(plan__name="Rim to disc")
    assert do_next()  # the day plan
    piece = BikePart.objects.filter(where="bench", kind="chain").first()
    rona = User.objects.get(username="rona")
    link = give_link(actor=rona, plan_id=plan.pk)
    invitation = invite(actor=rona, name="Sigga", role="mechanic")
    Supplier.objects.update(answered_at=timezone.now())
    order = Order.objects.create(workshop=bike.workshop, supplier=Supplier.objects.exclude(url="").get())
    OrderItem.objects.create(order=order, kind="chain", name="Chain")
    views = [
        "/",
        f"/bikes/{bike.pk}/",
        f"/bikes/{bike.pk}/work/gears/",
        f"/bikes/{bike.pk}/work/chain/",
        *[f"/bikes/{bike.pk}/work/{name}/" for name in ("bracket", "brakes", "wheels", "steering")],
        f"/plans/{plan.pk}/",
        f"/plans/{plan.pk}/parts/cassette/",
        f"/plans/{plan.pk}/ways/",
        f"/plans/{plan.pk}/quote/",
        f"/plans/{plan.pk}/gear-search/?low=1.8",
        f"/plans/{plan.pk}/job/",
        f"/plans/{job.plan_id}/job/?step={job.steps.get(key='fit:front_rotor').pk}",
        f"/plans/{job.plan_id}/job/tag/",
        f"/plans/{plan.pk}/parts/rear_hub/",
        f"/bikes/{bike.pk}/look-over/",
        "/packages/?package=full_service",
        "/tools/",
        f"/jobs/{job.pk}/paper/sheet/",
        f"/jobs/{job.pk}/paper/torques/",
        f"/jobs/{job.pk}/paper/hand-over/",
        "/days/",
        "/bench/",
        "/bench/labels/",
        "/bench/counted/",
        "/bench/count/?box=C 1",
        "/bench/write/?kind=chain",
        f"/bench/{piece.pk}/",
        f"/bench/{piece.pk}/wanted-by/",
        f"/bikes/{bike.pk}/from-bin/",
        "/supply/",
        f"/supply/orders/{order.pk}/",
        "/people/",
        "/log/security/",
        "/units/",
        f"/look/{address_of_link(link)}/",
        f"/join/{link_of(invitation)}/",
        f"/bikes/{bike.pk}/log/",
        f"/customers/{bike.customer_id}/",
        "/tables/",
        "/tables/bikes/",
        f"/bikes/{bike.pk}/wear/",
        f"/bikes/{fork.bike_id}/suspension/?felt-shock=packs",
        f"/bikes/{fork.bike_id}/suspension/card/",
        f"/bikes/{fork.bike_id}/set-ups/",
        "/steps/?step=fit:crank",
        f"/plans/{plan.pk}/way-out/",
        f"/bikes/{bike.pk}/ledger/",
        "/bikes/ledgers/",
        f"/bikes/{bike.pk}/?joint=shifting",
        f"/bikes/{bike.pk}/parts/cassette/",
        f"/bikes/{bike.pk}/parts/cassette/fill/",
        f"/bikes/{commuter.pk}/cut/",
        f"/bikes/{bike.pk}/work/chain/?label=1",
        f"/bikes/{bike.pk}/intake/frame/",
        "/bikes/new/",
        "/?verdict=no_go",
        "/?find=nothing+like+it",
        f"/plans/{fork.pk}/?joint=fork",
        f"/plans/{fork.pk}/work/steering/",
        "/measure/?reading=34.9",
        "/work-out/crank_centring/?drive_mm=58.4&non_drive_mm=60.6&free_mm=2.5",
        "/catalogue/",
        "/measure/",
        "/measure/bb_shell/?bore_mm=41.1",
        "/work-out/",
        "/work-out/sag/?full_mm=120&sag_mm=30",
        "/rules/",
        "/rules/freehub-seat/",
        "/rules/tables/freehub_bodies/",
        "/rules/settings/",
        "/rules/names/",
        "/log/",
    ]
    found: dict[str, object] = {}
    for view in views[share::SHARES]:
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(view)
        error = faults(page, whole=view == views[share])
        wide = [size for size in SIZES if sideways(page, *size) > 1]
        if error or wide:
            found[view] = (error, wide)
    assert found == {}


# the desk, a tablet held upright, a phone, the desk at 200 % by zoom and by letters alone
SIZES = (
    (1280, 800, "15px"),
    (820, 1180, "15px"),
    (390, 844, "15px"),
    (640, 400, "15px"),
    (1280, 800, "30px"),
)


def sideways(page: Page, width: int, height: int, letters: str) -> int:
    """How far a page can be scrolled sideways at this size."""
    page.set_viewport_size({"width": width, "height": height})
    return page.evaluate(
        f"""() => {{
          document.documentElement.style.fontSize = '{letters}';
          return document.documentElement.scrollWidth - document.documentElement.clientWidth;
        }}"""
    )


def faults(page: Page, *, whole: bool = True) -> list[str]:
    """What axe-core finds, one line each; `whole`: in the style sheets too, which all pages share."""
    page.evaluate(AXE)
    result = page.evaluate(
        f"axe.run(document, {{resultTypes: ['violations'], preload: {str(whole).lower()}}})"
    )
    return [f"{one['id']}: {one['nodes'][0]['html'][:120]}" for one in result["violations"]]


def test_a_finger_hits_what_it_means(browser, site, island: Page) -> None:
    """On a touch screen every button, field and chip is at least 44 px high."""
    cookie = island.context.cookies()
    context = browser.new_context(
        viewport={"width": 820, "height": 1180}, has_touch=True, is_mobile=True, base_url=site.url
    )
    context.add_cookies(cookie)
    page = context.new_page()
    bike = Bike.objects.get(name="Harbour post no. 4")
    found = {}
    for view in (
        "/",
        f"/bikes/{bike.pk}/",
        f"/bikes/{bike.pk}/work/steering/",
        f"/bikes/{bike.pk}/intake/frame/",
        "/measure/",
    ):
        page.goto(view)
        small = page.evaluate(SMALL)
        if small:
            found[view] = small
    context.close()
    assert found == {}


SMALL = """() => [...document.querySelectorAll('button, input, select, summary, nav a')]
  .filter(one => !['hidden', 'checkbox', 'radio'].includes(one.type))
  .filter(one => one.checkVisibility() && one.getBoundingClientRect().height < 43.5)
  .map(one => one.outerHTML.slice(0, 90) + ' ' + one.getBoundingClientRect().height)"""
