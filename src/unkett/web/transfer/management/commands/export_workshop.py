"""`export_workshop`: one workshop as open files in a ZIP: tables as CSV, bikes as build files, the log."""

import json
import re
import zipfile
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from unkett.core.settings import Settings
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.bikes.queries import current_bike_of, file_of
from unkett.web.plans.links import OnLooker
from unkett.web.show.spreadsheets import to_csv
from unkett.web.transfer.datasets import SHEETS
from unkett.web.workshop.models import LogEntry, Workshop
from unkett.web.workshop.security import note

PLAIN = re.compile(r"[^A-Za-z0-9]+")


def _workshop(name: str) -> Workshop:
    found = list(Workshop.objects.filter(name=name) if name else Workshop.objects.filter(demo=False))
    if len(found) != 1:
        there = ", ".join(Workshop.objects.order_by("pk").values_list("name", flat=True)) or "none"
        raise CommandError(f"which workshop? There are: {there}")
    return found[0]


class Command(BaseCommand):
    help = "Write everything of one workshop as open files into a ZIP."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file")
        parser.add_argument(
            "workshop", nargs="?", default="", help="its name; the only one that is set up where left out"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        workshop, path = _workshop(options["workshop"]), Path(options["file"])
        reader: Any = OnLooker(workshop=workshop)
        fresh = path.with_name(f"{path.name}.new")
        try:
            with zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED) as out:
                for code, sheet in SHEETS.items():
                    out.writestr(f"tables/{code}.csv", to_csv(sheet.rows(reader)))
                out.writestr("log.csv", to_csv(_log(workshop)))
                number = 0
                for bike in bikes_seen_by(reader).select_related("customer").order_by("pk").iterator(200):
                    number += 1
                    build = file_of(current_bike_of(bike, Settings.of(workshop.settings)))
                    name = PLAIN.sub("-", bike.name).strip("-").lower()[:40]
                    out.writestr(
                        f"bikes/{bike.pk}-{name}.json", json.dumps(build, indent=1, ensure_ascii=False)
                    )
            fresh.chmod(0o600)
            fresh.replace(path)
        except OSError as error:
            fresh.unlink(missing_ok=True)
            raise CommandError(f"{path}: cannot be written ({error.strerror})") from error
        note("workshop taken out", None, name=workshop.name)
        self.stdout.write(f"{number} bikes and {len(SHEETS)} tables of {workshop.name} in {path}")


def _log(workshop: Workshop) -> Any:
    yield ["at", "who", "did", "about", "name", "before", "after"]
    lines = LogEntry.objects.filter(workshop=workshop).select_related("actor").order_by("pk")
    for line in lines.iterator():
        words = [
            json.dumps(value, ensure_ascii=False) if value is not None else ""
            for value in (line.before, line.after)
        ]
        who = line.actor.username if line.actor else ""
        yield [line.at.isoformat(timespec="seconds"), who, line.verb, line.about, line.about_name, *words]
