"""The real thing under faults, on a second cluster of its own: killed, starved, backed up and restored."""

from __future__ import annotations

import json
import os
import resource
import signal
import socket
import subprocess
import sys
import threading
from pathlib import Path

import psycopg
import pytest

from tests.local.installation import (
    ENOUGH_S,
    PASSWORD,
    Browser,
    Installation,
    add,
    set_up,
    stored,
    tables,
    until,
    well,
    writers,
)  # fmt: skip
from unkett.local.backup import check
from unkett.local.cluster import account, running_cluster
from unkett.local.state import PROJECT, SetupError

WAITING = "select count(*) from pg_stat_activity where usename = 'unkett' and wait_event_type = 'Lock'"
HANG_UP = "select pg_terminate_backend(pid) from pg_stat_activity where usename = 'unkett'"


def limit_files(pid: int, size: int) -> None:
    """No file of PostgreSQL may grow beyond this: said under its own account, which needs no right for it."""
    says = f"import resource as r; r.prlimit({pid}, r.RLIMIT_FSIZE, ({size}, r.RLIM_INFINITY))"
    subprocess.run(["/usr/bin/python3", "-c", says], check=True, cwd="/", **account())


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    made = Installation(tmp_path_factory.mktemp("faults") / "state")
    made.start()
    yield made
    made.stop()
    made.remove()


@pytest.fixture(scope="module")
def owner(here) -> Browser:
    """Whoever set the workshop up."""
    return set_up(here)


def test_acknowledged_writes_survive_every_kill(here, owner) -> None:
    with writers(here, owner) as kept:
        for victim in (lambda: here.children("unkett.web.site.serve")[0], here.postmaster):
            number = len(kept)
            until(lambda number=number: len(kept) > number + 5)
            killed = victim()
            os.kill(killed, signal.SIGKILL)
            until(lambda killed=killed: not Path(f"/proc/{killed}").exists())
            until(lambda: well(here))
        number = len(kept)
        until(lambda: len(kept) > number + 5)
    assert len(kept) > 15
    assert set(kept) <= stored(here)
    assert "it is started again" in here.out.read_text()


def test_a_killed_keeper_comes_back_on_the_same_port(here, owner) -> None:
    """Server processes read the port once: with another one they would never find the database again."""
    port = here.config["database"]["port"]
    with writers(here, owner) as kept:
        for _ in range(3):
            number = len(kept)
            until(lambda number=number: len(kept) > number + 5)
            killed = here.children("unkett.local.keeper")[0]
            os.kill(killed, signal.SIGKILL)
            until(lambda killed=killed: killed not in here.children("unkett.local.keeper"))
            number = len(kept)
            until(lambda number=number: len(kept) > number + 5)
    assert here.config["database"]["port"] == port
    assert set(kept) <= stored(here)
    with here.database() as connection:
        connection.execute("delete from catalogue_countmove")
        connection.execute("delete from catalogue_stockitem")  # hundreds of rows make later pages slow


def test_a_dead_database_is_reported_plainly(here, owner) -> None:
    os.kill(here.postmaster(), signal.SIGKILL)
    answers = set()

    def error() -> bool:
        status, text = owner.ask("/")
        answers.add((status, "The database is away" in text))
        return status == 200

    until(error)
    assert answers <= {(200, False), (503, True)}
    log = [
        json.loads(line)
        for line in (here.folder / "log" / "unkett.log").read_text().splitlines()
        if line[:1] == "{"
    ]
    assert any(
        "trace" in line and "request" in line for line in log if line.get("says") == "The database is away"
    )


