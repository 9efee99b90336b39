"""start, test, lint, demo, backup, restore, bench and manage: what `./unkett` hands over to Python."""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
from collections.abc import Callable, Sequence

from unkett.local.backup import backup_command, restore_command
from unkett.local.cluster import running_cluster
from unkett.local.django_side import django, environment
from unkett.local.serving import start
from unkett.local.state import PROJECT, SetupError, need_writable_state

BIN = PROJECT / ".venv" / "bin"


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
            [str(BIN / name), *args], env=environment(), cwd=PROJECT, check=False
        ).returncode
        worst = worst or code
    return worst


# every file to one of the processes, the long ones first
SPREAD = ("-n", str(min(os.cpu_count() or 1, 4)), "--dist", "loadgroup", "--no-loadscope-reorder")


# what `--quick` runs: the core without its long properties
QUICK = ("tests/core", "-m", "not long")


def test(args: list[str]) -> int:
    """Lint, migrations check, then every test on every core; pytest has the last word. --quick: lint and the core,
    in a minute. With paths: those tests alone. Further options go to pytest.
    """
    quick, whole = "--quick" in args, all(word.startswith("-") for word in args)
    if whole and (code := lint([])):
        print("unkett: the checks above failed; the tests did not run", flush=True)
        return code
    if quick:
        return _pytest([*SPREAD, *QUICK, *(word for word in args if word != "--quick")])
    with running_cluster(may_create=True):
        django(("collectstatic", "--noinput", "--verbosity=0"))
        if whole:
            django(("makemigrations", "--check", "--dry-run", "--verbosity=1"))
        return _pytest([*SPREAD, *args] if whole else args)


def _pytest(args: Sequence[str]) -> int:
    command = [sys.executable, "-m", "pytest", *args]
    return subprocess.run(command, env=environment(), cwd=PROJECT, check=False).returncode


def demo(args: list[str]) -> int:
    """Load the demonstration again from nothing, nothing else; --anyway: also where somebody has worked in it."""
    with running_cluster():
        django(("migrate", "--verbosity=0"), ("load_demo", *args))
    return 0


def bench(args: list[str]) -> int:
    """Measure; prints JSON."""
    with running_cluster(may_create=True):
        with contextlib.redirect_stdout(sys.stderr):
            django(
                ("migrate", "--verbosity=0"),
                ("load_demo", "--once"),
                ("collectstatic", "--noinput", "--verbosity=0"),
            )
        command = [sys.executable, "-m", "bench", *args]
        env = {**environment(), "PYTHONPATH": f"{PROJECT / 'src'}:{PROJECT}"}
        return subprocess.run(command, env=env, cwd=PROJECT, check=False).returncode


def manage(args: list[str]) -> int:
    """Return a Django management command with the cluster up."""
    with running_cluster():
        command = [sys.executable, "-m", "django", *args]
        return subprocess.run(command, env=environment(), cwd=PROJECT, check=False).returncode


COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "start": start,
    "test": test,
    "lint": lint,
    "demo": demo,
    "backup": backup_command,
    "restore": restore_command,
    "bench": bench,
    "manage": manage,
}


FLAGS: dict[str, tuple[str, ...]] = {
    "start": ("--empty", "--stand-ins", "--nightly-backup", "--backup-key", "--reload"),
    "lint": (),
    "demo": ("--anyway",),
}


def main(args: list[str]) -> int:
    name, *rest = args
    if rest and rest[0] in ("-h", "--help"):
        print(f"./unkett {name}: {COMMANDS[name].__doc__}")
        return 0
    unknown = [word for word in rest if name in FLAGS and word.partition("=")[0] not in FLAGS[name]]
    if unknown:
        takes = ", ".join(FLAGS[name]) or "no arguments"
        print(f"unkett: {unknown[0]}: unknown; {name} takes {takes}", file=sys.stderr)
        return 2
    try:
        if name != "lint":
            need_writable_state()
        return COMMANDS[name](rest)
    except SetupError as error:
        print(f"unkett: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
