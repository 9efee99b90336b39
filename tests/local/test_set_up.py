"""The launcher's first set-up: one at a time, quiet, and mended by the next command wherever it was cut short."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
from pathlib import Path

import pytest

from tests.local.installation import ENOUGH_S, until
from unkett.local.state import PROJECT

# Stands for python3 and for the environment's own Python: writes down what it is asked, fails or waits where reported.
PYTHON = """#!/bin/sh
echo "$*" >> "{log}"
case "$*" in
  *"-m venv "*)
    for last; do :; done
    mkdir -p "$last/bin"
    if [ -e "{wait}-venv" ]; then touch "{wait}-reached"; sleep 600; fi
    cp "{python}" "$last/bin/python"
    ;;
  *"-m pip "*)
    echo "pip talks a lot"
    if [ -e "{wait}-pip" ]; then touch "{wait}-reached"; sleep 600; fi
    if [ -e "{wait}-fails" ]; then exit 1; fi
    touch "$(dirname "$0")/installed"
    ;;
  *"-m unkett"*)
    if [ -e "$(dirname "$0")/installed" ]; then echo "it runs"; else echo "no packages"; exit 1; fi
    ;;
esac
"""


def _hears_ctrl_c() -> None:
    """Tests that run in the background ignore Ctrl-C, and their children would too."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


class Clone:
    """A fresh clone's launcher, with stand-ins for Python."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.wait = folder / "wait"
        self.log = folder / "asked"
        (folder / "bin").mkdir(parents=True)
        shutil.copy(PROJECT / "unkett", folder)
        shutil.copytree(PROJECT / "requirements", folder / "requirements")
        python = folder / "bin" / "python3"
        python.write_text(PYTHON.format(log=self.log, wait=self.wait, python=python))
        python.chmod(0o755)
        self.env = {**os.environ, "PATH": f"{folder / 'bin'}:{os.environ['PATH']}"}
        self.env.pop("UNKETT_STATE", None)

    def begin(self, **env: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [str(self.folder / "unkett"), "check", "-"], env={**self.env, **env}, text=True,
            stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.PIPE, start_new_session=True,
            preexec_fn=_hears_ctrl_c,
        )  # fmt: skip

    def run(self, **env: str) -> tuple[int, str, str]:
        process = self.begin(**env)
        out, err = process.communicate(timeout=ENOUGH_S)
        return process.returncode, out, err

    def asked(self, words: str) -> int:
        return self.log.read_text().count(words) if self.log.exists() else 0

    def flag(self, name: str) -> Path:
        return Path(f"{self.wait}-{name}")


@pytest.fixture
def clone(tmp_path) -> Clone:
    return Clone(tmp_path / "clone")


def test_set_up_is_one_sentence_and_a_log_file(clone) -> None:
    code, out, err = clone.run()
    assert (code, out) == (0, "it runs\n")
    (sentence,) = err.splitlines()
    assert sentence.startswith("unkett: installing Python packages")
    assert "pip talks a lot" in (clone.folder / ".state" / "set-up.log").read_text()
    assert clone.run() == (0, "it runs\n", "")
    assert clone.asked("-m pip") == 1


@pytest.mark.parametrize("moment", ["venv", "pip"])
@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGKILL])
def test_cut_short_anywhere_it_heals(clone, moment, number) -> None:
    clone.flag(moment).touch()
    process = clone.begin()
    until(lambda: clone.flag("reached").exists())
    os.killpg(process.pid, number)
    process.communicate(timeout=ENOUGH_S)
    clone.flag(moment).unlink()
    code, out, err = clone.run()
    assert (code, out, len(err.splitlines())) == (0, "it runs\n", 1)


def test_two_commands_at_once_wait_for_each_other(clone) -> None:
    clone.flag("pip").touch()
    first = clone.begin()
    until(lambda: clone.flag("reached").exists())
    second = clone.begin()
    assert second.stderr is not None
    assert second.stderr.readline() == "unkett: another command is setting Unkett up; waiting for it\n"
    clone.flag("pip").unlink()
    os.killpg(first.pid, signal.SIGKILL)
    first.communicate()
    out, _ = second.communicate(timeout=ENOUGH_S)
    assert (second.returncode, out) == (0, "it runs\n")


def test_what_fails_is_one_sentence_and_is_tried_again(clone) -> None:
    clone.flag("fails").touch()
    code, _, err = clone.run()
    assert code == 1
    assert f"could not install the Python packages in requirements/base.txt. {clone.folder}/.state/" in err
    clone.flag("fails").unlink()
    assert clone.run()[:2] == (0, "it runs\n")


def test_a_state_folder_that_cannot_be_written_is_one_sentence(clone) -> None:
    nowhere = "/proc/unkett"
    code, _, err = clone.run(UNKETT_STATE=nowhere)
    assert (code, len(err.splitlines())) == (1, 1)
    assert f"{nowhere} cannot be written: make it writable, or name another folder" in err
    for there in (nowhere, "/proc/self"):  # the Python side, once set up: not there and not writable
        done = subprocess.run(
            [str(PROJECT / "unkett"), "demo"], env={**os.environ, "UNKETT_STATE": there}, capture_output=True,
            text=True, check=False, timeout=ENOUGH_S,
        )  # fmt: skip
        assert (done.returncode, len(done.stderr.splitlines())) == (1, 1), done.stderr
        assert "cannot be written" in done.stderr
