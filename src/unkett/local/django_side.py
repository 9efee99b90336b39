"""How the launcher runs Django: the environment of its processes, and management commands in this one."""

from __future__ import annotations

import os
import sys

from unkett.local.state import PROJECT, SetupError, state_folder


def environment() -> dict[str, str]:
    """What every process of the application runs with."""
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "unkett.web.site.settings",
        "PYTHONPATH": str(PROJECT / "src"),
        "UNKETT_STATE": str(state_folder()),
    }


def django(*commands: tuple[str, ...]) -> None:
    """Run management commands in this process. Raises SetupError with what a command says against it."""
    os.environ.update(environment())
    os.environ["PGOPTIONS"] = "-c statement_timeout=0 -c lock_timeout=0"  # set-up may take its time
    import django as installed
    from django.core.management import CommandError, call_command
    from django.db import connections

    installed.setup()
    try:
        for name, *args in commands:
            call_command(name, *args)
        connections.close_all()
    except CommandError as error:
        raise SetupError(str(error)) from error
    finally:
        del os.environ["PGOPTIONS"]
    sys.stdout.flush()  # what they said stands before what comes next
