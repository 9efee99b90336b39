"""Fifty mechanics at once on a server of their own with 10,000 bikes: `./unkett bench load [SECONDS]`.

Each acts every five seconds: looks at a bike, plans a part, keeps a reading, searches a drawer. First one of them
alone, then all; printed are faults and the 95th percentile of both.
"""

from __future__ import annotations

import csv
import json
import os
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
USERS, SECONDS, ALONE_S = 50, 120, 40
FILL = """
import django; django.setup()
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.db import connection
from bench.__main__ import _many_bikes
from unkett.web.workshop.models import User
rona = User.objects.get(username="rona")
_many_bikes(rona)
connection.cursor().execute("analyze")
keys = []
for n in range(50):
    user = User.objects.create_user(f"load{n}", workshop=rona.workshop, role="mechanic")
    session = SessionStore()
    session[SESSION_KEY], session[BACKEND_SESSION_KEY] = str(user.pk), "unkett.web.workshop.signed_in.WithWorkshop"
    session[HASH_SESSION_KEY] = user.get_session_auth_hash()
    session.create()
    keys.append(session.session_key)
print(" ".join(keys))
"""


def _run(base: str, users: int, seconds: int, folder: Path) -> dict[str, Any]:
    """One run of the load tool; its own summary."""
    name = folder / f"load-{users}"
    command = [
        sys.executable, "-m", "locust", "-f", str(ROOT / "bench/load/mechanic.py"), "--headless", "--only-summary",
        "--reset-stats",
        f"--host={base}", f"-u{users}", f"-r{max(1, users // 10)}", f"-t{seconds}s", f"--csv={name}",
        "--loglevel=ERROR",
    ]  # fmt: skip
    subprocess.run(command, check=False, cwd=ROOT, stdout=subprocess.DEVNULL)  # noqa: S603
    with Path(f"{name}_stats.csv").open() as file:
        rows = {row["Name"]: row for row in csv.DictReader(file)}
    total = rows.pop("Aggregated")
    return {
        "users": users,
        "requests": int(total["Request Count"]),
        "faults": int(total["Failure Count"]),
        "p50_ms": int(total["50%"]),
        "p95_ms": int(total["95%"]),
        "by_action_p95_ms": {name: int(row["95%"]) for name, row in rows.items()},
    }


def main(args: list[str]) -> int:
    """Set a server up in a folder of its own, fill it, load it, print JSON."""
    seconds = int(args[0]) if args and args[0].isdecimal() else SECONDS
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory(prefix="unkett-load-") as folder:
        env = {
            **os.environ, "UNKETT_STATE": f"{folder}/state", "PORT": str(port), "PGOPTIONS": "",
            "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "DJANGO_SETTINGS_MODULE": "unkett.web.site.settings",
        }  # fmt: skip
        out = Path(folder, "out")
        with out.open("wb") as file:
            server = subprocess.Popen(
                [sys.executable, "-m", "unkett.local", "start"], cwd=ROOT, env=env, stdout=file, stderr=file
            )
        try:
            while "Ctrl-C stops it" not in out.read_text() and server.poll() is None:
                time.sleep(0.5)
            fill = {**env, "PGOPTIONS": "-c statement_timeout=0"}
            filled = subprocess.run(  # noqa: S603
                [sys.executable, "-c", FILL],
                cwd=ROOT,
                env=fill,
                check=True,
                stdout=subprocess.PIPE,
                text=True,
            )
            os.environ["UNKETT_LOAD_SESSIONS"] = filled.stdout.strip().splitlines()[-1]
            base = f"http://127.0.0.1:{port}"
            alone = _run(base, 1, ALONE_S, Path(folder))
            together = _run(base, USERS, seconds, Path(folder))
        finally:
            server.terminate()
            server.wait(60)
    ratio = round(together["p95_ms"] / max(1, alone["p95_ms"]), 2)
    print(
        json.dumps(
            {"format": "unkett.load/1", "alone": alone, "together": together, "p95_ratio": ratio}, indent=2
        )
    )
    return 0 if together["faults"] == 0 else 1
