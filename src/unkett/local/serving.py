"""What `start` does: sets up, serves with several processes and a background one, looks after all and ends all."""

from __future__ import annotations

import contextlib
import functools
import logging
import logging.handlers
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path
from types import FrameType
from typing import Any

import attrs

from unkett.local.backup import back_up, say_left_over
from unkett.local.cluster import ensure_keeper, running_cluster
from unkett.local.django_side import django, environment
from unkett.local.locks import only_start
from unkett.local.nightly import NightlyBackup
from unkett.local.state import (
    HOST,
    PROJECT,
    SetupError,
    backup_status_path,
    die_with_parent,
    load_config,
    port_is_free,
    save_config,
    state_folder,
)

PROCESSES = 4  # their threads together are more than will wait for one lock at once
UP_WITHIN_S = 60
LOOK_EVERY_S = 1.0
WAITS_S = (0.0, 1, 2, 4, 8, 15, 30)  # before a process that died is started again, longer each time
STEADY_S = 60.0
ENDS_WITHIN_S = 20
BRIDGE_PORT = 8731  # where the bridge of the instruments listens, as `unkett.devices` has it
DEVICES: tuple[tuple[str, ...], ...] = ((), ("supplier",))  # the bridge with its stand-ins, the supplier
OWN_ACCOUNT = "unkett"
DEVELOPING = "UNKETT_DEVELOPING"
LOG_BYTES, LOG_FILES = 5_000_000, 5
CODE_SIGNS = "abcdefghjkmnpqrstuvwxyz23456789"


class _Stop(Exception):  # noqa: N818 - a wish, not a fault
    pass


def _stop(_number: int, _frame: FrameType | None) -> None:
    raise _Stop


def start(args: list[str]) -> int:
    """Serve the application until Ctrl-C, with the demonstration unless --empty; --stand-ins: with a supplier and
    instruments to try; --nightly-backup=FOLDER: a backup each night, the last fourteen kept, sealed with
    --backup-key=FILE; --reload: for developing, one server that starts again when a file changes and shows errors in
    full, to this machine only.
    """
    given = os.environ.get("PORT", "8000")
    if not given.isdecimal() or not 1 <= int(given) <= 65535:
        raise SetupError(f"PORT={given}: enter a number from 1 to 65535")
    nightly = next((word.partition("=")[2] for word in args if word.startswith("--nightly-backup=")), "")
    backup_key = next((word.partition("=")[2] for word in args if word.startswith("--backup-key=")), "")
    if backup_key and not (nightly and Path(backup_key).is_file()):
        raise SetupError(f"--backup-key={backup_key}: enter a key file that exists, with --nightly-backup")
    if "--nightly-backup=" in args or (nightly and not Path(nightly).is_dir()):
        raise SetupError(f"--nightly-backup={nightly}: enter a folder that exists")
    port = int(given)
    if not port_is_free(port):
        raise SetupError(f"port {port} is in use; PORT=8001 ./unkett start serves elsewhere")
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    try:
        with only_start(), running_cluster():
            _serve(
                port,
                demo="--empty" not in args,
                stand_ins="--stand-ins" in args,
                nightly=nightly,
                backup_key=backup_key,
                reload="--reload" in args,
            )
    except _Stop:
        print("unkett: stopped", flush=True)
    return 0


def _nightly(folder: str, key: str) -> NightlyBackup:
    make = functools.partial(back_up, key=Path(key).resolve()) if key else back_up
    return NightlyBackup(folder=Path(folder).resolve(), make=make)


