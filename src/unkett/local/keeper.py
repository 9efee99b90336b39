"""`python -m unkett.local.keeper`: runs PostgreSQL for this state, again when it dies, until nobody uses it."""

from __future__ import annotations

import fcntl
import os
import signal
import subprocess
import sys
import time
from types import FrameType
from typing import IO

from unkett.local.cluster import account, binaries
from unkett.local.state import cluster_folder, die_with_parent, load_config, state_folder

LOOK_S = 0.2
TRIES_S = 0.3
WAITS_S = (0.5, 1, 2, 4, 8, 15, 30)  # before it is started again, longer each time it dies at once
STEADY_S = 60.0  # up so long, it begins with the shortest wait again
FAST = signal.SIGINT  # PostgreSQL's fast stop


class _Keeper:
    def __init__(self) -> None:
        self.ends = False
        self.server: subprocess.Popen[bytes] | None = None
        self.died = 0
        self.since = 0.0
        self.again_at = 0.0

    def end(self, _number: int, _frame: FrameType | None) -> None:
        self.ends = True

    def start(self) -> None:
        """PostgreSQL as a child that does not outlive this process."""
        folder = cluster_folder()
        command = [
            str(binaries() / "postgres"),
            "-D",
            str(folder),
            "-p",
            str(load_config()["database"]["port"]),
        ]
        with (folder / "start.log").open("w") as out:
            self.server = subprocess.Popen(
                command, cwd="/", env={"PATH": "/usr/bin:/bin", "LC_ALL": "C.UTF-8"}, stdin=subprocess.DEVNULL,
                stdout=out, stderr=out, start_new_session=True, preexec_fn=die_with_parent(FAST), **account(),
            )  # fmt: skip
        self.since = time.monotonic()

    def look(self) -> None:
        """Start it again where it died, later each time."""
        now = time.monotonic()
        if self.server is not None and self.server.poll() is not None:
            self.server = None
            self.died = 0 if now - self.since > STEADY_S else self.died + 1
            self.again_at = now + WAITS_S[min(self.died, len(WAITS_S) - 1)]
            print("unkett: the database ended; it is started again", file=sys.stderr, flush=True)
        if self.server is None and now >= self.again_at:
            self.start()

    def stop(self) -> None:
        if self.server is not None and self.server.poll() is None:
            self.server.send_signal(FAST)
            try:
                self.server.wait(30)
            except subprocess.TimeoutExpired:
                self.server.send_signal(signal.SIGQUIT)  # at once; it recovers at the next start
                self.server.wait(10)


def _held(lock: IO[str]) -> bool:
    """Hold the keeper's lock; return whether no other keeper has it. Who looks for a keeper holds it for a moment."""
    until = time.monotonic() + TRIES_S
    while True:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if time.monotonic() > until:
                return False
            time.sleep(0.02)
        else:
            return True


def main() -> int:
    """Keep the database up until nobody uses the cluster or it is asked to end. Exit 1 where another keeper runs."""
    with (
        (state_folder() / "cluster.lock").open("a+") as used,
        (state_folder() / "keeper.lock").open(
            "a+"
        ) as mine,  # let go first: who waits for `used` sees no keeper then
    ):
        if not _held(mine):
            return 1
        mine.truncate(0)
        mine.write(f"{os.getpid()}\n")
        mine.flush()
        keeper = _Keeper()
        for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(number, keeper.end)
        try:
            while not keeper.ends:
                keeper.look()
                time.sleep(LOOK_S)
                try:
                    fcntl.flock(used, fcntl.LOCK_EX | fcntl.LOCK_NB)
                except BlockingIOError:
                    continue
                break  # nobody uses it: held until it is down, so that who comes now waits
        finally:
            keeper.stop()
    return 0


if __name__ == "__main__":
    sys.exit(main())
