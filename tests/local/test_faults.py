"""The real thing under faults, on a second cluster of its own: killed, starved, backed up and restored."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import resource
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

import psycopg
import pytest
from psycopg import sql

from unkett.local.cluster import account, running_cluster
from unkett.local.state import PROJECT

PASSWORD = "a phrase for the quay"
ENOUGH_S = 90
EVERY_ROW = sql.SQL("select t::text from {} t order by 1")


class Installation:
    """`start` on a state folder of its own, and a browser of sorts."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.env = {
            **os.environ, "UNKETT_STATE": str(folder), "PORT": str(self.port), "PYTHONPATH": str(PROJECT / "src"),
        }  # fmt: skip
        self.out = folder.parent / f"{folder.name}.out"
        self.process: subprocess.Popen[bytes] | None = None

    def run(self, *args: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "unkett.local", *args]
        return subprocess.run(
            command, env=self.env, capture_output=True, text=True, check=False, timeout=ENOUGH_S
        )

    def start(self) -> None:
        with self.out.open("wb") as out:
            command = [sys.executable, "-m", "unkett.local", "start", "--empty"]
            self.process = subprocess.Popen(command, env=self.env, stdout=out, stderr=out)
        until(lambda: "Ctrl-C stops it" in self.out.read_text() or self.process.poll() is not None)
        assert self.process.poll() is None, self.out.read_text()

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(60)

    @property
    def config(self) -> dict:
        return json.loads((self.folder / "config.json").read_text())

    def database(self) -> psycopg.Connection:
        where = self.config["database"]
        return psycopg.connect(
            host=where["host"], port=where["port"], dbname=where["name"], autocommit=True, **where["admin"]
        )

    def children(self, words: str) -> list[int]:
        """The processes under this installation's launcher whose command holds these words."""
        found = []
        for entry in Path("/proc").iterdir():
            with contextlib.suppress(OSError, ValueError):
                command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                held = (entry / "environ").read_bytes().decode(errors="replace")
                if words in command and f"UNKETT_STATE={self.folder}\0" in held:
                    found.append(int(entry.name))
        return found

    def postmaster(self) -> int:
        with self.database() as connection:
            folder = connection.execute("show data_directory").fetchone()[0]
        return int(Path(folder, "postmaster.pid").read_text().split()[0])


class Browser:
    """Keeps its cookies, sends forms as a browser does."""

    def __init__(self, here: Installation) -> None:
        self.base = f"http://127.0.0.1:{here.port}"
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()), _Stays)
        self.token = ""

    def ask(self, path: str, data: dict[str, str] | None = None) -> tuple[int, str]:
        body = (
            None
            if data is None
            else urllib.parse.urlencode({**data, "csrfmiddlewaretoken": self.token}).encode()
        )
        request = urllib.request.Request(  # noqa: S310 - our own address
            self.base + path, body, {"Referer": self.base + path}
        )
        try:
            with self.opener.open(request, timeout=30) as answer:
                status, text = answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            status, text = error.code, error.read().decode()
        found = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', text)
        self.token = found[1] if found else self.token
        return status, text


class _Stays(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_: object) -> None:
        """A form's answer is looked at, not followed."""


HANG_UP = "select pg_terminate_backend(pid) from pg_stat_activity where usename = 'unkett'"


def limit_files(pid: int, size: int) -> None:
    """No file of PostgreSQL may grow beyond this: said under its own account, which needs no right for it."""
    says = f"import resource as r; r.prlimit({pid}, r.RLIMIT_FSIZE, ({size}, r.RLIM_INFINITY))"
    subprocess.run(["/usr/bin/python3", "-c", says], check=True, cwd="/", **account())


def until(holds, seconds: float = ENOUGH_S) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        with contextlib.suppress(OSError, urllib.error.URLError, psycopg.Error):
            if holds():
                return
        time.sleep(0.1)
    raise AssertionError("it did not come about")


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    made = Installation(tmp_path_factory.mktemp("faults") / "state")
    made.start()
    yield made
    made.stop()


@pytest.fixture(scope="module")
def owner(here) -> Browser:
    """Whoever set the workshop up, by the code that was printed."""
    code = re.search(r"with the code\s+(\S+)", here.out.read_text())[1]
    browser = Browser(here)
    assert browser.ask("/set-up/")[0] == 200
    typed = {
        "code": code,
        "workshop": "Quay",
        "first_name": "Sigga",
        "username": "sigga",
        "password": PASSWORD,
    }
    assert browser.ask("/set-up/", typed)[0] == 302
    assert "Quay" in browser.ask("/")[1]
    return browser


def add(browser: Browser, name: str) -> bool:
    """Write a sort of small parts down; whether it was acknowledged."""
    with contextlib.suppress(OSError, urllib.error.URLError):
        return browser.ask("/bench/counted/add/", {"sort": "spacer", "name": name, "count": "1"})[0] == 302
    return False


def well(here: Installation) -> bool:
    return Browser(here).ask("/health/")[0] == 200


