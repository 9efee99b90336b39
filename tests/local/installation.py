"""A real installation in a folder of its own, and a browser of sorts, for what kills, fills and restores it."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import shutil
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from http.cookiejar import CookieJar
from pathlib import Path

import psycopg
from psycopg import sql

from unkett.local.state import PROJECT

PASSWORD = "a phrase for the quay"
ENOUGH_S = 300  # how long anything may take here before it counts as never
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
            self.process.wait(ENOUGH_S)

    def remove(self) -> None:
        """Take away what lies outside the test's folder: as root the cluster does."""
        if os.geteuid() == 0 and (self.folder / "cluster-at").exists():
            shutil.rmtree((self.folder / "cluster-at").read_text().strip(), ignore_errors=True)

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
            with self.opener.open(request, timeout=ENOUGH_S) as answer:
                status, text = answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            status, text = error.code, error.read().decode()
        found = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', text)
        self.token = found[1] if found else self.token
        return status, text


class _Stays(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_: object) -> None:
        """A form's answer is looked at, not followed."""


def until(holds, seconds: float = ENOUGH_S) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        with contextlib.suppress(OSError, urllib.error.URLError, psycopg.Error):
            if holds():
                return
        time.sleep(0.1)
    raise AssertionError("it did not come about")


def add(browser: Browser, name: str) -> bool:
    """Write a sort of small parts down; whether it was acknowledged."""
    with contextlib.suppress(OSError, urllib.error.URLError):
        return browser.ask("/bench/counted/add/", {"sort": "spacer", "name": name, "count": "1"})[0] == 302
    return False


def well(here: Installation) -> bool:
    return Browser(here).ask("/health/")[0] == 200


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


def set_up(here: Installation) -> Browser:
    """Set a workshop up by the code that was printed; return its owner's browser."""
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


@contextlib.contextmanager
def writers(here: Installation, owner: Browser) -> Iterator[list[str]]:
    """Four hands that write all the time; yields the names of what was acknowledged."""
    owner.ask("/bench/counted/")
    kept: list[str] = []
    ends = threading.Event()

    def hand(n: int) -> None:
        mine = Browser(here)
        mine.opener, mine.token = owner.opener, owner.token
        for k in range(100_000):
            if ends.is_set():
                return
            name = f"{len(kept)}-{n}-{k}"
            if add(mine, name):
                kept.append(name)

    hands = [threading.Thread(target=hand, args=[n]) for n in range(4)]
    for one in hands:
        one.start()
    try:
        yield kept
    finally:
        ends.set()
        for one in hands:
            one.join()


def stored(here: Installation) -> set[str]:
    """The names of the small parts that are in the database."""
    with here.database() as connection:
        return {row[0] for row in connection.execute("select name from catalogue_stockitem")}
