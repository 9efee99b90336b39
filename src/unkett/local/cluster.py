"""A private PostgreSQL cluster on loopback: made, started and stopped for this checkout only.

Whoever uses the cluster holds a shared lock; the last one to leave stops it, so that a test run
beside a running application does not pull the database from under it.
"""

from __future__ import annotations

import fcntl
import os
import pwd
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg

from unkett.local.state import (
    HOST,
    SetupError,
    cluster_folder,
    free_port,
    load_config,
    port_is_free,
    save_config,
    state_folder,
)

ROOT_ACCOUNT = "postgres"


def binaries() -> Path:
    """The folder of the newest PostgreSQL from Debian's packages. Raises SetupError."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[4]))
    if not found:
        raise SetupError("PostgreSQL is not installed: apt-get install postgresql")
    return found[-1].parent


def _account() -> dict[str, Any]:
    """How to run PostgreSQL's programs: as ourselves, or as root under its own account."""
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
        **_account(),
    )
    if check and done.returncode != 0:
        raise SetupError(f"{program} failed:\n{done.stdout.strip()}")
    return done


def _own(path: Path) -> None:
    account = _account()
    if account:
        os.chown(path, account["user"], account["group"])


def create(folder: Path, password: str) -> None:
    """Make the cluster whole or not at all: UTF-8, password login only, loopback only, no socket file."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    fresh = folder.with_suffix(".new")
    if fresh.exists():
        shutil.rmtree(fresh)  # an earlier set-up was cut short
    fresh.mkdir(mode=0o700)
    _own(fresh)
    with tempfile.NamedTemporaryFile("w", prefix="unkett-", dir="/tmp") as secret:
        secret.write(password)
        secret.flush()
        _own(Path(secret.name))
        _run(
            "initdb",
            f"--pgdata={fresh}",
            "--username=unkett",
            f"--pwfile={secret.name}",
            "--auth=scram-sha-256",
            "--encoding=UTF8",
            "--locale=C.UTF-8",
        )
    lines = (
        f"listen_addresses = '{HOST}'",
        "unix_socket_directories = ''",
        "max_connections = 60",
        "logging_collector = off",
        "jit = off  # short queries only",
    )
    with (fresh / "postgresql.conf").open("a") as conf:
        conf.write("\n".join(("", *lines, "")))
    fresh.rename(folder)


def _running(folder: Path) -> bool:
    return _run("pg_ctl", "status", f"--pgdata={folder}", check=False).returncode == 0


def start() -> None:
    """Start the cluster if it does not run, on its remembered port or a fresh one if that is taken."""
    config = load_config()
    folder = cluster_folder()
    if not (folder / "PG_VERSION").exists():
        create(folder, config["database"]["password"])
    if _running(folder):
        return
    if not port_is_free(config["database"]["port"]):
        config["database"]["port"] = free_port()
        save_config(config)
    options = f"-p {config['database']['port']}"
    _run(
        "pg_ctl",
        "start",
        "--wait",
        f"--pgdata={folder}",
        f"--log={folder / 'server.log'}",
        f"--options={options}",
    )


def stop() -> None:
    """Stop the cluster cleanly; nothing happens if it does not run."""
    folder = cluster_folder()
    if (folder / "PG_VERSION").exists() and _running(folder):
        _run("pg_ctl", "stop", "--wait", "--mode=fast", f"--pgdata={folder}")


def ensure_database() -> None:
    """Create the application's database on the first start."""
    database = load_config()["database"]
    with psycopg.connect(
        host=database["host"],
        port=database["port"],
        user=database["user"],
        password=database["password"],
        dbname="postgres",
        autocommit=True,
    ) as connection:
        name = database["name"]
        there = connection.execute("select 1 from pg_database where datname = %s", (name,)).fetchone()
        if there is None:
            connection.execute(f'create database "{name}"')


@contextmanager
def running_cluster() -> Iterator[None]:
    """The cluster, up for as long as anyone uses it."""
    with (
        (state_folder() / "cluster.lock").open("w") as lock,
        (state_folder() / "setup.lock").open("w") as setup,
    ):
        fcntl.flock(setup, fcntl.LOCK_EX)  # one at a time makes, starts or stops it
        fcntl.flock(lock, fcntl.LOCK_SH)
        try:
            start()
            ensure_database()
            fcntl.flock(setup, fcntl.LOCK_UN)
            yield
        finally:
            fcntl.flock(setup, fcntl.LOCK_EX)
            fcntl.flock(lock, fcntl.LOCK_UN)
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                pass  # somebody else still uses it
            else:
                stop()
