"""The quote as PDF; only the background process loads this, since what makes it is heavy."""

from __future__ import annotations

from typing import Any

from django.utils import timezone

from unkett.web.bikes.queries import settings_of
from unkett.web.pages.common.pdf import pdf_from
from unkett.web.plans.cost import PlanCost, asked_of
from unkett.web.plans.queries import planned
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report
from unkett.web.workshop.errors import NotThere


def make_pdf(task: Task, _report: Report) -> Any:
    """Return the file in base64."""
    actor = task.made_by
    if actor is None:
        raise NotThere
    found = planned(actor, task.about_id)
    cost = PlanCost(found=found, settings=settings_of(actor))
    context = {
        "found": found,
        "cost": cost,
        "asked": asked_of(found),
        "settings": cost.settings,
        "today": timezone.localdate(),
        "workshop": task.workshop,
    }
    return pdf_from("quote/paper.html", context)
