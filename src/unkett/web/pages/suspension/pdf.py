"""The suspension card as PDF; only the background process loads this."""

from __future__ import annotations

from typing import Any

from django.utils import timezone

from unkett.web.bikes.queries import current_bike
from unkett.web.pages.common.pdf import pdf_from
from unkett.web.pages.suspension.page import SuspensionPage
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import Report
from unkett.web.workshop.errors import NotThere


def make_pdf(task: Task, _report: Report) -> Any:
    """Return the card in base64."""
    actor = task.made_by
    if actor is None:
        raise NotThere
    page = SuspensionPage(actor=actor, stands=current_bike(actor, task.about_id))
    context = {"page": page, "today": timezone.localdate(), "workshop": task.workshop}
    return pdf_from("suspension/on_paper.html", context)
