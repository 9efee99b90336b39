"""start, test, lint, demo, bench and manage: what `./unkett` hands over to Python."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from types import FrameType

from unkett.local.cluster import running_cluster
from unkett.local.state import HOST, PROJECT, SetupError, load_config, port_is_free, state_folder

WORKERS = 2
THREADS = 4
UP_WITHIN_S = 60
DEVICES: tuple[tuple[str, ...], ...] = ((), ("supplier",))  # the bridge with its stand-ins, the supplier
LOOK_EVERY_S = 2.0  # how often the background process is looked after
BIN = PROJECT / ".venv" / "bin"


def _environment() -> dict[str, str]:
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "unkett.web.site.settings",
        "PYTHONPATH": str(PROJECT / "src"),
        "UNKETT_STATE": str(state_folder()),
    }


def _django(*commands: tuple[str, ...]) -> None:
    """Run management commands in this process."""
    os.environ.update(_environment())
    import django
    from django.core.management import call_command

    django.setup()
    for name, *args in commands:
        call_command(name, *args)
    sys.stdout.flush()  # what they said stands before what comes next


def _wait_until_up(server: subprocess.Popen[bytes], port: int) -> None:
    deadline = time.monotonic() + UP_WITHIN_S
    while time.monotonic() < deadline:
        if server.poll() is not None:
            raise SetupError(f"the server ended at once with exit code {server.returncode}")
        try:
            socket.create_connection((HOST, port), timeout=0.5).close()
            return
        except OSError:
            time.sleep(0.1)
    raise SetupError(f"the server did not answer within {UP_WITHIN_S} s")


class _Stop(Exception):  # noqa: N818 - a wish, not a fault
    pass


def _stop(_number: int, _frame: FrameType | None) -> None:
    raise _Stop


def start(args: list[str]) -> int:
    """Serve the application with its demo data until Ctrl-C; --stand-ins: with a supplier and instruments to try."""
    given = os.environ.get("PORT", "8000")
    if not given.isdecimal() or not 1 <= int(given) <= 65535:
        raise SetupError(f"PORT={given}: a number from 1 to 65535 is wanted")
    port = int(given)
    if not port_is_free(port):
        raise SetupError(f"port {port} is in use; PORT=8001 ./unkett start serves elsewhere")
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    try:
        with running_cluster():
            _serve(port, stand_ins="--stand-ins" in args)
    except _Stop:
        print("unkett: stopped", flush=True)
    return 0


def _serve(port: int, *, stand_ins: bool) -> None:
    print("unkett: setting up the database", flush=True)
    _django(
        ("migrate", "--verbosity=0"),
        ("renew_verdicts",),
        ("load_demo", "--once"),
        ("collectstatic", "--noinput", "--verbosity=0"),
    )
    command = [
        *(str(BIN / "gunicorn"), "unkett.web.site.wsgi:application", f"--bind={HOST}:{port}"),
        *(f"--workers={WORKERS}", f"--threads={THREADS}", "--log-level=warning", "--no-control-socket"),
    ]
    server = subprocess.Popen(command, env=_environment(), cwd=PROJECT, start_new_session=True)
    worker = _background()
    devices = [_device(*name) for name in DEVICES] if stand_ins else []
    try:
        _wait_until_up(server, port)
        password = load_config()["demo_password"]
        print(f"\n  Unkett is at  http://{HOST}:{port}/", flush=True)
        print(f"  owner         rona     {password}")
        print(f"  mechanic      eskil    {password}")
        print(f"  apprentice    tamsa    {password}")
        print(f"  front desk    ulva     {password}")
        print("  Ctrl-C stops it; the data stays.\n", flush=True)
        while (code := server.poll()) is None:
            if worker.poll() is not None:
                print("unkett: the background process ended; it is started again", flush=True)
                worker = _background()
            time.sleep(LOOK_EVERY_S)
        raise SetupError(f"the server ended with exit code {code}")
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # a second Ctrl-C must not cut the clean stop short
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        for process in (*devices, worker, server):
            _end(process)


def _background() -> subprocess.Popen[bytes]:
    """The one process that does long work."""
    command = [sys.executable, "-m", "django", "do_tasks"]
    return subprocess.Popen(command, env=_environment(), cwd=PROJECT, start_new_session=True)


def _device(*name: str) -> subprocess.Popen[bytes]:
    """A stand-in; the instruments take what is typed here."""
    return subprocess.Popen([sys.executable, "-m", "unkett.devices", *name], env=_environment(), cwd=PROJECT)


def _end(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.terminate()
        try:
            process.wait(timeout=20)
        except subprocess.TimeoutExpired:
            process.kill()


LINT = (
    ("ruff", "format", "--check", "--quiet", "."),
    ("ruff", "check", "--quiet", "."),
    ("mypy", "--no-error-summary"),
    ("lint-imports", "--no-cache"),
    ("djlint", "--lint", "--quiet", "src/unkett/web"),
)


def lint(_args: list[str]) -> int:
    """Format, lint, types, import rules, templates; every step runs, the first fault gives the code."""
    worst = 0
    for name, *args in LINT:
        print(f"unkett: {name}", flush=True)
        code = subprocess.run(
            [str(BIN / name), *args], env=_environment(), cwd=PROJECT, check=False
        ).returncode
        worst = worst or code
    return worst


def test(args: list[str]) -> int:
    """Lint, migrations check, then every test; pytest has the last word."""
    if not args and (code := lint([])):
        print("unkett: the checks above failed; the tests did not run", flush=True)
        return code
    with running_cluster():
        _django(("collectstatic", "--noinput", "--verbosity=0"))
        if not args:
            _django(("makemigrations", "--check", "--dry-run", "--verbosity=1"))
        command = [sys.executable, "-m", "pytest", *args]
        return subprocess.run(command, env=_environment(), cwd=PROJECT, check=False).returncode


def demo(_args: list[str]) -> int:
    """Load the demo data again from nothing: everything in the demo workshop is replaced."""
    with running_cluster():
        _django(("migrate", "--verbosity=0"), ("load_demo",))
    return 0


def bench(args: list[str]) -> int:
    """Measure; prints JSON."""
    with running_cluster():
        with contextlib.redirect_stdout(sys.stderr):
            _django(
                ("migrate", "--verbosity=0"),
                ("load_demo", "--once"),
                ("collectstatic", "--noinput", "--verbosity=0"),
            )
        command = [sys.executable, "-m", "bench", *args]
        env = {**_environment(), "PYTHONPATH": f"{PROJECT / 'src'}:{PROJECT}"}
        return subprocess.run(command, env=env, cwd=PROJECT, check=False).returncode


def manage(args: list[str]) -> int:
    """A Django management command with the cluster up."""
    with running_cluster():
        command = [sys.executable, "-m", "django", *args]
        return subprocess.run(command, env=_environment(), cwd=PROJECT, check=False).returncode


COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "start": start,
    "test": test,
    "lint": lint,
    "demo": demo,
    "bench": bench,
    "manage": manage,
}


FLAGS: dict[str, tuple[str, ...]] = {"start": ("--stand-ins",), "lint": (), "demo": ()}


def main(args: list[str]) -> int:
    name, *rest = args
    if rest and rest[0] in ("-h", "--help"):
        print(f"./unkett {name}: {COMMANDS[name].__doc__}")
        return 0
    unknown = [word for word in rest if name in FLAGS and word not in FLAGS[name]]
    if unknown:
        takes = ", ".join(FLAGS[name]) or "no arguments"
        print(f"unkett: {unknown[0]}: unknown; {name} takes {takes}", file=sys.stderr)
        return 2
    try:
        return COMMANDS[name](rest)
    except SetupError as error:
        print(f"unkett: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