def test_a_full_disk_refuses_whole_and_comes_back(here, owner) -> None:
    limit = 24_000_000  # above a segment of the write-ahead log, below the table that is filled
    with here.database() as connection:
        workshop = connection.execute("select id from workshop_workshop limit 1").fetchone()[0]
        connection.execute(
            "insert into workshop_logentry (workshop_id, at, verb, about, about_id, about_name, after) "
            "select %s, now(), 'fill', 'nothing', 0, '', to_jsonb((select string_agg(md5(n::text || k::text), '') "
            "from generate_series(1, 4) k)) from generate_series(1, 110000) n",  # small rows fill their pages
            [workshop],
        )
        size = connection.execute("select pg_relation_size('workshop_logentry')").fetchone()[0]
        assert size > limit
        postmaster = here.postmaster()
        limit_files(postmaster, max(limit, size))
        connection.execute(HANG_UP)
        before = connection.execute("select count(*) from catalogue_stockitem").fetchone()[0]
    try:
        owner.ask("/bench/counted/")
        statuses = set()

        def full() -> bool:
            status, text = owner.ask(
                "/bench/counted/add/", {"sort": "spacer", "name": "x" * 100, "count": "1"}
            )
            statuses.add(status)
            return status == 507 and "There is no room left" in text

        until(full)
        with here.database() as connection:
            acknowledged = (
                connection.execute("select count(*) from catalogue_stockitem").fetchone()[0] - before
            )
            asked = (
                "select count(*) from catalogue_countmove m join catalogue_stockitem c on c.id = m.counted_id"
            )
            lines = connection.execute(f"{asked} where c.name = %s", ["x" * 100]).fetchone()[0]
        assert acknowledged == lines  # whole or not at all
        assert statuses <= {302, 503, 507}
        assert owner.ask("/bench/counted/")[0] == 200  # what is there can be read
    finally:
        limit_files(postmaster, resource.RLIM_INFINITY)
    with here.database() as connection:
        connection.execute(HANG_UP)
    until(lambda: add(owner, "room again"))


def test_the_applications_account_owns_its_database_and_no_more(here, owner) -> None:
    where = here.config["database"]
    with psycopg.connect(
        host=where["host"], port=where["port"], dbname=where["name"], user=where["user"], password=where["password"],
        autocommit=True,
    ) as connection:  # fmt: skip
        for forbidden in ("create role x", "create database x", "copy (select 1) to program 'true'",
                          "select pg_read_file('/etc/passwd')"):  # fmt: skip
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute(forbidden)
        assert connection.execute("show statement_timeout").fetchone() == ("20s",)
        assert connection.execute("show data_checksums").fetchone() == ("on",)


def test_slow_and_half_requests_hold_nobody_up(here, owner) -> None:
    held = []
    for n in range(60):
        one = socket.create_connection(("127.0.0.1", here.port))
        half = b"GET / HTTP/1.1\r\nHost: localhost\r\nX-Slow: " if n % 2 else (
            b"POST /sign-in/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000\r\n\r\nname="
        )  # fmt: skip
        one.sendall(half)
        held.append(one)
    assert owner.ask("/bench/counted/")[0] == 200  # more are held than there are threads, and all still open
    for one in held:
        one.setblocking(False)
        with pytest.raises(BlockingIOError):
            one.recv(1)
        one.close()
    with socket.create_connection(("127.0.0.1", here.port)) as large:
        large.sendall(b"POST /sign-in/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 50000000\r\n\r\nx")
        large.settimeout(ENOUGH_S)
        assert b" 413 " in large.recv(200)


def test_waiting_writers_stop_nobody_else(here, owner) -> None:
    """Eight who want the same row wait for its lock; who reads does not, and those who waited too long are reported."""
    add(owner, "wanted by all")
    with here.database() as holder:
        holder.autocommit = False
        row = holder.execute(
            "select id from catalogue_stockitem where name = 'wanted by all' for update"
        ).fetchone()[0]
        error: list[tuple[int, str]] = []

        def writer() -> None:
            mine = Browser(here)
            mine.opener, mine.token = owner.opener, owner.token
            error.append(mine.ask(f"/bench/counted/{row}/change/", {"number": "1", "why": "used"}))

        hands = [threading.Thread(target=writer) for _ in range(8)]
        for one in hands:
            one.start()
        with here.database() as watcher:
            until(lambda: watcher.execute(WAITING).fetchone()[0] == 8)
            for _ in range(8):
                assert owner.ask("/health/")[0] == 200
                assert owner.ask("/customers/")[0] == 200
        for one in hands:
            one.join()
        holder.rollback()  # the readers were answered before the lock was let go
    assert {status for status, _ in error} == {503}
    assert all("Too busy just now" in text for _, text in error)


