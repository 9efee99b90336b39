"""Locks of a state folder: one `start` at a time, and who uses the cluster."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from typing import IO

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


def hold_shared(lock: IO[str]) -> bool:
    """Hold the cluster's lock beside others; return whether nobody else held it."""
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        alone = False
    else:
        alone = True
    fcntl.flock(lock, fcntl.LOCK_SH)  # waits for a keeper that is stopping the database
    return alone


def others_hold(lock: IO[str]) -> bool:
    """Return whether somebody holds the lock beside others; a keeper that is stopping the database holds it alone."""
    try:
        fcntl.flock(lock, fcntl.LOCK_SH | fcntl.LOCK_NB)
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return _shared(lock)
    finally:
        fcntl.flock(lock, fcntl.LOCK_UN)
    return False


def _shared(lock: IO[str]) -> bool:
    try:
        fcntl.flock(lock, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True
