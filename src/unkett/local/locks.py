"""Locks of a state folder: one `start` at a time, and whether one runs."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager

from unkett.local.state import SetupError, state_folder


@contextmanager
def only_start() -> Iterator[None]:
    """Hold the lock of the one `start` that a state may have. Raises SetupError naming the process that has it."""
    with (state_folder() / "serve.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.seek(0)
            raise SetupError(
                f"Unkett is started from {state_folder()} already, by process {lock.read().strip() or 'unknown'}"
            ) from None
        lock.truncate(0)
        lock.write(f"{os.getpid()}\n")
        lock.flush()
        yield


def is_serving() -> bool:
    """Return whether a `start` of this state runs."""
    with (state_folder() / "serve.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        return False
