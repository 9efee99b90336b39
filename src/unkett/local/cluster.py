"""A private PostgreSQL cluster on loopback: made, set up and used by this checkout only.

Whoever uses the cluster holds a shared lock. A keeper process of its own (`keeper.py`) runs PostgreSQL, starts it again
when it dies, and stops it once nobody holds the lock, however they went; so a killed launcher leaves nothing behind,
and a test run beside a running application does not pull the database from under it.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import pwd
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg
from psycopg import sql

from unkett.local.locks import hold_shared, others_hold
from unkett.local.state import (
    HOST,
    PROJECT,
    SetupError,
    cluster_folder,
    cluster_mark,
    free_port,
    load_config,
    port_is_free,
    save_config,
    state_folder,
)

ROOT_ACCOUNT = "postgres"
ADMIN = "unkett_admin"  # owns the cluster; the application never signs in with it
UP_WITHIN_S = 60.0
DOWN_WITHIN_S = 40.0
ORPHAN_STOPS_WITHIN_S, ORPHAN_GIVEN_UP_S = 4.0, 20.0
PORT_FREE_WITHIN_S = 3.0
STATEMENT_S, LOCK_S, IDLE_S = 20, 6, 60
PENDING = "unkett_restore"  # the schema in which a restored database brings its configuration
OF_THE_MACHINE = (
    "cluster",
    "database",
    "set_up_code",
)  # of a configuration what a restore leaves as it is here
SETTINGS = f"""# Written by the launcher at every start: what is changed here is lost.
listen_addresses = '{HOST}'
unix_socket_directories = ''
max_connections = 100
jit = off  # short queries only
logging_collector = on
log_directory = 'log'
log_filename = 'postgresql-%a.log'
log_truncate_on_rotation = on
log_rotation_age = 1d
log_rotation_size = 10MB
log_statement = 'none'  # what is asked is nobody's business
log_min_error_statement = panic
log_parameter_max_length_on_error = 0
"""


def binaries() -> Path:
    """Return the folder of the newest PostgreSQL from Debian's packages. Raises SetupError."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[4]))
    if not found:
        raise SetupError("PostgreSQL is not installed: apt-get install postgresql")
    return found[-1].parent


def account() -> dict[str, Any]:
    """Return how to run PostgreSQL's programs: as ourselves, or as root under its own account."""
    if os.geteuid() != 0:
        return {}
    try:
        entry = pwd.getpwnam(ROOT_ACCOUNT)
    except KeyError as error:
        raise SetupError(f"PostgreSQL will not run as root and there is no account {ROOT_ACCOUNT}") from error
    return {"user": entry.pw_uid, "group": entry.pw_gid, "extra_groups": []}


def _run(program: str, *args: str, check: bool = True) -> subprocess.CompletedProcess[str]:
    done = subprocess.run(
        [str(binaries() / program), *args],
        cwd="/",
        env={"PATH": "/usr/bin:/bin", "LC_ALL": "C.UTF-8"},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        stdin=subprocess.DEVNULL,
        text=True,
        start_new_session=True,
        check=False,
        **account(),
    )
    if check and done.returncode != 0:
        raise SetupError(f"{program} failed:\n{done.stdout.strip()}")
    return done


def own(path: Path) -> None:
    """Give a file to the account that PostgreSQL runs under."""
    who = account()
    if who:
        os.chown(path, who["user"], who["group"])


def create(folder: Path) -> None:
    """Make the cluster whole or not at all: UTF-8, checksums, password login only, loopback only, no socket file."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    fresh = folder.with_suffix(".new")
    if fresh.exists():
        shutil.rmtree(fresh)  # an earlier set-up was cut short
    fresh.mkdir(mode=0o700)
    own(fresh)
    admin = _admin()
    with tempfile.NamedTemporaryFile("w", prefix="unkett-", dir="/tmp") as secret:
        secret.write(admin["password"])
        secret.flush()
        own(Path(secret.name))
        _run(
            "initdb",
            f"--pgdata={fresh}",
            f"--username={admin['user']}",
            f"--pwfile={secret.name}",
            "--auth=scram-sha-256",
            "--encoding=UTF8",
            "--locale=C.UTF-8",
            "--data-checksums",
        )
    fresh.rename(folder)
    cluster_mark().write_text(f"{folder}\n")


def _admin() -> dict[str, str]:
    """Who owns the cluster, with a password made once."""
    config = load_config()
    if "admin" not in config["database"]:
        config["database"]["admin"] = {"user": ADMIN, "password": secrets.token_urlsafe(24)}
        save_config(config)
    return dict(config["database"]["admin"])


def configure(folder: Path) -> None:
    """Write the launcher's settings; they come last, so they win."""
    conf, mine = folder / "postgresql.conf", folder / "unkett.conf"
    mine.write_text(SETTINGS)
    own(mine)
    if "include = 'unkett.conf'" not in conf.read_text():
        with conf.open("a") as out:
            out.write("\ninclude = 'unkett.conf'\n")
    state = _run("pg_controldata", f"--pgdata={folder}").stdout
    if "Data page checksum version:           0" in state and "shut down" in state:
        _run("pg_checksums", "--enable", f"--pgdata={folder}")  # a cluster of an earlier release


