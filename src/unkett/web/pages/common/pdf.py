"""A template as PDF; only the background process loads this, since what makes it is heavy."""

from __future__ import annotations

import base64
from typing import Any

from django.contrib.staticfiles import finders
from django.template.loader import render_to_string
from weasyprint import CSS, HTML

STYLES = ("site/paper.css",)


def pdf_from(template: str, context: dict[str, Any]) -> dict[str, str]:
    """Return the file in base64, as a task keeps it."""
    styles = [CSS(filename=finders.find(name)) for name in STYLES]
    made = HTML(string=render_to_string(template, context)).write_pdf(stylesheets=styles)
    return {"pdf": base64.b64encode(made).decode("ascii")}
