"""Backups that fail, and restores that are cut short: what is in place is old or new, whole, and nothing is lost."""

from __future__ import annotations

import datetime
import json
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator

import psycopg
import pytest
from psycopg import sql

from tests.local.installation import Installation, tables
from unkett.local import backup, cluster, nightly, state
from unkett.local.cluster import connect, running_cluster
from unkett.local.state import SetupError, load_config

A_WORKSHOP = (
    "create table workshop_workshop (id int primary key, name text, demo bool)",
    "insert into workshop_workshop values (1, 'Quay', false)",
    "create table bikes_bike (id int primary key, says text)",
    "insert into bikes_bike select n, md5(n::text) from generate_series(1, 50000) n",
)


@pytest.fixture(scope="module")
def saved(tmp_path_factory):
    """A backup of a workshop, what its tables hold, and its secret."""
    made = Installation(tmp_path_factory.mktemp("saved") / "state")
    path = made.folder.parent / "all.tar"
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("UNKETT_STATE", str(made.folder))
        with running_cluster():
            with connect(dbname="unkett") as connection:
                for line in A_WORKSHOP:
                    connection.execute(line)
            backup.back_up(path)
            held = tables(made)
    yield path, held, made.config["secret_key"]
    made.remove()


@pytest.fixture
def other(saved, tmp_path, monkeypatch) -> Iterator[Installation]:
    """Another machine that holds the same workshop under the same secret, with a mark that its data is older."""
    made = Installation(tmp_path / "other")
    monkeypatch.setenv("UNKETT_STATE", str(made.folder))
    with running_cluster():
        backup.restore(saved[0], replace=False)
        with made.database() as connection:
            connection.execute("update workshop_workshop set name = 'Older'")
    state.save_config({**load_config(), "secret_key": "older" * 10})
    yield made
    made.remove()


def in_place(here: Installation, saved) -> str:
    """Which state is in place, `old` or `new`; database and configuration belong together."""
    _, new, secret = saved
    with running_cluster(), here.database() as connection:
        names = [row[0] for row in connection.execute("select name from workshop_workshop")]
        error = (names, here.config["secret_key"])
        if error == (["Quay"], secret):
            assert tables(here) == new
            return "new"
        assert error == (["Older"], "older" * 10)
        assert tables(here).keys() == new.keys()
        return "old"


