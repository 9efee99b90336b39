"""The launcher's state: secrets made once and kept to their owner, ports, and clear refusals."""

import fcntl
import json
import os
import socket
import stat
import subprocess
import sys
import threading
from contextlib import closing

import pytest

from unkett.local import cluster, state


@pytest.fixture
def fresh_state(monkeypatch, tmp_path):
    monkeypatch.setenv("UNKETT_STATE", str(tmp_path / "state"))
    return tmp_path / "state"


def test_secrets_are_made_once_and_kept_to_their_owner(fresh_state) -> None:
    first = state.load_config()
    assert state.load_config() == first
    assert len(first["secret_key"]) >= 50
    assert len(first["database"]["password"]) >= 24
    mode = stat.S_IMODE((fresh_state / "config.json").stat().st_mode)
    assert mode == 0o600
    assert stat.S_IMODE(fresh_state.stat().st_mode) == 0o700


def test_two_checkouts_share_no_secret_and_no_cluster(monkeypatch, tmp_path) -> None:
    configs = []
    for name in ("a", "b"):
        monkeypatch.setenv("UNKETT_STATE", str(tmp_path / name))
        configs.append((state.load_config(), state.cluster_folder()))
    (one, here), (other, there) = configs
    assert one["secret_key"] != other["secret_key"]
    assert one["database"]["password"] != other["database"]["password"]
    assert here != there


def test_a_changed_configuration_is_written_whole(fresh_state) -> None:
    config = state.load_config()
    config["database"]["port"] = 12345
    state.save_config(config)
    assert json.loads((fresh_state / "config.json").read_text())["database"]["port"] == 12345
    assert not list(fresh_state.glob("*.new"))


def test_ports() -> None:
    with closing(socket.socket()) as taken:
        taken.bind((state.HOST, 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not state.port_is_free(port)
    assert state.port_is_free(state.free_port())


@pytest.mark.parametrize("port", ["eighty", "0", "70000"])
def test_a_port_that_is_none_is_refused(port) -> None:
    done = start(PORT=port)
    assert done.returncode == 1
    assert f"PORT={port}: enter a number from 1 to 65535" in done.stderr


def test_a_port_in_use_is_reported() -> None:
    with closing(socket.socket()) as taken:
        taken.bind((state.HOST, 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        done = start(PORT=port)
    assert done.returncode == 1
    assert f"port {port} is in use" in done.stderr
    assert "Traceback" not in done.stderr


def start(**env: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "unkett.local", "start"]
    return subprocess.run(
        command, env={**os.environ, **env}, capture_output=True, text=True, check=False, timeout=300
    )


def keeper_may_stop() -> bool:
    """Whether the keeper, which looks with this very lock, would find that nobody uses the cluster."""
    with (state.state_folder() / "cluster.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return False
        return True


def test_the_keeper_may_stop_once_the_last_has_left(fresh_state, monkeypatch) -> None:
    """Real file locks, with the database's own start counted instead of done."""
    calls = []
    monkeypatch.setattr(cluster, "keep", lambda **_: calls.append("start"))
    monkeypatch.setattr(cluster, "ensure_database", lambda **_: None)
    inside, leave = threading.Event(), threading.Event()

    def other() -> None:
        with cluster.running_cluster():
            inside.set()
            leave.wait(300)

    thread = threading.Thread(target=other)
    thread.start()
    assert inside.wait(300)
    with cluster.running_cluster():
        pass
    assert not keeper_may_stop()  # the other one still uses it
    leave.set()
    thread.join(300)
    assert keeper_may_stop()
    assert calls == ["start", "start"]


def test_a_failed_set_up_lets_the_keeper_stop(fresh_state, monkeypatch) -> None:
    def broken(**_) -> None:
        raise state.SetupError("no database")

    monkeypatch.setattr(cluster, "keep", lambda **_: None)
    monkeypatch.setattr(cluster, "ensure_database", broken)
    with pytest.raises(state.SetupError), cluster.running_cluster():
        pass
    assert keeper_may_stop()


@pytest.mark.parametrize(
    ("content", "mode", "says"),
    [
        ("{", 0o600, "is damaged"),
        ("[]", 0o600, "is damaged"),
        ('{"secret_key": "x"}', 0o600, "database, allowed_hosts is missing"),
        ('{"secret_key": "x", "database": {}, "allowed_hosts": []}', 0o644, "chmod 600"),
    ],
)
def test_a_configuration_that_cannot_be_used_is_reported(fresh_state, content, mode, says) -> None:
    path = state.config_path()
    path.write_text(content)
    path.chmod(mode)
    with pytest.raises(state.SetupError, match=says):
        state.load_config()
    assert path.read_text() == content


def test_a_lost_configuration_is_not_made_anew_over_a_database(fresh_state) -> None:
    state.load_config()
    state.cluster_mark().write_text("/var/lib/somewhere\n")
    state.config_path().unlink()
    with pytest.raises(state.SetupError, match="is lost, but there is a database at /var/lib/somewhere"):
        state.load_config()