def _serve(port: int, *, demo: bool, stand_ins: bool, nightly: str, backup_key: str, reload: bool) -> None:
    print("unkett: setting up the database", flush=True)
    say_left_over()
    config = load_config()
    config["set_up_code"] = "-".join("".join(secrets.choice(CODE_SIGNS) for _ in range(4)) for _ in range(3))
    save_config(config)
    django(
        ("migrate", "--verbosity=0"),
        *((("load_demo", "--once", *(("--listen", str(BRIDGE_PORT)) if stand_ins else ())),) if demo else ()),
        ("collectstatic", "--noinput", "--verbosity=0"),
    )
    log = _log()
    who = {} if reload else _account()
    listens = None if reload else socket.create_server((HOST, port), backlog=512)
    children = _developing(port, log) if listens is None else _servers(listens, log, who)
    children.append(Child(name="background process", command=["-m", "django", "do_tasks"], log=log, who=who))
    if stand_ins:
        children += [
            Child(name="stand-in", command=["-m", "unkett.devices", *one], log=log, talks=True)
            for one in DEVICES
        ]
    try:
        for child in children:
            child.start()
        _wait_until_up(children[0], port)
        _say(port)
        night = _nightly(nightly, backup_key) if nightly else None
        if night is None:
            backup_status_path().unlink(missing_ok=True)
        printed = ""
        while True:
            for child in children:
                child.look()
            try:
                ensure_keeper()
                printed = ""
            except (SetupError, OSError) as error:
                if str(error) != printed:
                    printed = str(error)
                    print(f"unkett: {printed}", file=sys.stderr, flush=True)
            if night is not None:
                night.look()
            time.sleep(LOOK_EVERY_S)
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # a second Ctrl-C must not cut the clean stop short
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        if listens is not None:
            listens.close()
        for child in children:
            child.terminate()
        for child in children:
            child.end()


def _servers(listens: socket.socket, log: logging.Logger, who: dict[str, Any]) -> list[Child]:
    """Start several server processes on one socket."""
    command = ["-m", "unkett.web.site.serve", str(listens.fileno())]
    return [
        Child(name=f"server {n + 1}", command=command, log=log, fds=(listens.fileno(),), who=who)
        for n in range(PROCESSES)
    ]


def _developing(port: int, log: logging.Logger) -> list[Child]:
    """Run Django's development server on loopback: it restarts when a file changes and shows errors in full."""
    command = ["-m", "django", "runserver", f"{HOST}:{port}"]
    return [Child(name="server for developing", command=command, log=log, more={DEVELOPING: "1"})]


def _say(port: int) -> None:
    config, printed = load_config(), _who_is_here()
    print(f"\n  Unkett is at  http://{HOST}:{port}/", flush=True)
    for name, role in printed["demo"]:
        print(f"  {role:<13} {name:<8} {config['demo_password']}")
    if not printed["set_up"]:
        print(
            f"  Set up your own workshop at  http://{HOST}:{port}/set-up/  with the code  {config['set_up_code']}"
        )
    print("  Ctrl-C stops it; the data stays.\n", flush=True)


def _who_is_here() -> dict[str, Any]:
    """Return the demonstration's people, and whether a workshop was set up."""
    from unkett.web.workshop.models import User, Workshop

    people = User.objects.filter(workshop__demo=True, is_active=True).order_by("pk")
    return {
        "demo": [(one.username, one.get_role_display().lower()) for one in people],
        "set_up": Workshop.objects.filter(demo=False).exists(),
    }


def _wait_until_up(server: Child, port: int) -> None:
    deadline = time.monotonic() + UP_WITHIN_S
    while time.monotonic() < deadline:
        if server.code is not None:
            raise SetupError(f"the server ended at once with exit code {server.code}")
        with contextlib.suppress(OSError), socket.create_connection((HOST, port), timeout=2) as asks:
            asks.sendall(b"GET /health/ HTTP/1.0\r\nHost: localhost\r\n\r\n")
            asks.settimeout(5)
            if asks.recv(12):
                return
        time.sleep(0.1)
    raise SetupError(f"the server did not answer within {UP_WITHIN_S} s")


