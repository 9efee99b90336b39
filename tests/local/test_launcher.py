"""The launcher's own words: help never starts anything, unknown words are refused."""

import subprocess

import pytest

from unkett.local import __main__ as local
from unkett.local.state import PROJECT

SUBCOMMANDS = ("start", "test", "lint", "demo", "bench", "check", "identify")


def launched(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [str(PROJECT / "unkett"), *words], capture_output=True, text=True, check=False, timeout=300
    )


@pytest.mark.parametrize("name", SUBCOMMANDS)
@pytest.mark.parametrize("flag", ["--help", "-h"])
def test_help_is_printed_and_nothing_starts(name, flag) -> None:
    done = launched(name, flag)
    assert done.returncode == 0
    assert f"./unkett {name}" in done.stdout


def test_unknown_words_are_refused() -> None:
    assert launched("dance").returncode == 2
    done = launched("start", "--port=1")
    assert done.returncode == 2
    assert "--port=1: unknown" in done.stderr


@pytest.mark.parametrize("name", sorted(local.COMMANDS))
def test_the_python_side_starts_nothing_for_help(name, monkeypatch, capsys) -> None:
    monkeypatch.setattr(local, "running_cluster", lambda: pytest.fail("a cluster was started"))
    assert local.main([name, "--help"]) == 0
    assert capsys.readouterr().out.startswith(f"./unkett {name}: ")
