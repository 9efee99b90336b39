"""A job on the real pages: sheet made, steps by the space bar with readings, countersigned, handed over."""

import datetime

import pytest
from django.utils import timezone
from playwright.sync_api import Page, expect

from tests.web.ticking import tick
from unkett.web.bikes.models import BikePart
from unkett.web.jobs.models import FollowUp, JobStep
from unkett.web.plans.models import Plan, State
from unkett.web.plans.services import swap_part
from unkett.web.workshop.models import Role, User

pytestmark = pytest.mark.own_database


def test_a_job_from_its_first_step_to_the_hand_over(
    bike, plan, catalogue, owner, signed_in: Page, expected_faults
) -> None:
    expected_faults.append("422")  # a reading that cannot be read, and a hand-over before its time
    cassette = catalogue["Eight"].pk
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=cassette)
    page = signed_in
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("navigation", name="Work on this bike").get_by_role("link", name="Job").click()
    page.get_by_role("button", name="Make the job sheet").click()
    step = page.get_by_test_id("step")
    expect(step).to_contain_text("Look the bike over")
    expect(step).to_contain_text("Then:")
    page.keyboard.press("Space")
    expect(step.get_by_role("heading")).to_contain_text("Look how the rear wheel is held")
    page.keyboard.press("Space")
    expect(step.get_by_role("heading")).to_contain_text("Remove the cassette")
    page.get_by_role("button", name="Start step").click()
    expect(step).to_contain_text("has it in hand")
    page.keyboard.press("Space")

    expect(page.get_by_test_id("torque")).to_contain_text("40")  # the middle of 35 to 45
    page.get_by_label("Torque").fill("forty")
    page.get_by_label("Torque").press("Enter")
    expect(step.get_by_role("alert")).to_contain_text("a number such as")
    page.get_by_label("Torque").fill("5")
    page.get_by_label("Torque").press("Enter")
    expect(step.get_by_role("alert")).to_contain_text("5 Nm; 35–45 Nm allowed")
    expect(page.get_by_label("Keep it, because")).to_be_visible()
    page.get_by_label("Torque").fill("39,5")
    page.get_by_label("Torque").press("Enter")
    expect(step).not_to_contain_text("Narrow spline")
    assert JobStep.objects.get(key="fit:cassette").reading == 39.5

    tam = User.objects.create(username="tam", first_name="Tam", workshop=owner.workshop, role=Role.APPRENTICE)
    job = plan.job
    for one in job.steps.all():
        if one.done_at is None and one.content["does"] != "hand_over":
            tick(tam, job, one.key)
    JobStep.objects.exclude(done_at=None).update(done_at=timezone.now() - datetime.timedelta(days=1))
    page.reload()
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("main")).to_contain_text("A mechanic countersigns first")
    page.goto(f"/plans/{plan.pk}/job/")
    while page.get_by_role("heading", name="To countersign").is_visible():
        to_sign = page.locator("section", has=page.get_by_role("heading", name="To countersign"))
        to_sign.get_by_role("link").first.click()
        page.get_by_role("button", name="I have looked at it").click()
        page.goto(f"/plans/{plan.pk}/job/")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("heading", name="Hand-over sheet")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("39.5")
    assert Plan.objects.get(pk=plan.pk).state == State.HANDED_OVER
    assert BikePart.objects.filter(bike=bike, slot="cassette", name="Eight").exists()
    assert FollowUp.objects.filter(bike=bike, what="Every bolt after the first ride").exists()


def test_every_kind_of_step_is_done_on_its_page(bike, plan, catalogue, owner, signed_in: Page) -> None:
    """The first step of each kind of a full service by hand, with its reading; then found, broken off, handed over."""
    page = signed_in
    swap_part(actor=owner, plan_id=plan.pk, version=1, slot="cassette", part_id=catalogue["Eight"].pk)
    page.goto(f"/plans/{plan.pk}/")
    page.get_by_role("button", name="Full service").click()
    expect(page.get_by_role("button", name="Full service")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Mark as agreed").click()
    page.goto(f"/plans/{plan.pk}/job/")
    page.get_by_role("button", name="Make the job sheet").click()
    job, seen = plan.job, set()
    for key in list(job.steps.values_list("key", flat=True)):
        one = job.steps.get(key=key)  # made again once something is found
        does = one.content["does"]
        if does == "hand_over":
            break
        if does in seen or one.proves:
            tick(owner, job, one.key)
        else:
            seen.add(does)
            done = job.steps.exclude(done_at=None).count()
            page.goto(f"/plans/{plan.pk}/job/?step={one.pk}")
            if one.expected.torque_only:
                page.get_by_role("button", name="Wrench clicked at").click()
            elif one.content["reading"]:
                page.get_by_text("Not measured", exact=True).click()
                page.get_by_label("Not measured, because").fill("no gauge at this stand")
                page.get_by_role("button", name="Done without a reading").click()
            else:
                page.get_by_role("button", name="Done, next").click()
            expect(page.get_by_role("heading", name=f"Job sheet: {done + 1} of")).to_be_visible()
        JobStep.objects.filter(pk=one.pk).update(done_at=timezone.now() - datetime.timedelta(hours=2))
        if one.key == "take_off:rear_hub:wheel":
            page.goto(f"/plans/{plan.pk}/job/tag/")
            expect(page.get_by_role("main")).to_contain_text("rear wheel out")
            page.goto(f"/plans/{plan.pk}/job/")
            page.get_by_text("Something else", exact=True).click()
            page.get_by_label("What was found").last.fill("Bell rattles")
            page.get_by_label("Minutes").last.fill("5")
            page.get_by_role("button", name="Add to sheet and quote").last.click()
            expect(page.get_by_role("complementary", name="Job sheet")).to_contain_text("Bell rattles")
            tick(owner, job, "adjust:bike:own-1")
    assert {"look", "take_off", "clean", "fit", "adjust", "measure", "check"} <= seen
    page.goto(f"/plans/{plan.pk}/job/")
    expect(page.get_by_text("Not to be ridden")).to_have_count(0)
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("heading", name="Hand-over sheet")).to_be_visible()
    page.goto(f"/plans/{plan.pk}/quote/")
    expect(page.get_by_role("main")).to_contain_text("Found: Bell rattles")
