"""`load_demo`: the demonstration workshop, from nothing; `--once` leaves one that is there alone."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from unkett.web.demo.load import is_loaded, load


class Command(BaseCommand):
    help = "Load the demonstration workshop again from nothing (only the demonstration is replaced)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--once", action="store_true", help="do nothing when it is already there")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["once"] and is_loaded():
            return
        workshop = load()
        if not options["verbosity"]:
            return
        self.stdout.write(
            f"Loaded {workshop.name}: {workshop.bikes.count()} bikes, {workshop.catalogue.count()} parts."
        )
