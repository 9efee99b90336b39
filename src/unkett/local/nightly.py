"""The nightly backup of what is served: made beside the serving, tried again where it failed, seen in `/health/`."""

from __future__ import annotations

import datetime
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs
import psycopg

from unkett.local.backup import back_up, rotate
from unkett.local.state import SetupError, backup_status, backup_status_path, write_whole

NIGHT_HOUR = 3
TRY_AGAIN_S = 15 * 60.0


def _now() -> datetime.datetime:
    return datetime.datetime.now().astimezone()


@attrs.define
class NightlyBackup:
    """A backup each night, in a thread of its own: a slow or failing one holds nothing else up."""

    folder: Path
    make: Callable[[Path], Any] = back_up
    now: Callable[[], datetime.datetime] = _now
    clock: Callable[[], float] = time.monotonic
    running: threading.Thread | None = None
    not_before: float = 0.0

    def __attrs_post_init__(self) -> None:
        made = sorted(self.folder.glob("unkett-????-??-??.tar"))
        last = datetime.datetime.fromtimestamp(made[-1].stat().st_mtime).astimezone() if made else None
        self._tell(last, "")

    def look(self) -> None:
        """Begin tonight's backup where it is due and none is being made."""
        if self.running is not None and self.running.is_alive():
            return
        now = self.now()
        path = self.folder / f"unkett-{now:%Y-%m-%d}.tar"
        if now.hour < NIGHT_HOUR or self.clock() < self.not_before or path.exists():
            return
        self.running = threading.Thread(target=self.back_up, args=[path], daemon=True)
        self.running.start()

    def back_up(self, path: Path) -> None:
        """Make one backup; a failure is reported and tried again later."""
        try:
            self.make(path)
            rotate(self.folder)
        except (SetupError, OSError, psycopg.Error) as error:
            self.not_before = self.clock() + TRY_AGAIN_S
            says = " ".join(str(error).split())
            print(
                f"unkett: the nightly backup failed: {says}; tried again in {TRY_AGAIN_S / 60:g} minutes",
                file=sys.stderr,
                flush=True,
            )
            self._tell(None, says or type(error).__name__)
        else:
            print(f"unkett: backed up to {path}", flush=True)
            self._tell(self.now(), "")

    def _tell(self, good: datetime.datetime | None, failed: str) -> None:
        known = backup_status() or {}
        last = good.isoformat(timespec="seconds") if good else known.get("last_good")
        write_whole(backup_status_path(), {"last_good": last, "failed": failed})
