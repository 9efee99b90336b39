"""The application's log: one JSON object a line on standard error, with the id of the request it belongs to.

The launcher puts these lines into `log/unkett.log` of the state folder and turns it over; behind another launcher they
go wherever standard error goes.
"""

from __future__ import annotations

import contextvars
import json
import logging
import re
import traceback
from datetime import UTC, datetime
from typing import Any

request_id: contextvars.ContextVar[str] = contextvars.ContextVar("request_id", default="")
LINKS = re.compile(
    r"(/(?:look|join)/)[^/\s\"\\\\]+"
)  # a link's own word opens what it leads to: no log holds it
TOLD = ("who", "detail", "path", "method", "status", "address")
TRACE_MOST = 8000


class JsonLines(logging.Formatter):
    """A record as one line of JSON; no line of it can be forged by what somebody typed."""

    def format(self, record: logging.LogRecord) -> str:
        entry: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "log": record.name,
            "says": record.getMessage(),
        }
        if request_id.get():
            entry["request"] = request_id.get()
        entry |= {name: str(getattr(record, name)) for name in TOLD if hasattr(record, name)}
        if record.exc_info:
            entry["trace"] = "".join(traceback.format_exception(*record.exc_info))[-TRACE_MOST:]
        return LINKS.sub(r"\1…", json.dumps(entry, ensure_ascii=False))


def logging_settings() -> dict[str, Any]:
    """Django's LOGGING."""
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {"json": {"()": JsonLines}},
        "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "json"}},
        "root": {"handlers": ["stderr"], "level": "WARNING"},
        "loggers": {
            "unkett": {"level": "INFO"},
            "django": {"handlers": [], "level": "WARNING", "propagate": True},
            "django.server": {"handlers": [], "propagate": True},
            "axes": {"level": "ERROR"},
        },
    }
