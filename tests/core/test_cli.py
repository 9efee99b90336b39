"""The command line as other programs call it: output, exit codes, nothing on standard output on bad input."""

import json
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
GOES = {"parts": {"chain": {"attrs": {"speeds": 9}}, "cassette": {"attrs": {"speeds": 9}}}}
NO_GO = {"parts": {"chain": {"attrs": {"speeds": 8}}, "cassette": {"attrs": {"speeds": 9}}}}


def run(*args: str, given: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [str(ROOT / "unkett"), *args], input=given, capture_output=True, text=True, check=False
    )


@pytest.mark.parametrize(("build", "code", "verdict"), [(GOES, 0, "goes"), (NO_GO, 1, "no_go")])
def test_check(build, code, verdict) -> None:
    done = run("check", "-", given=json.dumps(build))
    out = json.loads(done.stdout)
    assert done.returncode == code
    assert out["format"] == "unkett.check/1"
    assert out["verdict"] == verdict
    finding = out["findings"][0]
    assert set(finding) == {
        "rule", "verdict", "slots", "says", "because", "needs", "measure", "ways_out", "safety", "school", "source"
    }  # fmt: skip
    assert out["open_slots"]


def test_check_reads_a_file(tmp_path) -> None:
    path = tmp_path / "bike.json"
    path.write_text(json.dumps(GOES))
    assert run("check", str(path)).returncode == 0


WISH = {"build": {**GOES, "empty": []}, "wish": {}}
NONE = {
    "build": GOES,
    "wish": {"fit": [], "require": [{"slot": "chain", "attr": "speeds", "op": "==", "value": 12}]},
}


@pytest.mark.parametrize(("asked", "code", "ways"), [(WISH, 0, 1), (NONE, 1, 0)])
def test_plan(asked, code, ways) -> None:
    done = run("plan", "-", given=json.dumps(asked))
    out = json.loads(done.stdout)
    assert (done.returncode, out["format"], len(out["ways"])) == (code, "unkett.ways/1", ways)
    assert (out["stuck"] is None) is bool(ways)


BAD = [
    (("plan", "-"), '{"wish": {}}', "build: missing"),
    (("plan", "-"), '{"build": {"parts": {}}, "wish": {"keep": ["forks"]}}', "wish.keep[0]: 'forks' given"),
    (("check", "-"), "{", "not JSON: line 1"),
    (("check", "-"), '{"parts": {"casette": {}}}', "parts.casette: unknown"),
    (("check", "/nowhere/bike.json"), "", "/nowhere/bike.json: cannot be read"),
    (("check",), "", "usage:"),
    (("calc", "chain", "-"), "{}", "chain: unknown"),
    (("calc", "capacity", "-"), '{"chainrings": [40]}', "sprockets: missing"),
    (("calc", "capacity", "-"), '{"chainrings": [40], "sprockets": [NaN]}', "sprockets[0]: nan given"),
    (
        ("calc", "capacity", "-"),
        '{"chainrings": [40], "chainrings": [40]}',
        "chainrings: this key stands twice",
    ),
]


@pytest.mark.parametrize(("args", "given", "says"), BAD, ids=str)
def test_bad_input_is_exit_two_and_silent_on_output(args, given, says) -> None:
    done = run(*args, given=given)
    assert (done.returncode, done.stdout) == (2, "")
    assert says in done.stderr
    assert "Traceback" not in done.stderr


def test_calc_lists_helps_and_computes() -> None:
    names = run("calc", "--list").stdout.split()
    assert {"gears", "capacity", "chain_length", "index_error", "smallest_ring"} <= set(names)
    assert "chainstay_mm: a number from 0 to 3500 mm" in run("calc", "chain_length", "--help").stdout
    done = run("calc", "smallest_ring", "-", given='{"bcd_mm": 110}')
    assert json.loads(done.stdout)["teeth"] == 33


@pytest.mark.parametrize("command", ["check", "calc", "plan", "identify"])
def test_each_command_has_help_of_its_own(command) -> None:
    done = run(command, "--help")
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.startswith(f"usage: ./unkett {command} ")


def test_a_reader_that_closes_early_ends_it_quietly() -> None:
    with subprocess.Popen(
        [str(ROOT / "unkett"), "check", "-"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    ) as done:
        done.stdout.close()
        done.stdin.write(json.dumps(GOES).encode())
        done.stdin.close()
        assert b"Traceback" not in done.stderr.read()


def test_an_unknown_command_says_what_there_is() -> None:
    done = run("chekc")
    assert done.returncode == 2
    assert "usage: ./unkett start" in done.stderr
