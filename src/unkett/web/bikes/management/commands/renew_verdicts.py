"""`renew_verdicts`: after an upgrade, classes of catalogue parts and verdicts of bikes by the rules as they are now."""

from typing import Any

from django.core.management.base import BaseCommand

from unkett.web.bikes.judging import judge_stale
from unkett.web.catalogue.services import renew_classes
from unkett.web.workshop.models import Workshop


class Command(BaseCommand):
    help = "Make fit classes and verdicts again where the rules are not those they were made by."

    def handle(self, *args: Any, **options: Any) -> None:
        for workshop in Workshop.objects.all():
            if renew_classes(workshop):
                self.stdout.write(f"Renewed the fit classes of {workshop.name}.")
            judge_stale(workshop, most=None)
