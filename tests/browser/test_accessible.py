"""axe-core finds nothing on any main view; no view scrolls sideways at 1280."""

from pathlib import Path

import pytest
from django.core.management import call_command
from playwright.sync_api import Page

from unkett.local.state import load_config
from unkett.web.bikes.models import Bike
from unkett.web.plans.models import Plan

pytestmark = pytest.mark.django_db(transaction=True)
AXE = (Path(__file__).parent / "axe.min.js").read_text(encoding="utf-8")


def test_main_views(page: Page, db) -> None:
    call_command("load_demo", verbosity=0)
    page.goto("/sign-in/")
    assert faults(page) == []
    page.get_by_label("Name").fill("rona")
    page.get_by_label("Password").fill(load_config()["demo_password"])
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Yard").wait_for()
    bike, school = Bike.objects.get(name="Harbour post no. 4"), Bike.objects.get(name="School loan bike 7")
    plan = Plan.objects.get(name="11–34 behind")
    views = [
        "/",
        f"/bikes/{bike.pk}/",
        f"/bikes/{school.pk}/",
        f"/bikes/{bike.pk}/work/gears/",
        f"/bikes/{bike.pk}/work/chain/",
        *[f"/bikes/{bike.pk}/work/{name}/" for name in ("bracket", "brakes", "wheels", "steering")],
        f"/plans/{plan.pk}/",
        f"/plans/{plan.pk}/parts/cassette/",
        f"/plans/{plan.pk}/work/gears/",
        f"/plans/{plan.pk}/work/chain/",
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
    found = {}
    for view in views:
        page.goto(view)
        told = faults(page)
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        if told or wide > 1:
            found[view] = (told, wide)
    assert found == {}


def faults(page: Page) -> list[str]:
    """What axe-core finds, one line each."""
    page.evaluate(AXE)
    result = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [f"{one['id']}: {one['nodes'][0]['html'][:120]}" for one in result["violations"]]