def connect(*, admin: bool = False, dbname: str = "postgres") -> psycopg.Connection[Any]:
    """Return a connection for set-up. Raises SetupError with what to do for a password that is not taken."""
    database = load_config()["database"]
    who = database["admin"] if admin else database
    try:
        return psycopg.connect(
            host=database["host"], port=database["port"], user=who["user"], password=who["password"],
            dbname=dbname, autocommit=True, connect_timeout=5,
        )  # fmt: skip
    except psycopg.OperationalError as error:
        if "password" in str(error):
            raise SetupError(
                "the database does not take the password in config.json: put back the config.json that belongs to "
                f"the database at {cluster_folder()}"
            ) from error
        raise


def ensure_database(*, may_create: bool = False) -> None:
    """Ensure that the application's account owns its database only; tests may create their own.

    While tests run beside it no other command takes that right from them.
    """
    database = load_config()["database"]
    name, user = database["name"], database["user"]
    if "admin" not in database:
        _demote(user)
        database = load_config()["database"]
    with connect(admin=True) as connection:
        role = sql.Identifier(user)
        if connection.execute("select 1 from pg_roles where rolname = %s", (user,)).fetchone() is None:
            connection.execute(sql.SQL("create role {} login").format(role))
        tests_run = connection.execute("select 1 from pg_database where datname like 'test\\_%'").fetchone()
        rights = sql.SQL("createdb" if may_create or tests_run else "nocreatedb")
        connection.execute(
            sql.SQL("alter role {} nosuperuser nocreaterole {} password {}").format(
                role, rights, sql.Literal(database["password"])
            )
        )
        for setting, seconds in (
            ("statement_timeout", STATEMENT_S),
            ("lock_timeout", LOCK_S),
            ("idle_in_transaction_session_timeout", IDLE_S),
        ):
            connection.execute(
                sql.SQL("alter role {} set {} = {}").format(
                    role, sql.Identifier(setting), sql.Literal(f"{seconds}s")
                )
            )
        there = connection.execute("select 1 from pg_database where datname = %s", (name,)).fetchone()
        if there is None:
            connection.execute(sql.SQL("create database {} owner {}").format(sql.Identifier(name), role))
    finish_restore()


def finish_restore() -> None:
    """Take over the configuration that a restored database brought, where that has not been done yet.

    It stands in the database until `config.json` is written, so that a restore that was cut short is finished by
    the next command.
    """
    with connect(admin=True, dbname=load_config()["database"]["name"]) as connection:
        there = connection.execute("select to_regclass(%s)", (f"{PENDING}.config",)).fetchone()
        if there is None or there[0] is None:
            return
        row = connection.execute(f"select content from {PENDING}.config").fetchone()  # noqa: S608 - a constant
        assert row is not None
        mine = load_config()
        save_config({**json.loads(row[0]), **{key: mine[key] for key in OF_THE_MACHINE if key in mine}})
        connection.execute(f"drop schema {PENDING} cascade")


def _demote(user: str) -> None:
    """Make the cluster's owner beside the one account of an earlier release."""
    admin = _admin()
    with connect() as connection:
        connection.execute(
            sql.SQL("create role {} superuser login password {}").format(
                sql.Identifier(admin["user"]), sql.Literal(admin["password"])
            )
        )


# the keeper

_keepers: dict[
    Path, subprocess.Popen[bytes]
] = {}  # by state folder the one that this process started, to be reaped


def _lock(name: str) -> Any:
    return (state_folder() / f"{name}.lock").open("a+")


def is_kept() -> bool:
    """Return whether a keeper runs."""
    with _lock("keeper") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        return False


def keep(*, alone: bool = False) -> None:
    """Start the keeper where none runs and wait for the database. Raises SetupError.

    `alone` says that nobody else uses the cluster.
    """
    ensure_keeper(alone=alone)
    _wait_until_up(cluster_folder())


