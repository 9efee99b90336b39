"""The papers of a job: sheet, torques, hand-over; on the page, printed and as PDF."""

from __future__ import annotations

import base64

from django.http import Http404, HttpResponse
from django.shortcuts import redirect

from unkett.web.pages.common.answers import answer, bytes_file
from unkett.web.pages.common.bike_page import of_plan
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.job.page import PAPERS, PaperPage
from unkett.web.pages.job.views import job_of
from unkett.web.tasks.services import ask_for, tasks_seen_by

PDF = "job-pdf"


def _sort(name: str) -> str:
    if name not in PAPERS:
        raise Http404
    return name


@allowed("see-jobs")
def paper(request: Request, job_id: int, sort: str) -> HttpResponse:
    """One of the papers."""
    plan_id = job_of(request, job_id).plan_id
    page = of_plan(request, plan_id, PaperPage, "job", sort=_sort(sort))
    return answer(request, "job/paper.html", page)


@allowed("see-jobs", "POST")
def make(request: Request, job_id: int, sort: str) -> HttpResponse:
    """Ask for it as PDF."""
    job = job_of(request, job_id)
    ask_for(actor=request.user, sort=PDF, about_id=job.pk, asked={"sort": _sort(sort)})
    return redirect("jobs:paper", job.pk, sort)


@allowed("see-jobs")
def file(request: Request, job_id: int, task_id: int) -> HttpResponse:
    """The PDF that was made."""
    task = tasks_seen_by(request.user).filter(pk=task_id, sort=PDF, about_id=job_id).first()
    if task is None or not task.found:
        raise Http404
    name = f"{task.asked['sort']}-{job_id}.pdf"
    return bytes_file(base64.b64decode(task.found["pdf"]), name, "application/pdf")