def test_a_restore_killed_at_any_moment_leaves_old_or_new_whole(saved, other) -> None:
    path = saved[0]
    command = [sys.executable, "-m", "unkett.local", "restore", str(path), "--replace"]
    seen = set()
    for moment in (0.6, 1.2, 1.8, 2.4, 600):  # while it starts, loads, has loaded; and one that is let run
        process = subprocess.Popen(
            command, env=other.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            process.wait(moment)
        except subprocess.TimeoutExpired:
            os.kill(process.pid, signal.SIGKILL)
            process.wait()
        seen.add(in_place(other, saved))
    assert "new" in seen
    with running_cluster():
        before = [name for name, what in backup.left_over().items() if what == backup.OLD]
        for name in before:  # what a killed restore left of the old data is all there
            with connect(admin=True, dbname=name) as connection:
                assert connection.execute("select name from workshop_workshop").fetchall() in (
                    [("Older",)],
                    [("Quay",)],
                )


def test_cut_short_after_the_renames_the_next_command_finishes_it(saved, other, monkeypatch, capsys) -> None:
    class CutShortError(Exception):
        pass

    def cut() -> None:
        raise CutShortError

    with running_cluster(), monkeypatch.context() as patch:
        patch.setattr(backup, "finish_restore", cut)
        with pytest.raises(CutShortError):
            backup.restore(saved[0], replace=True)
    assert load_config()["secret_key"] == "older" * 10  # the database is new already
    assert in_place(other, saved) == "new"  # and with the next command so is the configuration
    with running_cluster():
        (left,) = backup.left_over()
        backup.say_left_over()
        assert f"./unkett restore --remove={left}" in capsys.readouterr().out
        backup.restore(saved[0], replace=True)
        assert list(backup.left_over()) == [left]  # a second restore drops nothing of the first
        with connect(admin=True, dbname=left) as connection:
            assert connection.execute("select name from workshop_workshop").fetchall() == [("Older",)]
    done = other.run("restore", f"--remove={load_config()['database']['name']}")
    assert (done.returncode, "no database that a restore left" in done.stderr) == (1, True)
    assert other.run("restore", f"--remove={left}").returncode == 0
    with running_cluster():
        assert backup.left_over() == {}


def test_both_renames_happen_or_none(saved, other) -> None:
    name = load_config()["database"]["name"]
    with running_cluster(), connect(admin=True) as connection:
        with pytest.raises(psycopg.errors.InvalidCatalogName):
            backup._swap(connection, name, "never_made", f"{name}_before_x")
        rows = connection.execute("select datname from pg_database").fetchall()
    assert (name,) in rows
    assert (f"{name}_before_x",) not in rows


def test_a_backup_that_meets_a_lock_fails_and_says_so(other, tmp_path, monkeypatch) -> None:
    monkeypatch.setattr(backup, "LOCK_WAIT_S", 1)
    made = tmp_path / "night"
    made.mkdir()
    with running_cluster():
        with other.database() as holder:
            holder.autocommit = False
            holder.execute(sql.SQL("lock table workshop_workshop in access exclusive mode"))
            night = nightly.NightlyBackup(folder=made)
            night.back_up(made / "unkett-2026-01-01.tar")
            assert "lock" in state.backup_status()["failed"]
        night.back_up(made / "unkett-2026-01-01.tar")
    assert state.backup_status()["failed"] == ""
    assert [path.name for path in made.iterdir()] == ["unkett-2026-01-01.tar"]


def test_a_failed_nightly_backup_is_tried_again_and_reported(tmp_path, monkeypatch, capsys) -> None:
    from unkett.web.pages.health import backup_state

    monkeypatch.setenv("UNKETT_STATE", str(tmp_path / "state"))
    assert backup_state(state.backup_status()) is None  # none is made here
    outcomes = [
        SetupError("the disk\nis full"),
        psycopg.errors.LockNotAvailable("locked"),
        OSError("gone"),
        None,
    ]
    made, clock = [], [0.0]

    def make(path) -> None:
        made.append(path.name)
        outcome = outcomes.pop(0)
        if outcome is not None:
            raise outcome
        path.write_text("a backup")

    day = datetime.datetime(2026, 3, 1, 4, tzinfo=datetime.UTC)
    folder = tmp_path / "kept"
    folder.mkdir()
    night = nightly.NightlyBackup(folder=folder, make=make, now=lambda: day, clock=lambda: clock[0])
    for number in (1, 2, 3):
        for _ in range(3):  # not before its time
            night.look()
            night.running.join()
        assert len(made) == number
        error = backup_state(state.backup_status(), now=day)
        assert error == {"ok": False, "last_good_hours": None}
        clock[0] += nightly.TRY_AGAIN_S
    assert "the nightly backup failed: the disk is full" in capsys.readouterr().err
    night.look()
    night.running.join()
    assert backup_state(state.backup_status(), now=day) == {"ok": True, "last_good_hours": 0.0}
    later = day + datetime.timedelta(hours=31.5)
    assert backup_state(state.backup_status(), now=later)["last_good_hours"] == 31.5
    night.look()
    assert len(made) == 4  # one a night
    assert json.loads((tmp_path / "state" / "backups.json").read_text())["failed"] == ""


def test_a_port_taken_by_another_program_is_left_only_by_who_is_alone(tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("UNKETT_STATE", str(tmp_path / "state"))
    monkeypatch.setattr(cluster, "PORT_FREE_WITHIN_S", 0.2)
    port = load_config()["database"]["port"]
    assert port in state.PORTS  # where no outgoing connection can take it
    with socket.create_server((state.HOST, port)):
        with pytest.raises(SetupError, match=f"port {port}, where this database listens, is taken"):
            cluster.ensure_keeper()
        with running_cluster():
            assert load_config()["database"]["port"] != port


def test_a_sealed_backup_opens_with_its_key_and_no_other(other, tmp_path, capsys) -> None:
    """Its secret stands nowhere in the file; a drill compares it and changes nothing; a key is made once."""
    sealed, key = tmp_path / "sealed.tar", tmp_path / "key"
    assert backup.backup_command([str(sealed), f"--key={key}"]) == 0
    assert "keep it elsewhere" in capsys.readouterr().out
    assert key.stat().st_mode & 0o777 == 0o600
    content = sealed.read_bytes()
    assert content.startswith(b"age-encryption.org/v1")
    assert load_config()["secret_key"].encode() not in content
    made = key.read_text()
    assert backup.backup_command([str(tmp_path / "again.tar"), f"--key={key}"]) == 0
    assert key.read_text() == made
    with pytest.raises(SetupError, match="it is sealed"):
        backup.restore_command([str(sealed), "--replace"])
    backup.make_key(tmp_path / "strange")
    with pytest.raises(SetupError, match="does not open it"):
        backup.restore_command([str(sealed), f"--key={tmp_path / 'strange'}", "--replace"])
    (tmp_path / "none").write_text("not a key")
    with pytest.raises(SetupError, match="no key of a backup"):
        backup.restore_command([str(sealed), f"--key={tmp_path / 'none'}", "--drill"])
    damaged = tmp_path / "damaged.tar"
    damaged.write_bytes(content[:-100] + b"x" * 100)
    with pytest.raises(SetupError, match="or it is damaged"):
        backup.restore_command([str(damaged), f"--key={key}", "--drill"])
    with running_cluster():
        before = tables(other)
        with other.database() as connection:
            connection.execute("update workshop_workshop set name = 'Newer'")
    assert backup.restore_command([str(sealed), f"--key={key}", "--drill"]) == 0
    assert "nothing here was changed" in capsys.readouterr().out
    with running_cluster():
        assert tables(other) != before
    assert backup.restore_command([str(sealed), f"--key={key}", "--replace"]) == 0
    with running_cluster():
        assert tables(other) == before
