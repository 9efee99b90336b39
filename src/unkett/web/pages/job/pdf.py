"""A paper of a job as PDF; only the background process loads this."""

from __future__ import annotations

from typing import Any

from django.utils import timezone

from unkett.web.jobs.queries import jobs_seen_by
from unkett.web.pages.common.pdf import pdf_from
from unkett.web.pages.job.page import PaperPage
from unkett.web.plans.queries import planned
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report
from unkett.web.workshop.errors import NotThere


def make_pdf(task: Task, _report: Report) -> Any:
    """Return the file in base64."""
    actor = task.made_by
    job = jobs_seen_by(actor).filter(pk=task.about_id).first() if actor else None
    if actor is None or job is None:
        raise NotThere
    found = planned(actor, job.plan_id)
    page = PaperPage(actor=actor, stands=found.stands, planned=found, sort=task.asked["sort"])
    context = {"page": page, "today": timezone.localdate(), "workshop": task.workshop}
    return pdf_from("job/on_paper.html", context)
