"""How the launcher runs Django: the environment of its processes, and management commands in this one."""

from __future__ import annotations

import os
import sys

from unkett.local.state import PROJECT, SetupError, state_folder


def environment() -> dict[str, str]:
    """Return what every process of the application runs with."""
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
    from django.db.migrations.exceptions import NodeNotFoundError

    installed.setup()
    try:
        for name, *args in commands:
            call_command(name, *args)
        connections.close_all()
    except CommandError as error:
        raise SetupError(str(error)) from error
    except (
        NodeNotFoundError
    ) as error:  # some of the migrations that a squashed one replaces are applied, not all
        raise SetupError(
            "the tables here are older than this version can bring up to date: start release 0.1.0 once, then this one"
        ) from error
    finally:
        del os.environ["PGOPTIONS"]
    sys.stdout.flush()  # what they said stands before what comes next
