"""`bench kills`: what heals after kills, and how fast: the database's keeper under writers, a restore at any moment."""

from __future__ import annotations

import json
import os
import random
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from tests.local.installation import Installation, set_up, stored, tables, until, writers

from unkett.local.cluster import running_cluster

KEEPER_KILLS, RESTORE_KILLS, SEED = 20, 10, 20261201


def keeper_kills(folder: Path) -> dict[str, Any]:
    """Seconds from each kill of the keeper to the next acknowledged write, and whether all of it is there."""
    here = Installation(folder / "keeper")
    here.start()
    try:
        owner = set_up(here)
        healed = []
        with writers(here, owner) as kept:
            for _ in range(KEEPER_KILLS):
                number = len(kept)
                until(lambda number=number: len(kept) > number + 5)
                victim = here.children("unkett.local.keeper")[0]
                begin = time.monotonic()
                os.kill(victim, signal.SIGKILL)
                until(lambda victim=victim: not Path(f"/proc/{victim}").exists())
                until(lambda: bool(here.children("unkett.local.keeper")))
                number = len(kept)
                until(lambda number=number: len(kept) > number)
                healed.append(time.monotonic() - begin)
        lost = len(set(kept) - stored(here))
    finally:
        here.stop()
        here.remove()
    return {
        "kills": len(healed),
        "healed_s_median": round(statistics.median(healed), 1),
        "healed_s_most": round(max(healed), 1),
        "writes_told": len(kept),
        "writes_lost": lost,
    }


def restore_kills(folder: Path) -> dict[str, Any]:
    """What is in place after restores killed at random moments: the old state or the new, whole, or neither."""
    draw = random.Random(SEED)  # noqa: S311 # moments, no secrets
    here, path = Installation(folder / "restore"), folder / "all.tar"
    here.start()
    set_up(here)
    here.stop()
    assert here.run("backup", str(path)).returncode == 0
    os.environ["UNKETT_STATE"] = str(here.folder)
    found = {"old": 0, "new": 0, "neither": 0}
    with running_cluster():
        new = tables(here)
    begin = time.monotonic()
    assert here.run("restore", str(path), "--replace").returncode == 0
    whole_s = time.monotonic() - begin
    try:
        for _ in range(RESTORE_KILLS):
            with running_cluster(), here.database() as connection:
                connection.execute("update workshop_workshop set name = 'Older'")
                old = tables(here)
            command = [sys.executable, "-m", "unkett.local", "restore", str(path), "--replace"]
            process = subprocess.Popen(  # noqa: S603
                command, env=here.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            time.sleep(draw.uniform(0.2, 1.0) * whole_s)
            process.kill()
            process.wait()
            with running_cluster():
                held = tables(here)
            found["old" if held == old else "new" if held == new else "neither"] += 1
    finally:
        here.remove()
    return {"kills": RESTORE_KILLS, **found}


def main() -> int:
    """Kill, measure and print as JSON."""
    with tempfile.TemporaryDirectory(prefix="unkett-kills-") as folder:
        words = {"keeper": keeper_kills(Path(folder)), "restore": restore_kills(Path(folder))}
    print(json.dumps({"format": "unkett.bench/1", **words}, indent=2))
    return 0
