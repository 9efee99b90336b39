"""The project's own state folder: secrets made at set-up, the cluster's place and port.

`config.json` is what the web settings read. It is made once, with the access rights of its owner
only, and never committed.
"""

from __future__ import annotations

import json
import os
import secrets
import socket
from pathlib import Path
from typing import Any

PROJECT = Path(__file__).resolve().parents[3]
HOST = "127.0.0.1"


class SetupError(Exception):
    """Something on this machine stands in the way; the message says what to do."""


def state_folder() -> Path:
    """Where this checkout keeps its state: UNKETT_STATE, else `.state` beside the launcher."""
    folder = Path(os.environ.get("UNKETT_STATE") or PROJECT / ".state").resolve()
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def config_path() -> Path:
    return state_folder() / "config.json"


def free_port() -> int:
    """A port that nothing listens on at the moment."""
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        return int(probe.getsockname()[1])


def port_is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return False
    return True


def load_config() -> dict[str, Any]:
    """The configuration, made with fresh secrets on the first call."""
    path = config_path()
    if path.exists():
        return dict(json.loads(path.read_text()))
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


def save_config(config: dict[str, Any]) -> None:
    """Write the configuration whole or not at all, readable by its owner only."""
    path = config_path()
    fresh = path.with_suffix(".new")
    fresh.touch(mode=0o600)
    fresh.write_text(json.dumps(config, indent=2))
    fresh.replace(path)


def cluster_folder() -> Path:
    """Where the database cluster lies.

    PostgreSQL will not run as root, and the account it then runs under cannot always look into
    this checkout: as root the cluster lies under /var/lib/unkett, in a folder named at set-up, so
    that a fresh checkout at an old path never meets an old cluster.
    """
    if os.geteuid() != 0:
        return state_folder() / "cluster"
    return Path("/var/lib/unkett") / load_config()["cluster"]


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