def test_a_second_start_is_reported(here) -> None:
    done = here.run("start")
    assert done.returncode == 1
    assert "in use" in done.stderr
    here.env["PORT"] = "18999"
    try:
        done = here.run("start")
    finally:
        here.env["PORT"] = str(here.port)
    assert done.returncode == 1
    assert f"started from {here.folder} already, by process {here.process.pid}" in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_two_servers_on_one_database(here, owner) -> None:
    """A second application server beside the first sees and writes the same."""
    listens = socket.create_server(("127.0.0.1", 0))
    beside = subprocess.Popen(
        [sys.executable, "-m", "unkett.web.site.serve", str(listens.fileno())],
        env={**here.env, "DJANGO_SETTINGS_MODULE": "unkett.web.site.settings"}, pass_fds=[listens.fileno()],
        stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        other = Browser(here)
        other.opener, other.token = owner.opener, owner.token
        other.base = f"http://127.0.0.1:{listens.getsockname()[1]}"
        until(lambda: other.ask("/health/")[0] == 200)
        assert add(other, "from the other one")
        assert "from the other one" in owner.ask("/bench/counted/")[1]
    finally:
        beside.terminate()
        beside.wait(ENOUGH_S)
        listens.close()


def test_a_backup_of_what_is_served_is_restored_on_an_empty_machine(
    here, owner, tmp_path, monkeypatch
) -> None:
    path = tmp_path / "all.tar"
    before = tables(here)
    done = here.run("backup", str(path))
    assert done.returncode == 0, done.stderr
    assert path.stat().st_mode & 0o077 == 0
    refused = here.run("restore", str(path))
    assert refused.returncode == 1
    assert "stop it first" in refused.stderr
    empty = Installation(tmp_path / "empty")
    damaged = tmp_path / "damaged.tar"
    content = bytearray(path.read_bytes())
    content[len(content) // 2] ^= 0xFF
    damaged.write_bytes(content)
    for bad in (damaged, tmp_path / "none.tar", PROJECT / "README.md"):
        with pytest.raises(SetupError):
            check(bad)
    done = empty.run("restore", str(damaged))
    assert (done.returncode, len(done.stderr.strip().splitlines())) == (1, 1)
    done = empty.run("restore", str(path))
    assert done.returncode == 0, done.stderr
    assert empty.config["secret_key"] == here.config["secret_key"]
    again = empty.run("restore", str(path))
    assert again.returncode == 1
    assert "Quay" in again.stderr  # what is there is not replaced unless reported
    monkeypatch.setenv("UNKETT_STATE", str(empty.folder))
    with running_cluster():
        assert tables(empty) == before
    empty.start()
    try:
        browser = Browser(empty)
        browser.ask("/sign-in/")
        assert browser.ask("/sign-in/", {"username": "sigga", "password": PASSWORD})[0] == 302
    finally:
        empty.stop()
        empty.remove()


def test_a_killed_launcher_leaves_nothing_and_starts_again(here, owner) -> None:
    """The last of these tests: it ends the installation and brings it up again."""
    postmaster, left = here.postmaster(), here.children("unkett.web") + here.children("do_tasks")
    assert len(left) >= 3
    here.process.kill()
    here.process.wait()

    def gone() -> bool:
        return not any(Path(f"/proc/{pid}").exists() for pid in (postmaster, *left, *here.children("keeper")))

    until(gone)
    here.start()
    assert "Quay" in owner.ask("/")[1]
    config = here.folder / "config.json"
    here.stop()
    error = json.loads(config.read_text())
    error["database"]["admin"]["password"] = "another"
    config.write_text(json.dumps(error))
    done = here.run("start")
    assert done.returncode == 1
    assert "does not take the password" in done.stderr
