"""`do_tasks`: the background process. It waits to be reported of work and writes nothing while there is none."""

import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from unkett.web.tasks.services import CHANNEL, begin_again, do_next, keep_up
from unkett.web.tasks.sweeping import sweep

DAY_SECONDS = 86_400.0
LOOK_SECONDS = 60.0  # looked at least so often, should a notice be lost


class Command(BaseCommand):
    help = "Do the work that is asked for in the table of tasks, one piece after another, until it is ended."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--once", action="store_true", help="do what is waiting, then end")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["once"]:
            while do_next():
                pass
            return
        begin_again()
        swept = -DAY_SECONDS
        with connection.cursor() as cursor:
            cursor.execute(f"LISTEN {CHANNEL}")
        while True:
            while do_next() or keep_up():
                pass
            if time.monotonic() - swept >= DAY_SECONDS:
                sweep()
                swept = time.monotonic()
            for _notice in connection.connection.notifies(timeout=LOOK_SECONDS, stop_after=1):
                pass
