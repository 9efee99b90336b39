"""The project's own state folder: secrets made at set-up, the cluster's place and port.

`config.json` is what the web settings read. It is made once, with the access rights of its owner
only, and never committed.
"""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import secrets
import signal
import socket
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

PROJECT = Path(__file__).resolve().parents[3]
HOST = "127.0.0.1"
PORTS = range(20_000, 30_000)


class SetupError(Exception):
    """Something on this machine stands in the way; the message says what to do."""


def state_folder() -> Path:
    """Return where this checkout keeps its state: UNKETT_STATE, else `.state` beside the launcher."""
    folder = Path(os.environ.get("UNKETT_STATE") or PROJECT / ".state").resolve()
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise SetupError(_unwritable(folder)) from error
    return folder


def _unwritable(folder: Path) -> str:
    return f"{folder} cannot be written: make it writable, or name another folder with UNKETT_STATE"


def need_writable_state() -> None:
    """Raises SetupError, in one sentence, where the state folder cannot be written."""
    folder = state_folder()
    try:
        with tempfile.TemporaryFile(dir=folder):
            pass
    except OSError as error:
        raise SetupError(_unwritable(folder)) from error


def config_path() -> Path:
    return state_folder() / "config.json"


def free_port() -> int:
    """Return a port that nothing listens on, below the range from which the kernel takes ports for connections.

    A port inside that range can be taken by any outgoing connection while the database is down for a moment.
    """
    for _ in range(1000):
        port = PORTS.start + secrets.randbelow(len(PORTS))
        if port_is_free(port):
            return port
    raise SetupError(f"no port from {PORTS.start} to {PORTS.stop - 1} is free")


def port_is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return False
    return True


WANTED = ("secret_key", "database", "allowed_hosts")


def load_config() -> dict[str, Any]:
    """The configuration, made with fresh secrets on the first call. Raises SetupError for one that cannot be used."""
    path = config_path()
    if path.exists():
        return _read_config(path)
    if cluster_mark().exists():
        raise SetupError(
            f"{path} is lost, but there is a database at {cluster_mark().read_text().strip()}: put the file back, or "
            f"restore a backup into a new folder (UNKETT_STATE)"
        )
    config = {
        "cluster": secrets.token_hex(6),
        "secret_key": secrets.token_urlsafe(50),
        "database": {
            "host": HOST,
            "port": free_port(),
            "name": "unkett",
            "user": "unkett",
            "password": secrets.token_urlsafe(24),
        },
        "demo_password": "-".join(secrets.choice(_WORDS) for _ in range(3))
        + f"-{secrets.randbelow(90) + 10}",
        "allowed_hosts": [HOST, "localhost"],
    }
    save_config(config)
    return config


def _read_config(path: Path) -> dict[str, Any]:
    try:
        config = json.loads(path.read_text())
    except PermissionError as error:
        raise SetupError(f"{path} cannot be read by this account") from error
    except ValueError as error:
        raise SetupError(f"{path} is damaged ({error}): put it back from a backup") from error
    if stat.S_IMODE(path.stat().st_mode) & 0o077:
        raise SetupError(f"{path} holds secrets and others may read it: chmod 600 {path}")
    lacking = [name for name in WANTED if not isinstance(config, dict) or name not in config]
    if lacking:
        raise SetupError(f"{path} is damaged: {', '.join(lacking)} is missing; put it back from a backup")
    return dict(config)


def cluster_mark() -> Path:
    """Return where it is written down that this state has a database, so that a lost configuration is noticed."""
    return state_folder() / "cluster-at"


def die_with_parent(number: int = signal.SIGTERM) -> Callable[[], None]:
    """Return what a child calls before it begins: the kernel signals it when its parent is gone, however it went."""
    libc = ctypes.CDLL(None, use_errno=True)

    def call() -> None:
        with contextlib.suppress(OSError, AttributeError):
            libc.prctl(1, int(number))  # PR_SET_PDEATHSIG

    return call


def save_config(config: dict[str, Any]) -> None:
    """Write the configuration whole or not at all, readable by its owner only."""
    write_whole(config_path(), config)


def write_whole(path: Path, content: dict[str, Any]) -> None:
    """Write JSON to a file of the state folder: whole or not at all, readable by the folder's owner only."""
    fresh = path.with_suffix(".new")
    fresh.touch(mode=0o600)
    fresh.write_text(json.dumps(content, indent=2))
    if os.geteuid() == 0:  # the server may run under an account of its own
        folder = path.parent.stat()
        os.chown(fresh, folder.st_uid, folder.st_gid)
    fresh.replace(path)


def backup_status_path() -> Path:
    """Return where it is written how the nightly backups go; no file where none is made."""
    return state_folder() / "backups.json"


def backup_status() -> dict[str, Any] | None:
    """Return what is known of the nightly backups: `last_good` (ISO time or None) and `failed` (reason or "").

    None where no nightly backup is made here.
    """
    try:
        return dict(json.loads(backup_status_path().read_text()))
    except (OSError, ValueError):
        return None


def cluster_folder() -> Path:
    """Return where the database cluster lies.

    PostgreSQL will not run as root, and the account it then runs under cannot always look into
    this checkout: as root the cluster lies under /var/lib/unkett, in a folder named at set-up, so
    that a fresh checkout at an old path never meets an old cluster.
    """
    if os.geteuid() != 0:
        return state_folder() / "cluster"
    return Path("/var/lib/unkett") / str(load_config()["cluster"])


_WORDS = [
    "anchor",
    "bollard",
    "buoy",
    "cable",
    "capstan",
    "cleat",
    "compass",
    "cove",
    "current",
    "dinghy",
    "ebb",
    "ferry",
    "float",
    "fog",
    "gale",
    "gull",
    "hawser",
    "harbour",
    "islet",
    "jetty",
    "kelp",
    "keel",
    "ketch",
    "lantern",
    "ledge",
    "lighthouse",
    "mast",
    "mooring",
    "oar",
    "pebble",
    "pier",
    "quay",
    "reef",
    "rope",
    "rudder",
    "sail",
    "sand",
    "shoal",
    "skiff",
    "slipway",
    "spar",
    "spray",
    "squall",
    "surf",
    "swell",
    "tide",
    "tiller",
    "wave",
    "wharf",
    "winch",
]
