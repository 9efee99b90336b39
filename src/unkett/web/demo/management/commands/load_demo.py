"""`load_demo`: the demonstration workshop, from nothing; `--once` leaves one that is there alone."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from unkett.web.demo.load import is_loaded, load, worked_in
from unkett.web.workshop.models import User


class Command(BaseCommand):
    help = "Load the demonstration workshop again from nothing (only the demonstration is replaced)."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--once", action="store_true", help="do nothing when it is already there")
        parser.add_argument("--anyway", action="store_true", help="also where somebody has worked in it")

        parser.add_argument(
            "--listen", type=int, metavar="PORT", help="let its people hear the instruments' bridge at a port"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        self._load(**options)
        if options["listen"]:
            User.objects.filter(workshop__demo=True, bridge_port=None).update(bridge_port=options["listen"])

    def _load(self, **options: Any) -> None:
        if options["once"] and is_loaded():
            return
        worked = worked_in()
        if worked and not options["anyway"]:
            raise CommandError(
                f"somebody did {worked} things in the demonstration since it was loaded, and loading it again undoes "
                "them; --anyway does it all the same"
            )
        workshop = load()
        if not options["verbosity"]:
            return
        self.stdout.write(
            f"Loaded {workshop.name}: {workshop.bikes.count()} bikes, {workshop.catalogue.count()} parts."
        )