def test_acknowledged_writes_survive_every_kill(here, owner) -> None:
    owner.ask("/bench/counted/")
    kept: list[str] = []
    ends = threading.Event()

    def hand(n: int) -> None:
        mine = Browser(here)
        mine.opener, mine.token = owner.opener, owner.token
        for k in range(10_000):
            if ends.is_set():
                return
            if add(mine, f"{n}-{k}"):
                kept.append(f"{n}-{k}")

    hands = [threading.Thread(target=hand, args=[n]) for n in range(4)]
    for one in hands:
        one.start()
    for victim in (lambda: here.children("unkett.web.site.serve")[0], here.postmaster):
        number = len(kept)
        until(lambda number=number: len(kept) > number + 5)
        os.kill(victim(), signal.SIGKILL)
        time.sleep(0.5)
        until(lambda: well(here))
    number = len(kept)
    until(lambda: len(kept) > number + 5)
    ends.set()
    for one in hands:
        one.join()
    with here.database() as connection:
        stored = {row[0] for row in connection.execute("select name from catalogue_counted")}
    assert len(kept) > 15
    assert set(kept) <= stored
    assert "it is started again" in here.out.read_text()


def test_a_dead_database_is_told_plainly(here, owner) -> None:
    os.kill(here.postmaster(), signal.SIGKILL)
    answers = set()

    def told() -> bool:
        status, text = owner.ask("/")
        answers.add((status, "The database is away" in text))
        return status == 200

    until(told)
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
            "insert into workshop_logline (workshop_id, at, verb, about, about_id, about_name, after) "
            "select %s, now(), 'fill', 'nothing', 0, '', to_jsonb((select string_agg(md5(n::text || k::text), '') "
            "from generate_series(1, 4) k)) from generate_series(1, 110000) n",  # small rows fill their pages
            [workshop],
        )
        size = connection.execute("select pg_relation_size('workshop_logline')").fetchone()[0]
        assert size > limit
        postmaster = here.postmaster()
        limit_files(postmaster, max(limit, size))
        connection.execute(HANG_UP)
        before = connection.execute("select count(*) from catalogue_counted").fetchone()[0]
    try:
        owner.ask("/bench/counted/")
        statuses = set()

        def full() -> bool:
            status, text = owner.ask(
                "/bench/counted/add/", {"sort": "spacer", "name": "x" * 100, "count": "1"}
            )
            statuses.add(status)
            return status == 507 and "There is no room left" in text

        until(full, 60)
        with here.database() as connection:
            acknowledged = connection.execute("select count(*) from catalogue_counted").fetchone()[0] - before
            asked = (
                "select count(*) from catalogue_countmove m join catalogue_counted c on c.id = m.counted_id"
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
    begin = time.monotonic()
    assert owner.ask("/bench/counted/")[0] == 200
    waited = time.monotonic() - begin
    for one in held:
        one.close()
    assert waited < 10  # none of them took a thread; with one each the answer would wait for their end
    with socket.create_connection(("127.0.0.1", here.port)) as large:
        large.sendall(b"POST /sign-in/ HTTP/1.1\r\nHost: localhost\r\nContent-Length: 50000000\r\n\r\nx")
        large.settimeout(20)
        assert b" 413 " in large.recv(200)


def test_waiting_writers_stop_nobody_else(here, owner) -> None:
    """Eight who want the same row wait for its lock; who reads does not, and those who waited too long are told."""
    add(owner, "wanted by all")
    with here.database() as holder:
        holder.autocommit = False
        row = holder.execute(
            "select id from catalogue_counted where name = 'wanted by all' for update"
        ).fetchone()[0]
        told: list[tuple[int, str]] = []

        def writer() -> None:
            mine = Browser(here)
            mine.opener, mine.token = owner.opener, owner.token
            told.append(mine.ask(f"/bench/counted/{row}/change/", {"number": "1", "why": "used"}))

        hands = [threading.Thread(target=writer) for _ in range(8)]
        for one in hands:
            one.start()
        time.sleep(0.5)
        begin = time.monotonic()
        for _ in range(8):
            assert owner.ask("/health/")[0] == 200
            assert owner.ask("/customers/")[0] == 200
        read_in = time.monotonic() - begin
        for one in hands:
            one.join()
        holder.rollback()
    assert read_in < 5  # they all wait six seconds
    assert {status for status, _ in told} == {503}
    assert all("Too busy just now" in text for _, text in told)


def test_a_second_start_is_told(here) -> None:
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
        beside.wait(20)
        listens.close()


def tables(here: Installation) -> dict[str, str]:
    """Of every table what it holds, as a sum."""
    with here.database() as connection:
        names = [
            row[0]
            for row in connection.execute("select tablename from pg_tables where schemaname = 'public'")
        ]
        return {
            name: hashlib.sha256(
                repr(connection.execute(EVERY_ROW.format(sql.Identifier(name))).fetchall()).encode()
            ).hexdigest()
            for name in sorted(names)
        }


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
        done = empty.run("restore", str(bad))
        assert done.returncode == 1
        assert len(done.stderr.strip().splitlines()) == 1
    done = empty.run("restore", str(path))
    assert done.returncode == 0, done.stderr
    assert empty.config["secret_key"] == here.config["secret_key"]
    again = empty.run("restore", str(path))
    assert again.returncode == 1
    assert "Quay" in again.stderr  # what is there is not replaced unless told
    assert empty.run("restore", str(path), "--replace").returncode == 0
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
    told = json.loads(config.read_text())
    told["database"]["admin"]["password"] = "another"
    config.write_text(json.dumps(told))
    done = here.run("start")
    assert done.returncode == 1
    assert "does not take the password" in done.stderr