def ensure_keeper(*, alone: bool = False) -> None:
    """Start the keeper where none runs; an earlier database is waited for. Raises SetupError.

    The port belongs to the cluster for as long as anyone uses it: server processes read it once, when they start.
    Another port is taken only where the caller is `alone` and a foreign program listens on the old one.
    """
    folder = cluster_folder()
    if not (folder / "PG_VERSION").exists():
        create(folder)
    if not cluster_mark().exists():
        cluster_mark().write_text(f"{folder}\n")
    starting = not _reaped()  # one that this process started is not ended: it holds the lock, or soon will
    if starting or is_kept():
        return
    _end_orphan(folder)
    if is_kept():
        return
    config = load_config()
    port = config["database"]["port"]
    if not _becomes_free(port):
        if not alone:
            raise SetupError(f"port {port}, where this database listens, is taken by another program")
        config["database"]["port"] = free_port()
        save_config(config)
    configure(folder)
    environment = {**os.environ, "PYTHONPATH": str(PROJECT / "src"), "UNKETT_STATE": str(state_folder())}
    _keepers[state_folder()] = subprocess.Popen(
        [sys.executable, "-m", "unkett.local.keeper"],
        env=environment, cwd="/", stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True,
    )  # fmt: skip


def _end_orphan(folder: Path) -> None:
    """Wait for a database whose keeper was killed: the kernel tells it to stop, and it is made to after a while."""
    begin = time.monotonic()
    while (
        pid := _server_pid(folder)
    ) is not None and not is_kept():  # kept: it is no orphan, its keeper just began
        waited = time.monotonic() - begin
        if waited > ORPHAN_GIVEN_UP_S:
            raise SetupError(f"the database that ran before, process {pid}, does not end")
        if waited > ORPHAN_STOPS_WITHIN_S:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGQUIT)  # at once; it recovers at the next start
        time.sleep(0.05)


def _server_pid(folder: Path) -> int | None:
    """Return the process that serves this folder, None where none does."""
    try:
        pid = int((folder / "postmaster.pid").read_text().split("\n", 1)[0])
        command = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace").split("\0")
    except (OSError, ValueError):
        return None
    return pid if str(folder) in command else None  # the number may be another program's by now


def _becomes_free(port: int) -> bool:
    until = time.monotonic() + PORT_FREE_WITHIN_S
    while not port_is_free(port):
        if time.monotonic() > until:
            return False
        time.sleep(0.05)
    return True


def _wait_until_up(folder: Path) -> None:
    database = load_config()["database"]
    until = time.monotonic() + UP_WITHIN_S
    asked = [f"--host={HOST}", f"--port={database['port']}", "--timeout=2"]
    while _run("pg_isready", *asked, check=False).returncode != 0:
        if time.monotonic() > until:
            said = folder / "start.log"
            last = said.read_text().strip().splitlines()[-3:] if said.exists() else []
            raise SetupError("\n".join([f"the database did not start within {UP_WITHIN_S:g} s:", *last]))
        time.sleep(0.1)


def _wait_until_down(lock: Any) -> None:
    """Let go of the cluster and wait until its keeper has stopped the database and ended, or somebody else came.

    The keeper gets no message: it stops the database only while it holds the lock alone, so whoever comes meanwhile
    either finds it up for good or waits until it is down.
    """
    fcntl.flock(lock, fcntl.LOCK_UN)
    until = time.monotonic() + DOWN_WITHIN_S
    while (is_kept() or not _reaped()) and time.monotonic() < until:
        if others_hold(lock):
            return
        time.sleep(0.05)
    _keepers.pop(state_folder(), None)


def _reaped() -> bool:
    """Return whether no keeper that this process started is still there, and take note of one that has ended."""
    own = _keepers.get(state_folder())
    return own is None or own.poll() is not None


@contextmanager
def running_cluster(*, may_create: bool = False) -> Iterator[None]:
    """The cluster, up for as long as anyone uses it."""
    with _lock("cluster") as lock, _lock("setup") as setup:
        fcntl.flock(setup, fcntl.LOCK_EX)  # one at a time makes, starts or stops it
        alone = hold_shared(lock) or (not is_kept() and hold_shared(lock))
        try:
            keep(alone=alone)
            ensure_database(may_create=may_create)
            fcntl.flock(setup, fcntl.LOCK_UN)
            yield
        finally:
            fcntl.flock(setup, fcntl.LOCK_EX)
            _wait_until_down(lock)
