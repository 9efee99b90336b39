"""Databases for tests: one for each test process, copied from templates that are made once and kept.

A template holds the migrated tables, with or without the demonstration. Its name carries a mark of the sources it was
made from, so it is made again when one of them changes. Copying takes a twentieth of a second.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import os
from pathlib import Path
from typing import Any

import psycopg
from django.conf import settings
from django.core.management import call_command
from django.db import connections
from psycopg import sql

import unkett

EMPTY, DEMO = "empty", "demo"
PREFIX = "test_unkett"
MAKING = 1  # the advisory lock under which templates are made
WITHOUT_LIMITS = "-c lock_timeout=0 -c statement_timeout=0"
SOURCES = (".py", ".toml", ".json")


def sources_mark() -> str:
    """Return a mark that changes with anything a template is made from."""
    digest = hashlib.sha256()
    for path in sorted(Path(unkett.__file__).parent.rglob("*")):
        if path.suffix in SOURCES:
            digest.update(path.read_bytes())
    return digest.hexdigest()[:12]


def _alive(pid: str) -> bool:
    return pid.isdecimal() and Path(f"/proc/{pid}").exists()


class Databases:
    """The databases of this test process. `close` drops them; the templates stay for the next run."""

    def __init__(self) -> None:
        self.mark = sources_mark()
        self.config = connections["default"].settings_dict
        self.maintenance = self._connect()
        self.copies = 0
        self._make_templates()
        self.main = self.copy(EMPTY)
        self.use(self.main)

    def _connect(self) -> psycopg.Connection[Any]:
        return psycopg.connect(
            host=self.config["HOST"], port=self.config["PORT"], user=self.config["USER"],
            password=self.config["PASSWORD"], dbname="postgres", autocommit=True, options=WITHOUT_LIMITS,
        )  # fmt: skip

    def template(self, sort: str) -> str:
        return f"{PREFIX}_{self.mark}_{sort}"

    def _names(self) -> list[str]:
        rows = self.maintenance.execute(
            "select datname from pg_database where starts_with(datname, %s)", (f"{PREFIX}_",)
        ).fetchall()
        return [row[0] for row in rows]

    def _key(self, mark: str) -> int:
        return int(mark, 16) >> 1

    def _make_templates(self) -> None:
        """Make what is missing, once however many processes want it, and hold it as in use."""
        self.maintenance.execute("select pg_advisory_lock(%s)", (MAKING,))
        there = self._names()
        if self.template(DEMO) not in there:  # made last, so both are whole
            self._sweep(there)
            self._make(EMPTY, ("migrate", "--verbosity=0"))
            self._make(DEMO, ("load_demo", "--once"))
        self.maintenance.execute("select pg_advisory_lock_shared(%s)", (self._key(self.mark),))
        self.maintenance.execute("select pg_advisory_unlock(%s)", (MAKING,))

    def _make(self, sort: str, command: tuple[str, ...]) -> None:
        made, base = f"{PREFIX}_{self.mark}_making", "template0" if sort == EMPTY else self.template(EMPTY)
        self.drop(self.template(sort))
        self.drop(made)
        self._copy(base, made)
        self.use(made)
        with contextlib.redirect_stdout(io.StringIO()):
            call_command(*command)
        connections["default"].close()
        self.maintenance.execute(
            sql.SQL("alter database {} rename to {}").format(
                sql.Identifier(made), sql.Identifier(self.template(sort))
            )
        )

    def _sweep(self, there: list[str]) -> None:
        """Drop what earlier runs left: copies of processes that are gone, templates of other sources not in use."""
        for name in there:
            mark, _, rest = name.removeprefix(f"{PREFIX}_").partition("_")
            if mark == "copy":
                if not _alive(rest.partition("_")[0]):
                    self.drop(name)
            elif len(mark) == len(self.mark) and mark != self.mark:
                free = self.maintenance.execute(
                    "select pg_try_advisory_lock(%s)", (self._key(mark),)
                ).fetchone()
                if free == (True,):
                    self.drop(name)
                    self.maintenance.execute("select pg_advisory_unlock(%s)", (self._key(mark),))

    def _copy(self, template: str, name: str) -> None:
        self.maintenance.execute(
            sql.SQL("create database {} template {}").format(sql.Identifier(name), sql.Identifier(template))
        )

    def copy(self, sort: str) -> str:
        """Make a fresh database from a template; return its name."""
        self.copies += 1
        name = f"{PREFIX}_copy_{os.getpid()}_{self.copies}"
        self._copy(self.template(sort), name)
        return name

    def use(self, name: str) -> None:
        """Let every connection that is opened from now on lead to this database."""
        connections["default"].close()
        self.config["NAME"] = name  # one dictionary for the connections of all threads
        settings.DATABASES["default"]["NAME"] = name

    def drop(self, name: str) -> None:
        """Drop a database and end our own connections to it.

        `with (force)` would refuse where autovacuum is at work, since that belongs to another role; a plain drop sends
        it away and waits for it.
        """
        self.maintenance.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = %s and usename = current_user",
            (name,),
        )
        self.maintenance.execute(sql.SQL("drop database if exists {}").format(sql.Identifier(name)))

    def close(self) -> None:
        connections["default"].close()
        self.drop(self.main)
        self.maintenance.close()