@attrs.define
class Child:
    """A process that is started again when it dies, later each time; it does not outlive the launcher."""

    name: str
    command: list[str]
    log: logging.Logger
    fds: tuple[int, ...] = ()
    who: dict[str, Any] = attrs.field(factory=dict)
    more: dict[str, str] = attrs.field(factory=dict)  # of its environment
    talks: bool = False  # takes what is typed here and answers there
    process: subprocess.Popen[bytes] | None = None
    died: int = 0
    since: float = 0.0
    again_at: float = 0.0

    @property
    def code(self) -> int | None:
        return None if self.process is None else self.process.poll()

    def start(self) -> None:
        own: dict[str, Any] = {} if self.talks else {
            "start_new_session": True, "stdin": subprocess.DEVNULL, "stderr": subprocess.PIPE,
        }  # fmt: skip
        self.process = subprocess.Popen(
            [sys.executable, *self.command], env={**environment(), **self.more}, cwd=PROJECT, pass_fds=self.fds,
            preexec_fn=die_with_parent(), **own, **self.who,
        )  # fmt: skip
        self.since = time.monotonic()
        if self.process.stderr is not None:
            threading.Thread(target=_pump, args=[self.process.stderr, self.log], daemon=True).start()

    def look(self) -> None:
        """Start it again where it ended."""
        now = time.monotonic()
        if self.process is not None and self.code is not None:
            self.died = 1 if now - self.since > STEADY_S else self.died + 1
            self.again_at = now + WAITS_S[min(self.died, len(WAITS_S)) - 1]
            self.log.warning(
                '{"level": "WARNING", "says": "the %s ended with %s; it is started again"}',
                self.name,
                self.code,
            )
            print(f"unkett: the {self.name} ended; it is started again", flush=True)
            self.process = None
        if self.process is None and now >= self.again_at:
            self.start()

    def terminate(self) -> None:
        if self.process is not None and self.code is None:
            if self.talks:
                self.process.terminate()
            else:
                os.killpg(
                    self.process.pid, signal.SIGTERM
                )  # it leads a group of its own, with what it started

    def end(self) -> None:
        if self.process is not None:
            try:
                self.process.wait(timeout=ENDS_WITHIN_S)
            except subprocess.TimeoutExpired:
                self.process.kill()


def _log() -> logging.Logger:
    """One file that only the launcher writes, so that it can be rotated: what every process says on standard error."""
    folder = state_folder() / "log"
    folder.mkdir(mode=0o700, exist_ok=True)
    log = logging.getLogger("unkett.launcher")
    log.propagate = False
    log.setLevel(logging.INFO)
    file = logging.handlers.RotatingFileHandler(
        folder / "unkett.log", maxBytes=LOG_BYTES, backupCount=LOG_FILES, encoding="utf-8"
    )
    file.setFormatter(logging.Formatter("%(message)s"))
    log.addHandler(file)
    return log


def _pump(pipe: Any, log: logging.Logger) -> None:
    for line in pipe:
        text = line.decode("utf-8", "replace").rstrip("\n")
        with contextlib.suppress(OSError, ValueError):  # a full disk must not end what is served
            log.info("%s", text)
        with contextlib.suppress(OSError, ValueError):
            print(text, file=sys.stderr, flush=True)


def _account() -> dict[str, Any]:
    """As root, the account that the server drops to, made where there is none; a message where it cannot be used."""
    if os.geteuid() != 0:
        return {}
    try:
        entry = pwd.getpwnam(OWN_ACCOUNT)
    except KeyError:
        useradd = shutil.which("useradd")
        made = useradd and subprocess.run(
            [useradd, "--system", "--no-create-home", "--shell", "/usr/sbin/nologin", OWN_ACCOUNT],
            capture_output=True, check=False,
        ).returncode == 0  # fmt: skip
        if not made:
            print(
                f"unkett: there is no account {OWN_ACCOUNT} and none can be made: serving as root", flush=True
            )
            return {}
        entry = pwd.getpwnam(OWN_ACCOUNT)
    who = {"user": entry.pw_uid, "group": entry.pw_gid, "extra_groups": []}
    if not _can_run(who):
        print(
            f"unkett: the account {OWN_ACCOUNT} cannot read {PROJECT} or Python: serving as root. Put Unkett "
            "where every account may read it, such as /opt/unkett, and it drops to that account",
            flush=True,
        )
        return {}
    for path in (state_folder(), *state_folder().rglob("*")):
        if path.name not in ("serve.lock", "cluster.lock", "keeper.lock", "setup.lock"):
            os.chown(path, entry.pw_uid, entry.pw_gid, follow_symlinks=False)
    return who


def _can_run(who: dict[str, Any]) -> bool:
    """Return whether an account can read Python, the packages and this project."""
    tries = [sys.executable, "-c", "import django, ortools, waitress, unkett.core.check.engine"]
    try:
        return not subprocess.run(
            tries, env=environment(), cwd="/", capture_output=True, check=False, **who
        ).returncode
    except OSError:
        return False
