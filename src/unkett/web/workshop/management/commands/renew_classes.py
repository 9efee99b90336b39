"""`renew_classes`: after an upgrade, put catalogue parts into classes by what the rules now read."""

from typing import Any

from django.core.management.base import BaseCommand

from unkett.web.catalogue.services import renew_classes
from unkett.web.workshop.models import Workshop


class Command(BaseCommand):
    help = "Make the catalogue's fit classes again where the rules read other attributes than before."

    def handle(self, *args: Any, **options: Any) -> None:
        for workshop in Workshop.objects.all():
            if renew_classes(workshop):
                self.stdout.write(f"Renewed the fit classes of {workshop.name}.")
